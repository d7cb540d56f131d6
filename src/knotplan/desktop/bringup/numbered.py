"""Source to read, with the numbers of its lines."""

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QPlainTextEdit, QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.desktop.lettering import px
from knotplan.desktop.paint import colour


class NumberedText(QPlainTextEdit):
    """Read only; the text cursor goes through it by the keys."""

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.wrong: set[int] = set()
        """lines whose number is marked"""
        self.setObjectName("source")
        self.setReadOnly(True)
        self.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByKeyboard | Qt.TextInteractionFlag.TextSelectableByMouse
        )
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setProperty("kind", "code")
        self.margin = _Margin(self)
        self.blockCountChanged.connect(lambda _: self._make_room())
        self.updateRequest.connect(self._scrolled)
        self._make_room()

    def margin_width(self) -> int:
        """Room for the longest number."""
        return self.fontMetrics().horizontalAdvance("0" * max(3, len(str(self.blockCount())))) + px(16)

    def _make_room(self) -> None:
        self.setViewportMargins(self.margin_width(), 0, 0, 0)

    def _scrolled(self, area: QRect, by: int) -> None:
        if by:
            self.margin.scroll(0, by)
        else:
            self.margin.update(0, area.y(), self.margin.width(), area.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        box = self.contentsRect()
        self.margin.setGeometry(QRect(box.left(), box.top(), self.margin_width(), box.height()))

    def paint_margin(self, painter: QPainter, area: QRect) -> None:
        painter.fillRect(area, colour(self.p.cloth))
        block = self.firstVisibleBlock()
        top = self.blockBoundingGeometry(block).translated(self.contentOffset()).top()
        high = self.fontMetrics().height()
        while block.isValid() and top <= area.bottom():
            number = block.blockNumber() + 1
            wrong = number in self.wrong
            painter.setPen(colour(self.p.stop if wrong else self.p.faint))
            painter.drawText(
                0, int(top), self.margin.width() - px(7), high, Qt.AlignmentFlag.AlignRight, str(number)
            )
            top += self.blockBoundingRect(block).height()
            block = block.next()


class _Margin(QWidget):
    def __init__(self, text: NumberedText):
        super().__init__(text)
        self.text = text

    def sizeHint(self) -> QSize:
        return QSize(self.text.margin_width(), 0)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setFont(self.text.font())
            self.text.paint_margin(painter, event.rect())

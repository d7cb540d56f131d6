"""The views, each answering one question, down the left side."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QVBoxLayout, QWidget

from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Text
from knotplan.desktop.paint import colour, paint
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text
from knotplan.desktop.view import View


class RailButton(QAbstractButton):
    """An icon with its name, and the gravest finding of its view."""

    def __init__(self, view: View, palette: Palette):
        super().__init__()
        self.p, self.view, self.level = palette, view, ""
        self.setCheckable(True)
        self.setAccessibleName(view.title)
        self.setToolTip(tip_text(f"{view.question} ({view.keys})"))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def sizeHint(self) -> QSize:
        return QSize(66, 64)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
            box = QRectF(self.rect()).adjusted(3, 3, -3, -3)
            ink = colour(self.p.active if self.isChecked() else self.p.faint)
            if self.isChecked():
                painter.setPen(QPen(colour(self.p.edge), 1))
                painter.setBrush(colour(self.p.card))
                painter.drawRoundedRect(box, 9, 9)
            if self.hasFocus():
                painter.setPen(QPen(colour(self.p.active), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(box, 9, 9)
            pen = QPen(ink, 2.2)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            middle = QPointF(box.center().x(), box.top() + 22)
            path = QPainterPath()
            self.view.icon(path, middle.x(), middle.y())
            painter.drawPath(path)
            weight = self.isChecked()
            paint(
                painter,
                [Text(box.center().x(), box.bottom() - 9, self.view.title, 11, ink.name(), weight, "middle")],
            )
            if self.level:
                paint(painter, severity(box.right() - 9, box.top() + 10, self.level, self.p, 7))


class Rail(QWidget):
    """The buttons; the window connects them."""

    def __init__(self, session: Session, palette: Palette, views: tuple[View, ...]):
        super().__init__()
        self.session = session
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(74)
        down = QVBoxLayout(self)
        down.setContentsMargins(4, 8, 4, 8)
        self.group = QButtonGroup(self)
        self.buttons = [RailButton(view, palette) for view in views]
        for k, made in enumerate(self.buttons):
            self.group.addButton(made, k)
            down.addWidget(made, 0, Qt.AlignmentFlag.AlignHCenter)
        down.addStretch(1)
        self.buttons[0].setChecked(True)
        session.changed.connect(self.refresh)

    def set_palette(self, palette: Palette) -> None:
        for made in self.buttons:
            made.p = palette
            made.update()

    def refresh(self) -> None:
        levels = [f.severity for f in self.session.report.findings]
        level = levels[0] if levels else ""
        if level != self.buttons[0].level:
            self.buttons[0].level = level
            self.buttons[0].update()

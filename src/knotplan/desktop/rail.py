"""The views, each answering one question, down the left side."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QSizePolicy, QVBoxLayout, QWidget

from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Text
from knotplan.desktop import lettering
from knotplan.desktop.lettering import paint, px
from knotplan.desktop.paint import colour
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text
from knotplan.desktop.view import View

LOWEST, NAME = 50, 14
"""height of a button in a low window, and of the name in it, pixels at usual letters"""


class RailButton(QAbstractButton):
    """An icon with its name, and the gravest finding of its view."""

    def __init__(self, view: View, palette: Palette):
        super().__init__()
        self.p, self.view, self.level = palette, view, ""
        self.share = 0.0
        """how much of it is done, where it is something to do"""
        self.setCheckable(True)
        self.setAccessibleName(view.title)
        self.setToolTip(tip_text(f"{view.question} ({view.keys})"))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)

    def sizeHint(self) -> QSize:
        return QSize(px(66), px(64))

    def minimumSizeHint(self) -> QSize:
        return QSize(px(66), px(LOWEST))

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            lettering.begin(painter)
            by = lettering.scale()
            box = QRectF(0, 0, self.width() / by, self.height() / by).adjusted(3, 3, -3, -3)
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
            middle = QPointF(box.center().x(), box.top() + (box.height() - NAME) / 2)
            path = QPainterPath()
            self.view.icon(path, middle.x(), middle.y())
            painter.drawPath(path)
            weight = self.isChecked()
            paint(
                painter,
                [Text(box.center().x(), box.bottom() - 6, self.view.title, 11, ink.name(), weight, "middle")],
            )
            if self.share:
                room = box.width() - 16
                bar = Box(box.left() + 8, box.bottom() - 3.5, room, 3, 1.5, self.p.edge)
                paint(painter, [bar, bar._replace(w=room * self.share, fill=self.p.good)])
            if self.level:
                paint(painter, severity(box.right() - 9, box.top() + 10, self.level, self.p, 7))


class Rail(QWidget):
    """The buttons; the window connects them."""

    def __init__(self, session: Session, palette: Palette, views: tuple[View, ...]):
        super().__init__()
        self.session = session
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        lettering.fix(self, width=74)
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

    def _show_share(self, made: RailButton) -> None:
        """How far the bench is, in the icon of its view."""
        share = 0.0
        if self.session.plan.wired:
            from knotplan.core.wiring.state import share_done, state_of

            share = share_done(state_of(self.session.circuit))
        if share != made.share:
            made.share = share
            made.setAccessibleDescription(f"{share:.0%} done" if share else "")
            made.update()

    def refresh(self) -> None:
        for made in self.buttons:
            if made.view.id == "wire":
                self._show_share(made)
        levels = [f.severity for f in self.session.report.findings]
        level = levels[0] if levels else ""
        if level != self.buttons[0].level:
            self.buttons[0].level = level
            self.buttons[0].update()

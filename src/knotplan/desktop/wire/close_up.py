"""Paints the place of a step: the hole on the board as it lies, or the part's own contacts."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.close_up import close_up
from knotplan.core.drawing.palette import Palette
from knotplan.core.wiring.steps import Step
from knotplan.desktop import lettering
from knotplan.desktop.lettering import px
from knotplan.desktop.paint import colour, fit_into, paint


class CloseUp(QWidget):
    """As large as it goes."""

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.circuit: Circuit | None = None
        self.step: Step | None = None
        self.harm: tuple[str, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(px(90))
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def sizeHint(self) -> QSize:
        return QSize(px(480), px(340))

    def show_step(self, circuit: Circuit, step: Step | None, harm: tuple[str, ...] = ()) -> None:
        self.circuit, self.step, self.harm = circuit, step, harm
        self.setAccessibleName(f"Close-up: {step.where.words}" if step and step.where else "Close-up")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), colour(self.p.cloth))
            if self.step is None or self.circuit is None or not (self.step.to or self.step.lead):
                return
            by = lettering.scale()
            room = (max(1.0, self.width() / by), max(1.0, self.height() / by))
            picture = close_up(self.circuit, self.step, self.harm, room, self.p)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setClipRect(self.rect())
            fit_into(painter, picture, QRectF(self.rect()))
            paint(painter, picture.shapes)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        event.ignore()

"""Steps of brightness as they will look: one block each, as bright as the eye will see it."""

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.core.timing.lightness import lightness
from knotplan.desktop import lettering
from knotplan.desktop.paint import colour


class StepsPreview(QWidget):
    """Blocks above, the same steps as duty below them: what is even to the eye is not even in time."""

    def __init__(self, palette: Palette, counts: tuple[int, ...]):
        super().__init__()
        self.p, self.counts = palette, counts
        self.setAccessibleName("Steps of brightness")
        self.setAccessibleDescription(", ".join(f"{lightness(n / counts[-1]):.0f}" for n in counts))
        self.setToolTip("How bright each step looks, and below for how much of the time the light is on")
        lettering.fix(self, height=64)

    def sizeHint(self) -> QSize:
        return QSize(240, 64)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            wide = self.width() / len(self.counts)
            most = self.counts[-1]
            for k, n in enumerate(self.counts):
                seen = lightness(n / most) / 100
                # a grey of the screen is meant to look as bright as its value says: sRGB is near to lightness
                painter.fillRect(
                    QRectF(k * wide, 0, wide + 0.6, 30), QColor.fromRgbF(seen, seen * 0.96, seen * 0.86)
                )
                tall = 28 * n / most
                painter.fillRect(
                    QRectF(k * wide + 1, 62 - tall, max(1.0, wide - 2), tall), colour(self.p.active)
                )
            painter.setPen(QPen(colour(self.p.edge), 1))
            painter.drawRect(QRectF(0.5, 0.5, self.width() - 1, 29))
            painter.drawLine(0, 62, self.width(), 62)

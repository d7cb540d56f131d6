"""A controller, a UART or a single line as a picture."""

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Picture, Text
from knotplan.desktop.paint import colour, fit_into, paint

LEAST_SCALE = 0.8


class Canvas(QWidget):
    """Fits the picture into the width, and scrolls where it would become too small to read."""

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.picture: Picture | None = None
        self.setAccessibleName("Picture of the bus")

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
            painter.fillRect(self.rect(), colour(self.p.cloth))
            if self.picture is not None:
                scale = min(self.width() / self.picture.w, 1.25)
                fit_into(painter, self.picture, QRectF(0, 0, self.picture.w * scale, self.picture.h * scale))
                paint(painter, self.picture.shapes)


class PicturePage(QScrollArea):
    def __init__(self, palette: Palette):
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.canvas = Canvas(palette)
        self.setWidget(self.canvas)

    def show_picture(self, picture: Picture) -> None:
        self.canvas.picture = picture
        self.canvas.setMinimumSize(int(picture.w * LEAST_SCALE), int(picture.h * LEAST_SCALE))
        words = [s.text for s in picture.shapes if isinstance(s, Text)]
        self.canvas.setAccessibleDescription(", ".join(words))
        self.canvas.update()

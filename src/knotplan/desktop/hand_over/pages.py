"""Pages as they will look: only those in view are painted, and laid out when somebody comes to them."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, QSizeF, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from knotplan.core.drawing.shapes import Picture
from knotplan.desktop.paint import colour, fit_into, paint
from knotplan.desktop.paper import PAGE, Sheet

GAP = 14
MOST_KEPT = 8
"""images of pages that are kept"""
HIGHEST = 16_000_000
"""pixels that a widget may be high: the toolkit's own limit is a little more"""


class Pages:
    """What is shown: so many pages of one size."""

    size: QSizeF = PAGE
    count: int = 1

    def paint(self, painter: QPainter, number: int) -> None:
        """One page, in points."""

    def lay_out_more(self) -> bool:
        """Lays out some more; whether there was something to do."""
        return False


class PicturePages(Pages):
    """A picture on a page of its own size."""

    def __init__(self, picture: Picture):
        self.size, self._picture = QSizeF(picture.w, picture.h), picture

    def paint(self, painter: QPainter, number: int) -> None:
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        painter.fillRect(QRectF(0, 0, self.size.width(), self.size.height()), colour(self._picture.ground))
        fit_into(painter, self._picture, QRectF(0, 0, self.size.width(), self.size.height()))
        paint(painter, self._picture.shapes)


class SheetPages(Pages):
    """The wiring sheet."""

    def __init__(self, make: Callable[[], Sheet]):
        self._sheet = make()
        self._sheet.lay_out_more()

    @property
    def count(self) -> int:  # type: ignore[override]  # it grows
        return self._sheet.pages

    def paint(self, painter: QPainter, number: int) -> None:
        self._sheet.paint_page(painter, number)

    def lay_out_more(self) -> bool:
        if self._sheet.whole:
            return False
        self._sheet.lay_out_more()
        return True


class PagesCanvas(QWidget):
    """Pages one below another, as wide as there is room."""

    def __init__(self) -> None:
        super().__init__()
        self._pages: Pages | None = None
        self._images: dict[int, QPixmap] = {}
        self._more = QTimer(self, singleShot=True, interval=0)
        self._more.timeout.connect(self._lay_out)
        self.setAccessibleName("The file as it will look")

    def show_pages(self, pages: Pages | None) -> None:
        self._pages = pages
        self._images.clear()
        self._measure()
        self._more.start()
        self.update()

    @property
    def painted(self) -> int:
        """How many pages are kept as images."""
        return len(self._images)

    def _high(self) -> float:
        """Of one page, in pixels."""
        assert self._pages is not None
        return self._pages.size.height() * self.width() / self._pages.size.width()

    def _measure(self) -> None:
        if self._pages is not None and self.width() > 0:
            self.setFixedHeight(min(HIGHEST, round(self._pages.count * (self._high() + GAP))))

    def _lay_out(self) -> None:
        """A little at a time, so that the window goes on."""
        if self._pages is not None and self.isVisible() and self._pages.lay_out_more():
            self._images = {n: image for n, image in self._images.items() if n < self._pages.count - 2}
            self._measure()
            self._more.start()
        else:
            self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        if event.size().width() != event.oldSize().width():
            self._images.clear()
            self._measure()

    def showEvent(self, event: QShowEvent) -> None:
        self._more.start()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._pages is None:
            return
        step = self._high() + GAP
        first, last = int(event.rect().top() // step), int(event.rect().bottom() // step)
        with QPainter(self) as painter:
            for number in range(max(0, first), min(last, self._pages.count - 1) + 1):
                painter.drawPixmap(0, round(number * step), self._image(number))
                painter.setPen(QPen(QColor(0, 0, 0, 60), 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(0, round(number * step), self.width() - 1, round(self._high()) - 1)

    def _image(self, number: int) -> QPixmap:
        assert self._pages is not None
        if number not in self._images:
            while len(self._images) >= MOST_KEPT:
                del self._images[next(iter(self._images))]
            ratio = self.devicePixelRatioF()
            image = QPixmap(max(1, round(self.width() * ratio)), max(1, round(self._high() * ratio)))
            image.fill(QColor("#ffffff"))
            scale = self.width() * ratio / self._pages.size.width()
            with QPainter(image) as painter:
                painter.scale(scale, scale)
                self._pages.paint(painter, number)
            image.setDevicePixelRatio(ratio)
            self._images[number] = image
        return self._images[number]


class PagesView(QScrollArea):
    """The canvas with its scroll bar."""

    def __init__(self) -> None:
        super().__init__()
        self.canvas = PagesCanvas()
        self.setWidget(self.canvas)
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_pages(self, pages: Pages | None) -> None:
        self.canvas.show_pages(pages)

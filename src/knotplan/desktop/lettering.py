"""In which letters the interface speaks, and how large: as the desktop says, or as the maker has chosen.

Sizes in our files are pixels at the usual letters (13 px, about 10 pt). `px` says how large they are now, and
`fix` keeps a widget at such a size when the letters change.
"""

import re
from collections.abc import Iterable

from msgspec import Struct
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import (
    QFont,
    QFontDatabase,
    QFontMetricsF,
    QGuiApplication,
    QHelpEvent,
    QMouseEvent,
    QPainter,
)
from PySide6.QtWidgets import QApplication, QWidget

from knotplan.core.drawing import shapes as plain
from knotplan.core.drawing.shapes import Shape
from knotplan.desktop import paint as brush

USUAL_PX = 13
LEAST_PT, MOST_PT = 9.0, 18.0
"""between these the layout holds; what the desktop says is brought between them"""
UNSAID = ("Sans Serif", 9.0)
"""what the toolkit answers where no desktop says anything"""
PT_PER_INCH = 72.0


class Letters(Struct, frozen=True):
    """A family, and the size of usual text in pixels."""

    family: str = brush.FAMILY
    px: int = USUAL_PX


_now: list[Letters] = [Letters()]


def letters() -> Letters:
    """Those that the interface has."""
    return _now[0]


def scale() -> float:
    """How many times as large as usual the letters are."""
    return _now[0].px / USUAL_PX


def px(size: float) -> int:
    """A size at usual letters as it is now, in pixels."""
    return round(size * scale())


def beside(size: float, view: int, most: float = 1 / 3) -> int:
    """The width of a panel beside what a view is for, in pixels: at most a share of the view, which keeps the
    rest for itself however large the letters are."""
    return min(px(size), int(view * most))


def _dots() -> float:
    """Of the screen, per inch."""
    screen = QGuiApplication.primaryScreen()
    return screen.logicalDotsPerInch() if screen else 96.0


def of_points(points: float, family: str = brush.FAMILY) -> Letters:
    """Letters of a size in points on this screen."""
    held = min(max(points, LEAST_PT), MOST_PT)
    return Letters(family, round(held * _dots() / PT_PER_INCH))


def of_desktop() -> Letters:
    """What the desktop says; our own letters where it says nothing."""
    said = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont)
    if (said.family(), said.pointSizeF()) == UNSAID:
        return Letters()
    points = said.pointSizeF() if said.pointSizeF() > 0 else said.pixelSize() * PT_PER_INCH / _dots()
    return of_points(points, said.family())


def chosen(choice: str) -> Letters:
    """The letters of a setting: "system", or a size in points with our own letters."""
    return of_points(float(choice)) if choice in SIZES else of_desktop()


SIZES = ("9", "10", "11", "12", "14", "16", "18")


def take(new: Letters) -> None:
    """Gives the whole application these letters; sizes that were fixed follow."""
    _now[0] = new
    font = QFont(brush.interface_font(new.px))
    if new.family != brush.FAMILY:
        font.setFamily(new.family)
    QApplication.setFont(font)
    for widget in QApplication.allWidgets():
        if widget.property(KEPT):
            _refit(widget)


# --- sizes that follow ------------------------------------------------------------------------------

KEPT = "fixedAtUsual"
SIDES = {
    "height": QWidget.setFixedHeight,
    "width": QWidget.setFixedWidth,
    "least_height": QWidget.setMinimumHeight,
    "least_width": QWidget.setMinimumWidth,
    "most_width": QWidget.setMaximumWidth,
}


def fix(widget: QWidget, **sizes: float) -> None:
    """Holds a widget at sizes (of `SIDES`, pixels at usual letters), also when the letters change."""
    widget.setProperty(KEPT, {**(widget.property(KEPT) or {}), **sizes})
    _refit(widget)


def _refit(widget: QWidget) -> None:
    for side, size in widget.property(KEPT).items():
        SIDES[side](widget, px(size))


def in_sheet(sheet: str) -> str:
    """A style sheet with its sizes as large as the letters; lines of 1 and 2 pixels stay."""
    return re.sub(r"\b(\d+)px", lambda m: f"{px(int(m[1])) if int(m[1]) > 2 else m[1]}px", sheet)


# --- painting ---------------------------------------------------------------------------------------


def begin(painter: QPainter) -> None:
    """From now on the painter takes pixels at usual letters."""
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
    painter.scale(scale(), scale())


def paint(painter: QPainter, shapes: Iterable[Shape]) -> None:
    """Shapes of the interface, in its letters."""
    brush.paint(painter, shapes, family=letters().family)


def place(event: QMouseEvent | QHelpEvent) -> QPointF:
    """Where something happened, in pixels at usual letters."""
    at = event.position() if isinstance(event, QMouseEvent) else QPointF(event.pos())
    return at / scale()


def text_width(text: str, size: float, bold: bool = False) -> float:
    """How wide a line is in the interface's letters, at a size in pixels at usual letters."""
    if letters().family == brush.FAMILY:
        return plain.text_width(text, size, bold)
    return _metrics(size, bold).horizontalAdvance(text) / brush.TENFOLD


def shortened(text: str, size: float, room: float, bold: bool = False) -> str:
    """The text, with an ellipsis where it does not fit."""
    if letters().family == brush.FAMILY:
        return plain.shortened(text, size, room, bold)
    return _metrics(size, bold).elidedText(text, Qt.TextElideMode.ElideRight, room * brush.TENFOLD)


def _metrics(size: float, bold: bool) -> QFontMetricsF:
    return brush.metrics(size, bold, letters().family)

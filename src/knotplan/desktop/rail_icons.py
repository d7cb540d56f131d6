"""The views' icons as paths, each about thirty pixels wide around a middle."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath

Drawn = Callable[[QPainterPath, float, float], None]


def _loom(path: QPainterPath, x: float, y: float) -> None:
    for a, b in ((-8, 8), (0, 0), (8, -8)):
        path.moveTo(x - 13, y + a)
        path.cubicTo(x - 3, y + a, x + 3, y + b, x + 13, y + b)


def _pins(path: QPainterPath, x: float, y: float) -> None:
    for k in range(3):
        for side in (-5, 5):
            path.addEllipse(QPointF(x + side, y - 8 + 8 * k), 2.6, 2.6)
    path.addRoundedRect(QRectF(x - 11, y - 13, 22, 26), 3, 3)


def _power(path: QPainterPath, x: float, y: float) -> None:
    path.moveTo(x - 12, y)
    path.lineTo(x - 4, y)
    for end in (-8, 0, 8):
        path.moveTo(x - 4, y)
        path.cubicTo(x + 1, y, x + 1, y + end, x + 6, y + end)
        path.addEllipse(QPointF(x + 9, y + end), 2.6, 2.6)
    path.addRoundedRect(QRectF(x - 15, y - 4, 8, 8), 1.5, 1.5)


def _buses(path: QPainterPath, x: float, y: float) -> None:
    for k, drop in enumerate((-1, 1, -1, 1)):
        across = x - 10.5 + 7 * k
        path.moveTo(across, y - 3 if drop < 0 else y + 3)
        path.lineTo(across, y + 9 * drop)
        path.addEllipse(QPointF(across, y + 11.5 * drop), 2.2, 2.2)
    for line in (-3, 3):
        path.moveTo(x - 14, y + line)
        path.lineTo(x + 14, y + line)


def _timing(path: QPainterPath, x: float, y: float) -> None:
    path.moveTo(x - 14, y + 7)
    for edge, width in ((-9, 6), (2, 3), (9, 2)):
        path.lineTo(x + edge, y + 7)
        path.lineTo(x + edge, y - 8)
        path.lineTo(x + edge + width, y - 8)
        path.lineTo(x + edge + width, y + 7)
    path.lineTo(x + 14, y + 7)


def _sheet(path: QPainterPath, x: float, y: float) -> None:
    path.addRoundedRect(QRectF(x - 9, y - 11, 18, 22), 2, 2)
    for k in range(3):
        path.moveTo(x - 4, y - 5 + 5 * k)
        path.lineTo(x + 4, y - 5 + 5 * k)


ICONS: dict[str, Drawn] = {
    "Loom": _loom,
    "Pins": _pins,
    "Power": _power,
    "Buses": _buses,
    "Timing": _timing,
    "Hand over": _sheet,
}


def icon(name: str, at: QPointF) -> QPainterPath:
    """The icon of a view."""
    path = QPainterPath()
    ICONS[name](path, at.x(), at.y())
    return path

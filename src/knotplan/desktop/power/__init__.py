"""The Power view: the tree of supplies, what is chosen in it, activities and their plot."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath

from knotplan.desktop.view import Page, View

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk


def _icon(path: QPainterPath, x: float, y: float) -> None:
    path.moveTo(x - 12, y)
    path.lineTo(x - 4, y)
    for end in (-8, 0, 8):
        path.moveTo(x - 4, y)
        path.cubicTo(x + 1, y, x + 1, y + end, x + 6, y + end)
        path.addEllipse(QPointF(x + 9, y + end), 2.6, 2.6)
    path.addRoundedRect(QRectF(x - 15, y - 4, 8, 8), 1.5, 1.5)


def _make(desk: "Desk") -> Page:
    from knotplan.desktop.power.view import PowerView

    return PowerView(desk.session, desk.palette)


VIEW = View(
    "power", "Powe&r", "Ctrl+3", "Will it hold up? Supplies, activities, cords and batteries", _icon, _make
)

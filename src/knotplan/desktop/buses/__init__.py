"""The Buses view: who answers where?"""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath

from knotplan.desktop.view import Page, View

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk


def _icon(path: QPainterPath, x: float, y: float) -> None:
    for k, drop in enumerate((-1, 1, -1, 1)):
        across = x - 10.5 + 7 * k
        path.moveTo(across, y - 3 if drop < 0 else y + 3)
        path.lineTo(across, y + 9 * drop)
        path.addEllipse(QPointF(across, y + 11.5 * drop), 2.2, 2.2)
    for line in (-3, 3):
        path.moveTo(x - 14, y + line)
        path.lineTo(x + 14, y + line)


def _make(desk: "Desk") -> Page:
    from knotplan.desktop.buses.view import BusesView

    return BusesView(desk.session, desk.palette)


VIEW = View(
    "buses", "&Buses", "Ctrl+4", "Who answers where? Addresses, selects, pull-ups, clocks", _icon, _make
)

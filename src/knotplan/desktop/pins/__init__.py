"""The Pins view: what is each pin called, and what can it do?"""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath

from knotplan.desktop.view import Page, View

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk


def _icon(path: QPainterPath, x: float, y: float) -> None:
    for k in range(3):
        for side in (-5, 5):
            path.addEllipse(QPointF(x + side, y - 8 + 8 * k), 2.6, 2.6)
    path.addRoundedRect(QRectF(x - 11, y - 13, 22, 26), 3, 3)


def _make(desk: "Desk") -> Page:
    from knotplan.desktop.pins.view import PinsView

    pins_view = PinsView(desk.session)
    pins_view.pin_wanted.connect(desk.show_pin)
    return pins_view


VIEW = View("pins", "&Pins", "Ctrl+2", "What is each pin called, and what can it do?", _icon, _make)

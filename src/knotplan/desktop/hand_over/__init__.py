"""The Hand over view: what leaves the plan?"""

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainterPath

from knotplan.desktop.view import Page, View

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk


def _icon(path: QPainterPath, x: float, y: float) -> None:
    path.addRoundedRect(QRectF(x - 9, y - 11, 18, 22), 2, 2)
    for k in range(3):
        path.moveTo(x - 4, y - 5 + 5 * k)
        path.lineTo(x + 4, y - 5 + 5 * k)


def _make(desk: "Desk") -> Page:
    from knotplan.desktop.hand_over.view import HandOver

    return HandOver(desk.session)


VIEW = View("hand-over", "&Hand over", "Ctrl+H", "What leaves the plan?", _icon, _make)

"""The Wire-up view: what do the hands do next, and is what they did right?"""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath

from knotplan.desktop.view import Page, View

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk


def _icon(path: QPainterPath, x: float, y: float) -> None:
    """A cord that goes into the second of three holes."""
    for k in range(3):
        path.addEllipse(QPointF(x - 10 + 10 * k, y + 7), 3.4, 3.4)
    path.moveTo(x, y + 3)
    path.cubicTo(x, y - 6, x + 4, y - 10, x + 14, y - 10)


def _make(desk: "Desk") -> Page:
    from knotplan.desktop.wire.view import WireView

    return WireView(desk.session, desk.palette)


VIEW = View("wire", "&Wire up", "Ctrl+6", "What do the hands do next? Cords, holes, checks", _icon, _make)

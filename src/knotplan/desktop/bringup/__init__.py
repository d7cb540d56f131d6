"""The Bring-up view: is the bench what was planned?"""

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath

from knotplan.desktop.view import Page, View

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk


def _icon(path: QPainterPath, x: float, y: float) -> None:
    """Two lines, one over the other: alike at first, then not."""
    path.moveTo(x - 14, y + 3)
    for across, down in ((-9, 3), (-9, -9), (-2, -9), (-2, 3), (6, 3), (6, -9), (14, -9)):
        path.lineTo(x + across, y + down)
    path.moveTo(x - 14, y + 11)
    for across, down in ((-2, 11), (-2, 5), (14, 5)):
        path.lineTo(x + across, y + down)
    path.addEllipse(QPointF(x + 10, y - 2), 1.2, 1.2)


def _make(desk: "Desk") -> Page:
    from knotplan.desktop.bringup.view import BringUpView

    return BringUpView(desk.session, desk.palette, desk.show_view, desk.page)


VIEW = View(
    "bringup",
    "Br&ing up",
    "Ctrl+7",
    "Is the bench what was planned? Scans, lines, waveforms, the program",
    _icon,
    _make,
)

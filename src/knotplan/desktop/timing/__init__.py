"""The Timing view: what does each pin do, and when?"""

from typing import TYPE_CHECKING

from PySide6.QtGui import QPainterPath

from knotplan.desktop.view import Page, View

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk


def _icon(path: QPainterPath, x: float, y: float) -> None:
    path.moveTo(x - 14, y + 7)
    for edge, width in ((-9, 6), (2, 3), (9, 2)):
        path.lineTo(x + edge, y + 7)
        path.lineTo(x + edge, y - 8)
        path.lineTo(x + edge + width, y - 8)
        path.lineTo(x + edge + width, y + 7)
    path.lineTo(x + 14, y + 7)


def _make(desk: "Desk") -> Page:
    from knotplan.desktop.timing.view import TimingView

    return TimingView(desk.session, desk.palette)


VIEW = View(
    "timing",
    "&Timing",
    "Ctrl+5",
    "What does each pin do, and when? Pulses, steps, frames, brightness",
    _icon,
    _make,
)

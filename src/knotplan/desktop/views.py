"""The views, in the order of the rail: a new one is a folder, and a line here."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QStackedWidget, QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.desktop import bringup, buses, hand_over, loom, pins, power, timing, wire
from knotplan.desktop.view import Page, View

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk

VIEWS: tuple[View, ...] = (
    loom.VIEW,
    power.VIEW,
    pins.VIEW,
    buses.VIEW,
    timing.VIEW,
    wire.VIEW,
    bringup.VIEW,
    hand_over.VIEW,
)


class Views(QStackedWidget):
    """The pages; each is made when it is first looked at. One that needs more room than there is, as
    with very large letters, is scrolled, so that nothing of it is cut off."""

    def __init__(self, bench: Page):
        super().__init__()
        self._made: dict[str, Page] = {VIEWS[0].id: bench}
        self._holders: dict[str, QWidget] = {VIEWS[0].id: bench}
        self._makers: dict[str, Callable[[], Page]] = {}
        self.addWidget(bench)

    def begin(self, desk: "Desk") -> None:
        """From now on pages can be made."""
        self._makers = {view.id: partial(view.make, desk) for view in VIEWS if view.make is not None}

    def page(self, view_id: str) -> Any:
        """The page of a view, of the view's own class; raises KeyError before `begin`, but for the bench."""
        if view_id not in self._made:
            self._made[view_id] = page = self._makers[view_id]()
            self._holders[view_id] = holder = QScrollArea()
            holder.setFrameShape(QScrollArea.Shape.NoFrame)
            holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            holder.setWidgetResizable(True)
            holder.setWidget(page)
            self.addWidget(holder)
        return self._made[view_id]

    def shown(self) -> Page:
        """The page that is looked at."""
        now = self.currentWidget()
        return next((self._made[v] for v, holder in self._holders.items() if holder is now))

    def show_view(self, view_id: str) -> None:
        self.page(view_id)
        self.setCurrentWidget(self._holders[view_id])

    def set_palette(self, palette: Palette) -> None:
        for page in self._made.values():
            page.set_palette(palette)

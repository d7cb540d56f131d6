"""What an action may use: the plan's session, its document, and the places of the window, each by itself."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtWidgets import QMenuBar, QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.core.plan.document import split
from knotplan.desktop import theme
from knotplan.desktop.budget_bar import BudgetBar
from knotplan.desktop.documents import Documents
from knotplan.desktop.loom.lens_bar import LensBar
from knotplan.desktop.loom.view import LoomView
from knotplan.desktop.rail import Rail
from knotplan.desktop.search import SearchField
from knotplan.desktop.session import Session
from knotplan.desktop.settings import Settings
from knotplan.desktop.side_panel import SidePanel
from knotplan.desktop.view import Page


@dataclass(frozen=True, eq=False)
class Desk:
    """Made once for a window, right after its first paint."""

    session: Session
    settings: Settings
    documents: Documents
    parent: QWidget
    """dialogs stand before it"""
    loom: LoomView
    side: SidePanel
    search: SearchField
    show_view: Callable[[str], None]
    page: Callable[[str], Any]
    """the page of a view"""
    shown: Callable[[], Page]
    """the page that is looked at"""
    lenses: LensBar
    budgets: BudgetBar
    fold_side: Callable[[], None]
    """hides the right side, or shows it again"""
    show_side: Callable[[], None]
    set_look: Callable[[str], None]
    set_letters: Callable[[str], None]
    guide: Callable[[], None]
    """begins the guide for newcomers, or leaves it"""
    rail: Rail
    menu_bar: QMenuBar
    close: Callable[[], object]

    @property
    def palette(self) -> Palette:
        return theme.palette_for(self.settings.look)

    @property
    def part(self) -> str:
        """The part that is meant: selected itself, or that of the selected lead; or nothing."""
        selection = self.session.selection
        return selection.id if selection.kind == "part" else split(selection.lead)[0]

    @property
    def parts(self) -> tuple[str, ...]:
        """All parts that are meant: those selected, or that of the selected lead."""
        return self.session.selection.parts or ((self.part,) if self.part else ())

    @property
    def tie(self) -> str:
        """The tie that is meant: selected itself, or that of the selected lead or pin; or nothing."""
        selection, circuit = self.session.selection, self.session.circuit
        if selection.kind == "tie":
            return selection.id
        if selection.kind in ("lead", "pin") and circuit.ties.at.get(selection.id):
            return circuit.ties.at[selection.id][0].id
        return ""

    def show_pin(self, contact: str) -> None:
        """A pin on the board, with its card."""
        self.show_view("loom")
        self.session.select("pin", contact)
        self.loom.keep_card(True)

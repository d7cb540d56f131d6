"""The main window: the bench first, everything around it right after the first paint."""

from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QSize, QTimer
from PySide6.QtGui import QCloseEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QMainWindow, QStackedWidget, QWidget

from knotplan.desktop import theme
from knotplan.desktop.budget_bar import BudgetBar
from knotplan.desktop.lens_bar import LensBar
from knotplan.desktop.loom_view import LoomView
from knotplan.desktop.panels.fields import column, column_in
from knotplan.desktop.rail import Rail
from knotplan.desktop.search import SearchField
from knotplan.desktop.session import Session
from knotplan.desktop.settings import Settings
from knotplan.desktop.top_bar import TopBar

if TYPE_CHECKING:
    from knotplan.desktop.buses.view import BusesView
    from knotplan.desktop.hand_over import HandOver
    from knotplan.desktop.pins_view import PinsView
    from knotplan.desktop.power.view import PowerView
    from knotplan.desktop.timing.view import TimingView
    from knotplan.exchange.recovery import Recovery

VIEWS = {
    "loom": ("Loom", "What ties to what? (Ctrl+1)"),
    "power": ("Power", "Will it hold up? (Ctrl+3)"),
    "pins": ("Pins", "What is each pin called, and what can it do? (Ctrl+2)"),
    "buses": ("Buses", "Who answers where? (Ctrl+4)"),
    "timing": ("Timing", "What does each pin do, and when? (Ctrl+5)"),
    "hand-over": ("Hand over", "What leaves the plan? (Ctrl+H)"),
}
SIDE, SIDE_NARROW, NARROW = 330, 306, 1180
"""width of the right side; in windows narrower than the last, the second"""
MENU_TITLES = ("&File", "&Edit", "&Board", "&Part", "&View", "&Go", "&Help")


class MainWindow(QMainWindow):
    """One plan."""

    def __init__(self, session: Session, settings: Settings, recovery: "Recovery | None" = None):
        super().__init__()
        self.session, self.settings, self.recovery = session, settings, recovery
        session.setParent(self)  # its connections, and what they hold, go with the window
        self.palette_now = theme.palette_for(settings.look)
        theme.apply(self.palette_now)
        self.setMinimumSize(QSize(1024, 640))
        self.resize(1280, 800)
        self._compose()
        self._complete = False
        session.changed.connect(self._changed)
        self._retitle()

    # --- composition --------------------------------------------------------------------------

    def _compose(self) -> None:
        """What the first paint shows."""
        s, p = self.session, self.palette_now
        self.menus = [self.menuBar().addMenu(title) for title in MENU_TITLES]
        self.search = SearchField(s, self)
        self.bar = TopBar(s, self.search)
        self.loom = LoomView(s, p)
        self.lenses = LensBar(s, p)
        self.budgets = BudgetBar(s, p)
        self.rail = Rail(s, p, list(VIEWS.values()))
        self._page = QWidget()
        self._across = QHBoxLayout(self._page)
        self._across.setContentsMargins(0, 0, 0, 0)
        self._across.setSpacing(0)
        self._across.addWidget(column(self.lenses, self.loom), 1)
        self._side_place = QWidget()
        self._side_layout = column_in(self._side_place)
        self._side_place.setFixedWidth(SIDE)
        self._across.addWidget(self._side_place)
        self.views = QStackedWidget()
        self.views.addWidget(self._page)
        below = QWidget()
        row = QHBoxLayout(below)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addWidget(column(self.views, self.budgets))
        self.setCentralWidget(column(self.bar, below))
        self.loom.setFocus()

    def complete(self) -> None:
        """Everything else: the right side, the menus, the documents. Called once, after the first paint."""
        if self._complete:
            return
        from knotplan.desktop.actions import Actions
        from knotplan.desktop.commands import Commands
        from knotplan.desktop.documents import Documents
        from knotplan.desktop.side_panel import SidePanel
        from knotplan.desktop.toast import Toast

        s = self.session
        self.side = SidePanel(s, self.palette_now)
        self._side_layout.addWidget(self.side)
        self.toast = Toast(self)
        self.documents = Documents(s, self.settings, self.recovery, self)
        self.commands = Commands(self)
        self.actions_ = Actions(self, self.menus, self.commands.handlers())
        self.commands.fill_submenus()
        self.loom.addAction(self.actions_.by_id["fold"])
        self.search.actions_found = self.actions_.all()
        self.documents.describe_wanted.connect(self.commands.boards.describe)
        s.looked.connect(self.commands.enable)
        s.noticed.connect(self.toast.tell)
        s.values_wanted.connect(self.commands.values)
        s.shown_wanted.connect(lambda: self.show_view("loom"))
        self.rail.group.idClicked.connect(lambda k: self.show_view(list(VIEWS)[k]))
        self.search.pin_wanted.connect(self.commands.show_pin)
        self.search.left.connect(self.loom.setFocus)
        self.loom.menu_wanted.connect(self.commands.context_menu)
        self.loom.rename_wanted.connect(lambda _: self.commands.rename())
        self.loom.typed.connect(self.side.inspector.to_field)
        self.loom.confirmed.connect(self.commands.confirm)
        self.side.inspector.done.connect(self.loom.setFocus)
        self.side.findings.mend_wanted.connect(self.commands.mend)
        self.budgets.chosen.connect(self.side.findings.show_subject)
        self._complete = True
        self._changed()

    @cached_property
    def hand_over(self) -> "HandOver":
        """Made when it is first looked at, as the next one."""
        from knotplan.desktop.hand_over import HandOver

        made = HandOver(self.session)
        self.views.addWidget(made)
        return made

    @cached_property
    def power(self) -> "PowerView":
        from knotplan.desktop.power.view import PowerView

        made = PowerView(self.session, self.palette_now)
        self.views.addWidget(made)
        return made

    @cached_property
    def buses(self) -> "BusesView":
        from knotplan.desktop.buses.view import BusesView

        made = BusesView(self.session, self.palette_now)
        self.views.addWidget(made)
        return made

    @cached_property
    def timing(self) -> "TimingView":
        from knotplan.desktop.timing.view import TimingView

        made = TimingView(self.session, self.palette_now)
        self.views.addWidget(made)
        return made

    @cached_property
    def pins(self) -> "PinsView":
        from knotplan.desktop.pins_view import PinsView

        made = PinsView(self.session)
        made.pin_wanted.connect(self.commands.show_pin)
        self.views.addWidget(made)
        return made

    def show_view(self, name: str) -> None:
        page = self._page
        if name != "loom":
            page = getattr(self, name.replace("-", "_"))
        self.rail.buttons[list(VIEWS).index(name)].setChecked(True)
        self.views.setCurrentWidget(page)

    # --- following the session ------------------------------------------------------------------

    def _retitle(self) -> None:
        mark = " (edited)" if self.session.dirty else ""
        self.setWindowTitle(f"{self.session.plan.title}{mark} – Knot Plan")

    def _changed(self) -> None:
        self._retitle()
        if not self._complete:
            return
        s = self.session
        for name, able, word in (("undo", s.can_undo, s.undo_word), ("redo", s.can_redo, s.redo_word)):
            action = self.actions_.by_id[name]
            action.setEnabled(able)
            action.setText(f"&{name.capitalize()} {word}".strip())
        self.commands.enable()

    def set_look(self, choice: str) -> None:
        """Light, dark, or what the desktop says."""
        self.settings.look = choice
        self.palette_now = theme.palette_for(choice)
        theme.apply(self.palette_now)
        for view in (self.loom, self.side, self.budgets, self.rail, self.lenses):
            view.set_palette(self.palette_now)
        for name in ("power", "buses", "timing"):
            if name in self.__dict__:
                self.__dict__[name].set_palette(self.palette_now)

    # --- the window itself ------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._side_place.setFixedWidth(SIDE if self.width() >= NARROW else SIDE_NARROW)
        if self._complete:
            self.toast.place()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self._complete and self.isActiveWindow():
            QTimer.singleShot(0, self.documents.look_outside)

    # --- when something fails -------------------------------------------------------------------

    def keep_now(self) -> None:
        """Has the work kept aside at once."""
        if self._complete:
            self.documents.keep_aside()
            self.documents.keeper.flush(2.0)

    def draw_anew(self) -> None:
        """Every view from what the session has."""
        self.session.changed.emit()
        self.session.looked.emit()

    def tell_failure(self) -> None:
        """Says plainly that something failed, and where the traces are."""
        from knotplan.desktop.dialogs import ask
        from knotplan.exchange import log

        more = (
            "Your work is as it was before, and is kept aside. What happened is written in\n"
            f"{log.path()}\nThe menu Help, Report a problem gathers what is needed to mend it; nothing is "
            "sent."
        )
        ask(self, "Something went wrong inside Knot Plan.", more, {"on": "Go on"}, "on")

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._complete or self.documents.close():
            event.accept()
        else:
            event.ignore()

"""The main window: the bench first, everything around it right after the first paint."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QSize, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QMainWindow, QSplitter, QWidget

from knotplan.desktop import lettering, theme
from knotplan.desktop.budget_bar import BudgetBar
from knotplan.desktop.loom.lens_bar import LensBar
from knotplan.desktop.loom.view import LoomView
from knotplan.desktop.panels.fields import column, column_in
from knotplan.desktop.rail import Rail
from knotplan.desktop.search import SearchField
from knotplan.desktop.session import Session
from knotplan.desktop.settings import Settings
from knotplan.desktop.top_bar import TopBar
from knotplan.desktop.view import Page
from knotplan.desktop.views import VIEWS, Views

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk
    from knotplan.desktop.guide.guide import Guide
    from knotplan.exchange.recovery import Recovery

SIDE, SIDE_NARROW, NARROW = 306, 264, 1180
"""width of the right side; in windows narrower than the last, the second"""
LEAST, USUAL = QSize(800, 460), QSize(1280, 800)
"""a screen of 1920 by 1080 at twice the size has 960 by 540"""
SIDE_LEAST, SIDE_MOST = 236, 560
MENU_TITLES = ("&File", "&Edit", "&Board", "&Part", "&View", "&Go", "&Help")


class MainWindow(QMainWindow):
    """One plan."""

    def __init__(self, session: Session, settings: Settings, recovery: "Recovery | None" = None):
        super().__init__()
        self.session, self.settings, self.recovery = session, settings, recovery
        session.setParent(self)  # its connections, and what they hold, go with the window
        lettering.take(lettering.chosen(settings.letters))
        self.palette_now = theme.palette_for(settings.look)
        theme.apply(self.palette_now)
        self.setMinimumSize(LEAST)
        self.setAcceptDrops(True)
        self._find_its_place()
        self._compose()
        self._complete = False
        self._guide: Guide | None = None
        session.changed.connect(self._changed)
        theme.when_the_desktop_changes(self._follow_desktop)
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
        self.lenses.legend.lie_over(self.loom)
        self.budgets = BudgetBar(s, p, self.settings.budgets_folded)
        self.rail = Rail(s, p, VIEWS)
        bench = Page()
        self._across = QSplitter()
        self._across.setObjectName("across")
        self._across.setHandleWidth(1)
        self._across.setChildrenCollapsible(False)
        self._across.addWidget(column(self.lenses, self.loom))
        self._side_place = QWidget()
        self._side_layout = column_in(self._side_place)
        self._side_place.setMinimumWidth(SIDE_LEAST)
        self._side_place.setMaximumWidth(SIDE_MOST)
        self._across.addWidget(self._side_place)
        self._across.setStretchFactor(0, 1)
        self._across.setStretchFactor(1, 0)
        self._across.splitterMoved.connect(self._side_moved)
        self._side_place.setVisible(not self.settings.side_folded)
        column_in(bench).addWidget(self._across)
        self.views = Views(bench)
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
        from knotplan.desktop.commands import COMMANDS, board
        from knotplan.desktop.desk import Desk
        from knotplan.desktop.documents import Documents
        from knotplan.desktop.side_panel import SidePanel
        from knotplan.desktop.toast import Toast

        s = self.session
        keys = {name: (command.keys, command.name) for name, command in COMMANDS.items()}
        self.side = SidePanel(s, self.palette_now, keys)
        self._side_layout.addWidget(self.side)
        self.toast = Toast(self)
        self.documents = Documents(s, self.settings, self.recovery, self)
        self.desk = desk = Desk(
            s,
            self.settings,
            self.documents,
            parent=self,
            loom=self.loom,
            side=self.side,
            search=self.search,
            show_view=self.show_view,
            page=self.views.page,
            shown=self.views.shown,
            lenses=self.lenses,
            budgets=self.budgets,
            fold_side=self.fold_side,
            show_side=self.show_side,
            set_look=self.set_look,
            set_letters=self.set_letters,
            guide=self.take_or_leave_guide,
            rail=self.rail,
            menu_bar=self.menuBar(),
            close=self.close,
        )
        self.views.begin(desk)
        self.actions_ = Actions(self, self.menus, desk)
        self.loom.addAction(self.actions_.by_id["fold"])
        self.search.actions_found = self.actions_.all()
        self.documents.kept_aside.connect(self.bar.kept_aside)
        self.documents.describe_wanted.connect(lambda: board.describe(desk))
        self._join(desk)
        self._complete = True
        self._changed()

    def _join(self, desk: "Desk") -> None:
        """What is wanted in one place of the window is done in another."""
        from knotplan.desktop.commands import edit, go

        s = self.session
        s.looked.connect(self.actions_.refresh)
        s.noticed.connect(self.toast.tell)
        s.values_wanted.connect(lambda finder, given: edit.find_value(desk, finder, given))
        s.shown_wanted.connect(lambda: self.show_view("loom"))
        self.rail.group.idClicked.connect(lambda k: self.show_view(VIEWS[k].id))
        self.search.pin_wanted.connect(desk.show_pin)
        self.search.left.connect(self.loom.setFocus)
        self.loom.menu_wanted.connect(self.actions_.context_menu)
        self.loom.rename_wanted.connect(lambda _: edit.rename(desk))
        self.loom.typed.connect(self._name_pin)
        self.loom.confirmed.connect(lambda: go.confirm(desk))
        self.side.inspector.done.connect(self.loom.setFocus)
        self.side.findings.mend_wanted.connect(lambda: edit.mend(desk))
        self.side.findings.left.connect(self.loom.setFocus)
        self.side.findings.to_do.suggest_wanted.connect(s.suggest)
        self.budgets.chosen.connect(self._show_budget)
        self.budgets.folding.connect(self.settings.fold_budgets)

    # --- the guide --------------------------------------------------------------------------------

    @property
    def guide(self) -> "Guide":
        """For newcomers; made when it is first asked for."""
        if self._guide is None:
            from knotplan.desktop.guide.guide import Guide

            self._guide = Guide(self.desk)
        return self._guide

    def take_or_leave_guide(self) -> None:
        if self.guide.runs:
            self.guide.leave()
        else:
            self.guide.begin()
        self.actions_.refresh()

    def greet(self) -> None:
        """Offers the guide to who is here for the first time."""
        if not self.settings.greeted:
            self.settings.greeted = True
            self.guide.offer()

    def show_view(self, view_id: str) -> None:
        self.rail.buttons[[view.id for view in VIEWS].index(view_id)].setChecked(True)
        self.views.show_view(view_id)

    # --- the right side -------------------------------------------------------------------------

    def fold_side(self) -> None:
        """Hides the right side, so that the bench has its room, or shows it again."""
        show = not self._side_place.isVisibleTo(self)
        self._side_place.setVisible(show)
        self.settings.side_folded = not show
        if show:
            self._give_side_its_width()
        else:
            self.loom.setFocus()

    def show_side(self) -> None:
        """Shows the right side, if it is folded."""
        if not self._side_place.isVisibleTo(self):
            self.fold_side()

    def _side_moved(self) -> None:
        self.settings.side_width = self._side_place.width()

    def _give_side_its_width(self) -> None:
        usual = lettering.px(SIDE if self.width() >= lettering.px(NARROW) else SIDE_NARROW)
        wide = max(SIDE_LEAST, min(self.settings.side_width or usual, SIDE_MOST, self.width() // 3))
        self._across.setSizes([max(1, self._across.width() - wide - 1), wide])

    def _name_pin(self, begun: str) -> None:
        """What is typed on the bench begins the name of a pin for the selected lead."""
        self.show_side()
        self.side.inspector.to_field(begun)

    def _show_budget(self, budget: str) -> None:
        self.show_side()
        self.side.findings.show_subject(budget)

    # --- following the session ------------------------------------------------------------------

    def _retitle(self) -> None:
        mark = " (edited)" if self.session.dirty else ""
        self.setWindowTitle(f"{self.session.plan.title}{mark} – Knot Plan")

    def _changed(self) -> None:
        self._retitle()
        if not self._complete:
            return
        self.actions_.refresh()

    def set_look(self, choice: str) -> None:
        """Light, dark, or what the desktop says."""
        self.settings.look = choice
        self.palette_now = theme.palette_for(choice)
        theme.apply(self.palette_now)
        for place in (self.loom, self.side, self.budgets, self.rail, self.lenses, self.views):
            place.set_palette(self.palette_now)

    def set_letters(self, choice: str) -> None:
        """Those of the desktop, or our own in a size."""
        self.settings.letters = choice
        self.take_letters(lettering.chosen(choice))

    def take_letters(self, letters: lettering.Letters) -> None:
        if letters == lettering.letters():
            return
        lettering.take(letters)
        self.set_look(self.settings.look)
        self._give_side_its_width()
        for page in self.findChildren(Page):
            page.suit()
        self.lenses.legend.fit()
        if self._complete:
            self.draw_anew()

    def _follow_desktop(self) -> None:
        """The desktop has other colours or letters, or wants more contrast."""
        if self.settings.look == "system":
            self.set_look("system")
        if self.settings.letters == "system":
            self.take_letters(lettering.of_desktop())

    # --- its place on the screen ------------------------------------------------------------------

    def _find_its_place(self) -> None:
        """Where it was last time; the first time as large as usual, or as the screen allows."""
        if self.settings.place and self.restoreGeometry(self.settings.place):
            return
        room = self.screen().availableGeometry().size()
        self.resize(USUAL.boundedTo(room))

    def remember_place(self) -> None:
        """For the next start."""
        self.settings.place = self.saveGeometry()
        self.settings.last = self.session.path

    # --- files that are dropped ---------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        from knotplan.desktop.commands import dropped

        if self._complete and dropped.paths(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        from knotplan.desktop.commands import dropped

        files = dropped.paths(event.mimeData())
        event.acceptProposedAction()
        # the dragging hand's program waits until this returns: what asks questions comes after it
        QTimer.singleShot(0, lambda: dropped.take(self.desk, files))

    # --- the window itself ------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._give_side_its_width()
        if self._complete:
            self.toast.place()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.ThemeChange:
            self._follow_desktop()
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
            self.remember_place()
            event.accept()
        else:
            event.ignore()

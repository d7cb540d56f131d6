"""The main window: composes the views and joins actions to the session."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, QSize, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMainWindow,
    QMenu,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from knotplan import __version__
from knotplan.core import edits
from knotplan.core.loom.palette import CORDS
from knotplan.core.plan import Plan
from knotplan.desktop import theme
from knotplan.desktop.actions import Actions
from knotplan.desktop.budget_bar import BudgetBar
from knotplan.desktop.dialogs import BoardDialog, ErrorDialog, TextDialog, ask_save
from knotplan.desktop.findings_panel import FindingsPanel
from knotplan.desktop.help import WALK, explanation
from knotplan.desktop.inspector import Inspector
from knotplan.desktop.lens_bar import LensBar
from knotplan.desktop.loom_view import ZOOM_STEP, LoomView
from knotplan.desktop.panels.lead_panel import NEW_BEADS, new_bead
from knotplan.desktop.rail import Rail
from knotplan.desktop.search import SearchField
from knotplan.desktop.session import Session
from knotplan.desktop.settings import Settings
from knotplan.desktop.top_bar import TopBar
from knotplan.examples import example
from knotplan.exchange.plan_file import SUFFIX, PlanFileError, load, save
from knotplan.exchange.recovery import Recovery

VIEWS = [("Loom", "What ties to what? (Ctrl+1)"), ("Hand over", "What leaves the plan? (Ctrl+2)")]
KEEP_AFTER_MS = 1000
"""how long after an edit the work is kept aside"""


class MainWindow(QMainWindow):
    """One plan."""

    def __init__(self, session: Session, settings: Settings, recovery: Recovery | None = None):
        super().__init__()
        self.session, self.settings, self.recovery = session, settings, recovery
        self.palette_now = theme.palette_for(settings.look)
        theme.apply(self.palette_now)
        self.setWindowTitle("Knot Plan")
        self.setMinimumSize(QSize(1024, 640))
        self.resize(1280, 800)
        self.actions_ = Actions(self, self._handlers())
        self._compose()
        self._fill_submenus()
        self._next = -1
        session.changed.connect(self._changed)
        session.looked.connect(self._selection_changed)
        session.noticed.connect(self.tell)
        self._keep = QTimer(self)
        self._keep.setSingleShot(True)
        self._keep.setInterval(KEEP_AFTER_MS)
        self._keep.timeout.connect(self.keep_aside)
        self._changed()

    # --- composition --------------------------------------------------------------------------

    def _compose(self) -> None:
        s, p = self.session, self.palette_now
        self.search = SearchField(s, self.actions_.all(), self)
        self.bar = TopBar(s, self.search)
        self.loom = LoomView(s, p)
        self.lenses = LensBar(s, p)
        self.inspector = Inspector(s, p)
        self.findings = FindingsPanel(s, p)
        self.budgets = BudgetBar(s, p)
        self.rail = Rail(s, p, VIEWS)
        bench = _column(self.lenses, self.loom)
        self.side = QSplitter(Qt.Orientation.Vertical)
        self.side.setObjectName("side")
        self.side.setChildrenCollapsible(False)
        self.side.addWidget(self.inspector)
        self.side.addWidget(self.findings)
        self.side.setSizes([360, 300])
        self.side.setFixedWidth(330)
        self.views = QStackedWidget()
        loom_page = _across(bench, self.side)
        self.views.addWidget(loom_page)
        self._hand_over: QWidget | None = None
        self.setCentralWidget(_column(self.bar, _across(self.rail, _column(self.views, self.budgets))))
        self.toast = QFrame(self)
        self.toast.setObjectName("toast")
        self.toast_text = QLabel()
        self.toast_text.setWordWrap(True)
        self.toast_text.setTextFormat(Qt.TextFormat.PlainText)
        QVBoxLayout(self.toast).addWidget(self.toast_text)
        self.toast.hide()
        self._toast_timer = QTimer(self)
        self._toast_timer.setSingleShot(True)
        self._toast_timer.timeout.connect(self.toast.hide)
        self.rail.group.idClicked.connect(self.show_view)
        self.search.left.connect(self.loom.setFocus)
        self.loom.menu_wanted.connect(self._menu)
        self.loom.rename_wanted.connect(lambda _: self.rename())
        self.loom.typed.connect(self.inspector.to_field)
        self.loom.confirmed.connect(self.confirm)
        self.inspector.done.connect(self.loom.setFocus)
        self.budgets.chosen.connect(self.findings.show_subject)
        self.loom.setFocus()

    @property
    def hand_over(self) -> QWidget:
        """Made when it is first looked at."""
        if self._hand_over is None:
            from knotplan.desktop.hand_over import HandOver

            self._hand_over = HandOver(self.session)
            self.views.addWidget(self._hand_over)
        return self._hand_over

    def _handlers(self) -> dict:  # type: ignore[type-arg]
        s = self.session
        return {
            "new": self.new, "open": self.open, "save": self.save, "save-as": self.save_as, "quit": self.close,
            "demo": lambda: self.show_example("harbour-light"),
            "draft": lambda: self.show_example("harbour-light-draft"),
            "save-one": lambda: self._hand("save_one"), "save-all": lambda: self._hand("save_all"),
            "undo": s.undo, "redo": s.redo, "add": self.add_part, "tie": self.tie_by_name, "delete": self.delete,
            "rename": self.rename, "role": self.name_role,
            "loom": lambda: self.show_view(0), "hand-over": lambda: self.show_view(1),
            "lens-fit": lambda: s.look_through("fit"), "lens-load": lambda: s.look_through("load"),
            "turn": lambda: s.edit("turn the board", edits.turn), "flip": lambda: s.edit("flip the board", edits.flip),
            "zoom-in": lambda: self.loom.zoom(ZOOM_STEP), "zoom-out": lambda: self.loom.zoom(1 / ZOOM_STEP),
            "zoom-fit": lambda: self.loom.fit(), "find": lambda: self.search.setFocus(),
            "next-finding": self.next_finding, "to-loom": lambda: self.loom.setFocus(),
            "to-inspector": self.to_inspector, "explain": self.explain,
            "walk": lambda: TextDialog("A five-minute walk", WALK, self).exec(), "about": self.about,
        }  # fmt: skip

    def _fill_submenus(self) -> None:
        menus = self.actions_.submenus
        for name in CORDS:
            self._entry(menus["colour"], name, partial(self._recolour, name))
        for kind in NEW_BEADS:
            self._entry(menus["bead"], kind.capitalize(), partial(self._add_bead, kind))
        for side, text in (("left", "Left of the board"), ("right", "Right of the board"), ("", "By itself")):
            self._entry(menus["place"], text, partial(self._place, side))
        for choice in ("system", "light", "dark"):
            self._entry(menus["look"], choice.capitalize(), partial(self.set_look, choice))
        menus["recent"].aboutToShow.connect(self._fill_recent)
        menus["names"].aboutToShow.connect(self._fill_names)
        self._fill_recent()
        self._fill_names()

    @staticmethod
    def _entry(menu: QMenu, text: str, do: object) -> QAction:
        action = menu.addAction(text)
        action.triggered.connect(lambda _=False: do())  # type: ignore[operator]
        return action

    def _fill_recent(self) -> None:
        menu = self.actions_.submenus["recent"]
        menu.clear()
        for path in self.settings.recent:
            self._entry(menu, path.name, partial(self.open_path, path)).setToolTip(str(path))
        if menu.isEmpty():
            menu.addAction("nothing yet").setEnabled(False)

    def _fill_names(self) -> None:
        menu = self.actions_.submenus["names"]
        menu.clear()
        for k, (scheme, spec) in enumerate(self.session.circuit.board.schemes.items(), 1):
            made = self._entry(menu, spec.title, partial(self.session.edit, "speak other names", edits.speak, scheme))
            made.setToolTip(spec.note)
            made.setShortcut(f"Alt+{k}")
            made.setCheckable(True)
            made.setChecked(scheme == self.session.circuit.scheme)

    # --- following the session ------------------------------------------------------------------

    def _changed(self) -> None:
        s = self.session
        undo, redo = self.actions_.by_id["undo"], self.actions_.by_id["redo"]
        undo.setEnabled(bool(s.undo_word))
        undo.setText(f"&Undo {s.undo_word}".strip())
        redo.setEnabled(bool(s.redo_word))
        redo.setText(f"&Redo {s.redo_word}".strip())
        mark = " (edited)" if s.dirty else ""
        self.setWindowTitle(f"{s.plan.title}{mark} – Knot Plan")
        self._selection_changed()
        if s.dirty:
            self._keep.start()
        elif self.recovery:
            self._keep.stop()
            self.recovery.drop()

    def _selection_changed(self) -> None:
        kind = self.session.selection.kind
        act = self.actions_.by_id
        act["delete"].setEnabled(bool(kind))
        act["rename"].setEnabled(bool(self._part()))
        act["tie"].setEnabled(bool(self.session.selection.lead))
        act["role"].setEnabled(self._tie() is not None)
        for name in ("colour", "bead"):
            self.actions_.submenus[name].setEnabled(self._tie() is not None)
        self.actions_.submenus["place"].setEnabled(bool(self._part()))

    def keep_aside(self) -> None:
        """Keeps the work where a crash cannot reach it."""
        if self.recovery and self.session.dirty:
            try:
                self.recovery.keep(self.session.plan, self.session.path)
            except OSError as error:
                self.tell(f"The work could not be kept aside: {error.strerror}")

    def tell(self, text: str) -> None:
        """A message in passing, over the bench."""
        self.toast_text.setText(text)
        self.toast.setAccessibleName(text)
        self.toast.setFixedWidth(min(560, 60 + 8 * len(text)))
        self.toast.adjustSize()
        self._place_toast()
        self.toast.show()
        self.toast.raise_()
        self._toast_timer.start(5000 + 40 * len(text))

    def _place_toast(self) -> None:
        at = QPoint((self.width() - self.toast.width()) // 2, self.height() - self.toast.height() - 100)
        self.toast.move(at)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place_toast()
        self.side.setFixedWidth(330 if self.width() >= 1180 else 290)

    # --- documents ------------------------------------------------------------------------------

    def may_leave(self) -> bool:
        """Asks about work that no file holds; false when the maker stays."""
        if not self.session.dirty:
            return True
        answer = ask_save(self.session.plan.title, self)
        return answer == "discard" or (answer == "save" and self.save())

    def new(self) -> None:
        dialog = BoardDialog(self.session.catalog, self)
        if self.may_leave() and dialog.exec() == QDialog.DialogCode.Accepted:
            self.session.replace_document(Plan(dialog.board()), None, saved=False)

    def open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a plan", "", f"Plans (*{SUFFIX} *.json);;All files (*)")
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> bool:
        """Opens a file; when it cannot be read, says everything that is wrong and changes nothing."""
        if not self.may_leave():
            return False
        try:
            plan = load(path, self.session.catalog)
        except (PlanFileError, OSError) as error:
            ErrorDialog(path.name, error, self).exec()
            return False
        self.session.replace_document(plan, path)
        self.settings.opened(path)
        self._fill_recent()
        return True

    def show_example(self, name: str) -> None:
        if self.may_leave():
            self.session.replace_document(example(name, self.session.catalog), None)

    def save(self) -> bool:
        return self.save_to(self.session.path) if self.session.path else self.save_as()

    def save_as(self) -> bool:
        start = str(self.session.path or edits.slug(self.session.plan.title, set()) + SUFFIX)
        name, _ = QFileDialog.getSaveFileName(self, "Save the plan", start, f"Plans (*{SUFFIX})")
        if not name:
            return False
        path = Path(name)
        return self.save_to(path if path.name.endswith(".json") else path.with_name(path.name + SUFFIX))

    def save_to(self, path: Path) -> bool:
        """Writes the plan; says so when that fails, and the work stays as it is."""
        try:
            save(self.session.plan, path)
        except OSError as error:
            self.tell(f"{path} was not written: {error.strerror}. Your work is still here.")
            return False
        self.session.mark_saved(path)
        self.settings.opened(path)
        self.tell(f"Saved {path.name}")
        return True

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.may_leave():
            if self.recovery:
                self.recovery.drop()
            event.accept()
        else:
            event.ignore()

    # --- what actions do ------------------------------------------------------------------------

    def show_view(self, number: int) -> None:
        page = self.hand_over if number else self.views.widget(0)
        self.rail.buttons[number].setChecked(True)
        self.views.setCurrentWidget(page)

    def _hand(self, method: str) -> None:
        self.show_view(1)
        getattr(self.hand_over, method)()

    def add_part(self) -> None:
        self.show_view(0)
        self.search.add_part()

    def tie_by_name(self) -> None:
        self.inspector.to_field()

    def confirm(self) -> None:
        """Enter on the bench: the candidates of a lead, the field of anything else."""
        if self.session.selection.lead:
            self.inspector.to_offers()
        else:
            self.to_inspector()

    def to_inspector(self) -> None:
        self.inspector.focusNextChild() if not self.session.selection.lead else self.inspector.to_field()

    def _part(self) -> str:
        s = self.session.selection
        return s.id if s.kind == "part" else s.lead.partition(".")[0]

    def _tie(self) -> str | None:
        """The tie that is meant: selected itself, or that of the selected lead or pin."""
        s, c = self.session.selection, self.session.circuit
        if s.kind == "tie":
            return s.id
        if s.kind in ("lead", "pin") and c.ties_at.get(s.id):
            return c.ties_at[s.id][0].id
        return None

    def delete(self) -> None:
        s = self.session
        if s.selection.kind == "part":
            s.edit(f"remove {s.circuit.placed[s.selection.id].name}", edits.remove_part, s.selection.id)
        elif (tie := self._tie()) is not None:
            s.edit(f"untie {s.circuit.title(s.plan.tie(tie).lead)}", edits.untie, tie)
        elif s.selection.lead:
            self.tell("This lead has no tie. To remove the part, select its card.")

    def rename(self) -> None:
        part = self._part()
        if part:
            self.session.select("part", part)
            self.inspector.to_name()

    def name_role(self) -> None:
        tie = self._tie()
        if tie is not None:
            self.session.select("lead", self.session.plan.tie(tie).lead)
            field = self.inspector.panel.findChild(QLineEdit, "role")
            if isinstance(field, QLineEdit):
                field.setFocus()

    def _recolour(self, name: str) -> None:
        tie = self._tie()
        if tie is not None:
            self.session.edit("recolour the cord", edits.recolour, tie, name)

    def _add_bead(self, kind: str) -> None:
        tie = self._tie()
        if tie is not None:
            bead = new_bead(self.session, self.session.plan.tie(tie), kind)
            self.session.edit(f"add a {kind}", edits.add_bead, tie, bead)

    def _place(self, side: str) -> None:
        part = self._part()
        if part:
            self.session.edit("move the part", edits.nudge, part, side)

    def _menu(self, at: QPoint) -> None:
        """What can be done with the thing under the pointer."""
        menu = QMenu(self)
        names = {"part": ("rename", "delete"), "lead": ("tie", "role", "delete"), "tie": ("tie", "role", "delete"),
                 "pin": ("delete",), "": ("add", "turn", "flip", "zoom-fit")}  # fmt: skip
        for name in names[self.session.selection.kind]:
            menu.addAction(self.actions_.by_id[name])
        for name in ("colour", "bead", "place"):
            if self.actions_.submenus[name].isEnabled() and self.session.selection.kind:
                menu.addMenu(self.actions_.submenus[name])
        menu.exec(at)
        menu.deleteLater()

    def next_finding(self) -> None:
        findings = self.session.report.findings
        if findings:
            self._next = (self._next + 1) % len(findings)
            self.session.select_subject(findings[self._next].subjects[0])
            self.findings.cards[self._next].setFocus()
            self.findings.area.ensureWidgetVisible(self.findings.cards[self._next])

    def set_look(self, choice: str) -> None:
        """Light, dark, or what the desktop says."""
        self.settings.look = choice
        self.palette_now = theme.palette_for(choice)
        theme.apply(self.palette_now)
        for view in (self.loom, self.inspector, self.findings, self.budgets, self.rail):
            view.set_palette(self.palette_now)
        self.lenses.legend.p = self.palette_now
        self.lenses.legend.update()

    def explain(self) -> None:
        TextDialog(*explanation(QApplication.focusWidget()), self).exec()

    def about(self) -> None:
        text = (f"Version {__version__}\n\nWhich pin, by which of its many names, through what, fed from where, "
                "and will it survive?")  # fmt: skip
        TextDialog("Knot Plan", text, self).exec()


def _column(*widgets: QWidget) -> QWidget:
    made = QWidget()
    layout = QVBoxLayout(made)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(0)
    for w in widgets:
        layout.addWidget(w)
    return made


def _across(*widgets: QWidget) -> QWidget:
    made = QWidget()
    layout = QHBoxLayout(made)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(0)
    for w in widgets:
        layout.addWidget(w)
    return made

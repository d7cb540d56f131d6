"""What each action does to the thing that is selected."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit, QMenu

from knotplan import __version__
from knotplan.core.drawing.palette import CORDS
from knotplan.core.plan import edits
from knotplan.desktop.board_commands import BoardCommands
from knotplan.desktop.dialogs import TextDialog, run
from knotplan.desktop.help import WALK, explanation
from knotplan.desktop.lens_bar import LENSES
from knotplan.desktop.loom_view import ZOOM_STEP
from knotplan.desktop.panels.bead_row import NEW_BEADS, new_bead
from knotplan.desktop.panels.pin_panel import copy_card
from knotplan.desktop.part_commands import PartCommands
from knotplan.desktop.tips import tip_text
from knotplan.examples import SCENES

if TYPE_CHECKING:
    from knotplan.desktop.window import MainWindow

CONTEXT = {
    "part": ("suggest", "fold", "rename", "delete"),
    "lead": ("tie", "suggest", "role", "delete"),
    "tie": ("tie", "role", "delete"),
    "pin": ("pin-card", "copy-card", "delete"),
    "": ("add", "suggest", "arrange", "turn", "flip", "zoom-fit"),
}


class Commands:
    """The window's actions as methods."""

    def __init__(self, window: "MainWindow"):
        self.w, self.session = window, window.session
        self._next = -1
        self.boards = BoardCommands(window)
        self.parts = PartCommands(window)

    def handlers(self) -> dict[str, Callable[[], object]]:
        """By the action's id."""
        s, w, d = self.session, self.w, self.w.documents
        return {
            "new": d.new,
            "open": d.open,
            "save": d.save,
            "save-as": d.save_as,
            "quit": w.close,
            "demo": partial(d.show_example, "harbour-light"),
            "draft": partial(d.show_example, "harbour-light-draft"),
            "save-one": partial(self.hand, "save_one"),
            "save-all": partial(self.hand, "save_all"),
            "undo": s.undo,
            "redo": s.redo,
            "add": self.add_part,
            "tie": self.tie_by_name,
            "delete": self.delete,
            "suggest": self.suggest,
            "suggest-anew": partial(s.suggest, anew=True),
            "mend": self.mend,
            "fold": self.fold,
            "arrange": s.arrange_anew,
            "rename": self.rename,
            "role": self.name_role,
            "loom": partial(w.show_view, "loom"),
            "pins": partial(w.show_view, "pins"),
            "power": partial(w.show_view, "power"),
            "buses": partial(w.show_view, "buses"),
            "timing": partial(w.show_view, "timing"),
            "hand-over": partial(w.show_view, "hand-over"),
            "pin-card": w.loom.keep_card,
            "copy-card": self.copy_card,
            **{f"lens-{lens}": partial(s.look_through, lens) for lens, _, _ in LENSES},
            "turn": partial(s.edit, "turn the board", edits.turn),
            "flip": partial(s.edit, "flip the board", edits.flip),
            "zoom-in": partial(w.loom.zoom, ZOOM_STEP),
            "zoom-out": partial(w.loom.zoom, 1 / ZOOM_STEP),
            "zoom-fit": w.loom.fit,
            "find": w.search.setFocus,
            "next-finding": self.next_finding,
            "to-loom": w.loom.setFocus,
            "to-inspector": self.to_inspector,
            "explain": self.explain,
            "values": self.values,
            "walk": self.walk,
            "about": self.about,
            "report": self.report,
            "left-behind": self.left_behind,
            **self.boards.handlers(),
            **self.parts.handlers(),
        }

    # --- menus that depend on what is there -----------------------------------------------------

    def fill_submenus(self) -> None:
        menus = self.w.actions_.submenus
        for name in CORDS:
            _entry(menus["colour"], name, partial(self.recolour, name))
        for kind in NEW_BEADS:
            _entry(menus["bead"], kind.capitalize(), partial(self.add_bead, kind))
        for side, text in (("left", "Left of the board"), ("right", "Right of the board"), ("", "By itself")):
            _entry(menus["place"], text, partial(self.place, side))
        for choice in ("system", "light", "dark"):
            _entry(menus["look"], choice.capitalize(), partial(self.w.set_look, choice))
        for scene, (title, about) in SCENES.items():
            _entry(menus["examples"], title, partial(self.w.documents.show_example, scene)).setToolTip(
                tip_text(about)
            )
            _entry(
                menus["examples"],
                f"{title}, first draft",
                partial(self.w.documents.show_example, f"{scene}-draft"),
            )
        menus["recent"].aboutToShow.connect(self.fill_recent)
        menus["names"].aboutToShow.connect(self.fill_names)
        menus["set-up"].aboutToShow.connect(self.fill_settings)
        self.fill_recent()
        self.fill_names()
        self.fill_settings()

    def fill_recent(self) -> None:
        menu = self.w.actions_.submenus["recent"]
        menu.clear()
        for path in self.w.settings.recent:
            _entry(menu, path.name, partial(self.w.documents.open_path, path)).setToolTip(tip_text(str(path)))
        if menu.isEmpty():
            menu.addAction("nothing yet").setEnabled(False)

    def fill_names(self) -> None:
        menu = self.w.actions_.submenus["names"]
        menu.clear()
        for k, (scheme, spec) in enumerate(self.session.circuit.board.schemes.items(), 1):
            made = _entry(
                menu, spec.title, partial(self.session.edit, "speak other names", edits.speak, scheme)
            )
            made.setToolTip(tip_text(spec.note))
            made.setShortcut(f"Alt+{k}")
            made.setCheckable(True)
            made.setChecked(scheme == self.session.circuit.scheme)

    def fill_settings(self) -> None:
        """What the board's system has on or off; a tick is what the plan wants."""
        menu, c = self.w.actions_.submenus["set-up"], self.session.circuit
        menu.clear()
        for name, spec in c.board.settings.items():
            made = _entry(
                menu,
                spec.title[0].upper() + spec.title[1:],
                partial(self.session.edit, f"switch {spec.title}", edits.set_up, name),
            )
            made.setToolTip(
                tip_text(f"{spec.starts} at first; to change it: {spec.how}. {spec.note}".strip())
            )
            made.setCheckable(True)
            made.setChecked(c.hardware.is_on(name))
        if menu.isEmpty():
            menu.addAction("this board has none").setEnabled(False)

    def context_menu(self, at: QPoint) -> None:
        """What can be done with the thing under the pointer."""
        menu, actions = QMenu(self.w), self.w.actions_
        for name in CONTEXT[self.session.selection.kind]:
            menu.addAction(actions.by_id[name])
        for name in ("colour", "bead", "place"):
            if actions.submenus[name].isEnabled() and self.session.selection.kind:
                menu.addMenu(actions.submenus[name])
        menu.exec(at)
        menu.deleteLater()

    def enable(self) -> None:
        """Which actions make sense for what is selected."""
        actions = self.w.actions_
        has_tie, has_part = self.tie() is not None, bool(self.part())
        actions.by_id["delete"].setEnabled(bool(self.session.selection.kind))
        for name in ("rename", "fold"):
            actions.by_id[name].setEnabled(has_part)
        for name in ("part-copy", "part-share"):
            actions.by_id[name].setEnabled(has_part)
        actions.by_id["part-change"].setEnabled(has_part and self.parts.is_own(self.part()))
        actions.by_id["mend"].setEnabled(bool(self.session.report.findings))
        actions.by_id["tie"].setEnabled(bool(self.session.selection.lead))
        actions.by_id["role"].setEnabled(has_tie)
        for name in ("colour", "bead"):
            actions.submenus[name].setEnabled(has_tie)
        actions.submenus["place"].setEnabled(has_part)
        on_board = (
            self.session.selection.kind == "pin" and self.session.selection.id in self.session.bench.pins
        )
        actions.by_id["board-change"].setEnabled(self.session.plan.carried is not None)
        for name in (
            "pin-card",
            "copy-card",
        ):  # so that their letters can begin a pin's name while a lead is selected
            actions.by_id[name].setEnabled(on_board)

    # --- what is meant --------------------------------------------------------------------------

    def part(self) -> str:
        """The part that is meant: selected itself, or that of the selected lead."""
        s = self.session.selection
        return s.id if s.kind == "part" else s.lead.partition(".")[0]

    def tie(self) -> str | None:
        """The tie that is meant: selected itself, or that of the selected lead or pin."""
        s, c = self.session.selection, self.session.circuit
        if s.kind == "tie":
            return s.id
        if s.kind in ("lead", "pin") and c.ties.at.get(s.id):
            return c.ties.at[s.id][0].id
        return None

    # --- edits ----------------------------------------------------------------------------------

    def add_part(self) -> None:
        self.w.show_view("loom")
        self.w.search.add_part()

    def tie_by_name(self) -> None:
        self.w.side.inspector.to_field()

    def delete(self) -> None:
        s = self.session
        if s.selection.kind == "part":
            s.edit(f"remove {s.circuit.titles.part(s.selection.id)}", edits.remove_part, s.selection.id)
        elif (tie := self.tie()) is not None:
            s.edit(f"untie {s.circuit.titles.of(s.plan.tie(tie).lead)}", edits.untie, tie)
        elif s.selection.lead:
            s.noticed.emit("This lead has no tie. To remove the part, select its card.")

    def rename(self) -> None:
        part = self.part()
        if part:
            self.session.select("part", part)
            self.w.side.inspector.to_name()

    def name_role(self) -> None:
        tie = self.tie()
        if tie is not None:
            self.session.select("lead", self.session.plan.tie(tie).lead)
            field = self.w.side.inspector.panel.findChild(QLineEdit, "role")
            if isinstance(field, QLineEdit):
                field.setFocus()
            else:
                self.session.noticed.emit("Only ties to signal pins have a name in the program.")

    def recolour(self, name: str) -> None:
        tie = self.tie()
        if tie is not None:
            self.session.edit("recolour the cord", edits.recolour, tie, name)

    def add_bead(self, kind: str) -> None:
        tie = self.tie()
        if tie is not None:
            bead = new_bead(self.session, self.session.plan.tie(tie), kind)
            self.session.edit(f"add a {kind}", edits.add_bead, tie, bead)

    def suggest(self) -> None:
        """For what is selected, or for everything."""
        s = self.session
        self.w.show_view("loom")
        if s.selection.kind == "part":
            s.suggest([f"{s.selection.id}.{name}" for name in s.circuit.parts[s.selection.id].leads])
        elif s.selection.lead:
            s.suggest([s.selection.lead])
        else:
            s.suggest()

    def values(self, finder: str = "", given: dict[str, float | str] | None = None) -> None:
        """The value finders by themselves; `given` are inputs to begin with."""
        from knotplan.desktop.values_dialog import ValuesDialog

        dialog = ValuesDialog(self.session, self.w, finder, given)
        run(dialog)

    def mend(self) -> None:
        from knotplan.desktop.mend_dialog import MendDialog

        if not self.session.report.checked:
            return
        dialog = MendDialog(self.session, self.w)
        if dialog.mended.remedy is None:
            dialog.deleteLater()
            self.session.noticed.emit("Nothing can be mended without a decision of yours.")
            return
        self.session.show_preview(dialog.mended.remedy)
        made = run(dialog)
        self.session.show_preview(None)
        if made:
            self.session.make(dialog.mended.remedy)

    def fold(self) -> None:
        part = self.part()
        if part:
            self.w.loom.fold(part)

    def place(self, side: str) -> None:
        part = self.part()
        if part:
            self.session.edit("move the part", edits.nudge, part, side)

    # --- going about ----------------------------------------------------------------------------

    def confirm(self) -> None:
        """Enter on the bench: the candidates of a lead, all of a
        suggestion, the inspector of anything else."""
        found = self.session.suggester.suggestion
        if not self.session.selection.kind and found is not None and found.ties:
            self.session.take_suggestion()
        elif self.session.selection.lead:
            self.w.side.inspector.to_offers()
        else:
            self.to_inspector()

    def to_inspector(self) -> None:
        self.w.side.inspector.to_first()

    def hand(self, method: str) -> None:
        self.w.show_view("hand-over")
        getattr(self.w.hand_over, method)()

    def copy_card(self) -> None:
        copy_card(self.session, self.session.selection.id)

    def show_pin(self, contact: str) -> None:
        """A pin on the board, with its card."""
        self.w.show_view("loom")
        self.session.select("pin", contact)
        self.w.loom.keep_card(True)

    def next_finding(self) -> None:
        findings, panel = self.session.report.findings, self.w.side.findings
        if findings:
            self._next = (self._next + 1) % min(len(findings), len(panel.cards))
            self.session.select_subject(findings[self._next].subjects[0])
            panel.cards[self._next].setFocus()
            panel.area.ensureWidgetVisible(panel.cards[self._next])

    def explain(self) -> None:
        run(TextDialog(*explanation(QApplication.focusWidget()), self.w))

    def report(self) -> None:
        """Gathers what a report of a problem needs."""
        from pathlib import Path

        from knotplan.exchange import log

        folder = QFileDialog.getExistingDirectory(self.w, "Folder for the report", str(Path.home()))
        if not folder:
            return
        try:
            made = log.gather(Path(folder), self.session.plan)
        except OSError as error:
            self.session.noticed.emit(f"The report was not written: {error.strerror}")
            return
        self.session.noticed.emit(f"Wrote {made[-1].parent}: {', '.join(p.name for p in made)}")

    def left_behind(self) -> None:
        """Work of runs that ended without being closed."""
        from knotplan.desktop.taking_up import offer

        if not offer(self.w):
            self.session.noticed.emit("Nothing was left behind.")

    def walk(self) -> None:
        run(TextDialog("A five-minute walk", WALK, self.w))

    def about(self) -> None:
        text = (
            f"Version {__version__}\n\nWhich pin, by which of its many names, through what, fed from where, "
            "and will it survive?"
        )
        run(TextDialog("Knot Plan", text, self.w))


def _entry(menu: QMenu, text: str, do: Callable[[], object]) -> QAction:
    action = menu.addAction(text)
    action.triggered.connect(lambda _=False: do())
    return action

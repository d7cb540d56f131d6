"""What the Part menu does: describing parts of one's own, changing copies, sharing."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QDialog, QFileDialog

from knotplan.catalog.load import MOST_BYTES
from knotplan.catalog.reading import read_utf8
from knotplan.core.plan import edits
from knotplan.core.plan.document import CarriedPart, Plan
from knotplan.core.plan.kinds import lines_of
from knotplan.desktop.dialogs import run

if TYPE_CHECKING:
    from knotplan.core.draft.part import PartDraft
    from knotplan.desktop.window import MainWindow


class PartCommands:
    """What is rarely used is imported when it is used."""

    def __init__(self, window: "MainWindow"):
        self.w, self.session = window, window.session

    def handlers(self) -> dict[str, Callable[[], object]]:
        """By the action's id."""
        return {
            "part-new": self.describe,
            "part-copy": self.copy,
            "part-change": self.change,
            "part-take": self.take,
            "part-share": self.share,
        }

    # --- describing -----------------------------------------------------------------------------

    def form(self, draft: "PartDraft", text: str = "", part: str = "", begun: str = "") -> str:
        """The form; the id of what was saved, or nothing. `begun` is a text at which it was left."""
        from knotplan.desktop.part_form import PartForm

        made = PartForm(self.session.catalog, draft, self.w, text, part)
        if begun:
            made.take_up(begun)

        def keep() -> None:
            self.w.documents.keep_draft("part", made.draft.title, {"text": made.now(), "part": part})

        made.edited.connect(keep)
        saved = made.part if run(made) == QDialog.DialogCode.Accepted else ""
        self.w.documents.drop_draft("part")
        return saved

    def describe(self) -> None:
        from knotplan.core.draft.part import blank

        saved = self.form(blank())
        if saved:
            self.add(saved)

    def go_on(self, text: str, part: str) -> None:
        """The form at a text that was left behind; `part` is the own part
        that it was about, if it has a file."""
        from knotplan.core.draft.part import blank

        known = part in self.session.catalog.own_part_ids()
        saved = self.form(blank(), part=part if known else "", begun=text)
        if saved and not known:
            self.add(saved)

    def copy(self) -> None:
        """A copy of the selected part's kind, changed and put in its place."""
        from msgspec.structs import replace

        from knotplan.core.draft.part import from_tree

        part = self._selected()
        if not part:
            return
        text = self._text(part)
        draft = from_tree(self._tree(part))
        saved = self.form(replace(draft, title=f"{draft.title} copy"), text)
        if saved:
            self._exchange(part, saved)

    def change(self) -> None:
        """The form on the selected part, if it is one of the maker's own."""
        from knotplan.core.draft.part import from_tree

        part = self._selected()
        if part and self.is_own(part):
            kind = self.session.plan.part(part).part
            if self.form(from_tree(self._tree(part)), self._text(part), kind):
                self.session.edit(
                    "change the part", edits.carry_part, carried(self.session.catalog.part_path(kind))
                )

    def add(self, part: str) -> None:
        """A part of the maker's own onto the bench, its file with the plan."""
        kind = self.session.catalog.kind(part)
        self.session.edit(
            f"add {kind.title}", add_own, part, kind.title, {}, carried(self.session.catalog.part_path(part))
        )

    def _exchange(self, placed: str, part: str) -> None:
        new = self.session.catalog.part(part, {})
        leads = {name: name for name in self.session.circuit.parts[placed].leads if name in new.leads}
        carry = carried(self.session.catalog.part_path(part))

        def change(plan: Plan) -> Plan:
            params = {n: v for n, v in plan.part(placed).params.items() if n in new.params}
            return edits.exchange_part(edits.carry_part(plan, carry), placed, part, params, leads)

        self.session.edit("change a copy of the part", change)

    def _selected(self) -> str:
        s = self.session.selection
        return s.id if s.kind == "part" else s.lead.partition(".")[0]

    def is_own(self, placed: str) -> bool:
        """The part's kind has a file among the maker's own."""
        return self.session.plan.part(placed).part in self.session.catalog.own_part_ids()

    def _tree(self, placed: str) -> dict[str, object]:
        from knotplan.core.plan.kinds import kind_in

        kind = kind_in(self.session.plan, self.session.catalog, self.session.plan.part(placed).part)
        return {k: v for k, v in kind.tree.items() if k != "id"}

    def _text(self, placed: str) -> str:
        """The part's file as it is written."""
        kind = self.session.plan.part(placed).part
        lent = next((c for c in self.session.plan.carried_parts if c.id == kind), None)
        if lent is not None:
            return "\n".join(lent.lines) + "\n"
        return read_utf8(self.session.catalog.part_path(kind), MOST_BYTES)

    # --- files ----------------------------------------------------------------------------------

    def take(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.w, "Take in a part", "", "Parts (*.toml);;All files (*)")
        if name:
            self.take_in(Path(name))

    def take_in(self, path: Path) -> bool:
        """A part file checked and put among the maker's own; one that is there already is asked about."""
        from knotplan.desktop.own_files import take_in

        taken = take_in(self.w, path, "part")
        self.session.catalog.forget_part(taken)
        return bool(taken)

    def share(self) -> None:
        part = self._selected()
        if not part:
            return
        kind = self.session.plan.part(part).part
        name, _ = QFileDialog.getSaveFileName(self.w, "Save the part", f"{kind}.toml", "Parts (*.toml)")
        if name:
            self.write(part, Path(name))

    def write(self, part: str, path: Path) -> None:
        """The kind of a part as a file."""
        from knotplan.exchange.files import write_atomically

        try:
            write_atomically(path, self._text(part).encode("utf-8"))
        except OSError as error:
            self.session.noticed.emit(f"{path.name} was not written: {error.strerror}")
        else:
            self.session.noticed.emit(f"Wrote {path}")


def carried(path: Path) -> CarriedPart:
    """A part's file as a plan carries it."""
    return CarriedPart(path.stem, lines_of(read_utf8(path, MOST_BYTES)))


def add_own(plan: Plan, part: str, name: str, params: dict[str, str | float], lent: CarriedPart) -> Plan:
    """A part of the maker's own onto the bench, with its file."""
    return edits.add_part(edits.carry_part(plan, lent), part, name, params)

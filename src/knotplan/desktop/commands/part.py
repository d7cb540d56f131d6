"""The Part menu: describing parts of one's own, changing copies, sharing.

What is rarely used is imported when it is used.
"""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QDialog, QFileDialog

from knotplan.catalog.load import MOST_BYTES
from knotplan.catalog.reading import read_utf8
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop.commands.command import LINE, Command, Menu
from knotplan.desktop.commands.edit import has_part
from knotplan.desktop.desk import Desk
from knotplan.desktop.dialogs import run
from knotplan.desktop.own_parts import add, carried

if TYPE_CHECKING:
    from knotplan.core.draft.part import PartDraft

# --- describing -------------------------------------------------------------------------------


def open_form(desk: Desk, draft: "PartDraft", text: str = "", part: str = "", begun: str = "") -> str:
    """The form; the id of what was saved, or nothing. `begun` is a text at which it was left."""
    from knotplan.desktop.part_form import PartForm

    part_form = PartForm(desk.session.catalog, draft, desk.parent, text, part)
    if begun:
        part_form.take_up(begun)

    def keep() -> None:
        desk.documents.keep_draft("part", part_form.draft.title, {"text": part_form.now(), "part": part})

    part_form.edited.connect(keep)
    saved = part_form.part if run(part_form) == QDialog.DialogCode.Accepted else ""
    desk.documents.drop_draft("part")
    return saved


def describe(desk: Desk) -> None:
    from knotplan.core.draft.part import blank

    saved = open_form(desk, blank())
    if saved:
        add(desk.session, saved)


def go_on(desk: Desk, text: str, part: str) -> None:
    """The form at a text that was left behind; `part` is the own part
    that it was about, if it has a file."""
    from knotplan.core.draft.part import blank

    known = part in desk.session.catalog.own_part_ids()
    saved = open_form(desk, blank(), part=part if known else "", begun=text)
    if saved and not known:
        add(desk.session, saved)


def change_copy(desk: Desk) -> None:
    """A copy of the selected part's kind, changed and put in its place."""
    from msgspec.structs import replace

    from knotplan.core.draft.part import from_tree

    placed = desk.part
    if not placed:
        return
    draft = from_tree(_tree(desk, placed))
    saved = open_form(desk, replace(draft, title=f"{draft.title} copy"), _text(desk, placed))
    if saved:
        _exchange(desk, placed, saved)


def change(desk: Desk) -> None:
    """The form on the selected part, if it is one of the maker's own."""
    from knotplan.core.draft.part import from_tree

    placed = desk.part
    if placed and is_own(desk):
        kind = desk.session.plan.part(placed).part
        if open_form(desk, from_tree(_tree(desk, placed)), _text(desk, placed), kind):
            lent = carried(desk.session.catalog.part_path(kind))
            desk.session.edit("change the part", edits.carry_part, lent)


def _exchange(desk: Desk, placed: str, part: str) -> None:
    new = desk.session.catalog.part(part, {})
    leads = {name: name for name in desk.session.circuit.parts[placed].leads if name in new.leads}
    lent = carried(desk.session.catalog.part_path(part))

    def exchanged(plan: Plan) -> Plan:
        params = {n: v for n, v in plan.part(placed).params.items() if n in new.params}
        return edits.exchange_part(edits.carry_part(plan, lent), placed, part, params, leads)

    desk.session.edit("change a copy of the part", exchanged)


def is_own(desk: Desk) -> bool:
    """The selected part's kind has a file among the maker's own."""
    catalog, placed = desk.session.catalog, desk.part
    return bool(placed) and desk.session.plan.part(placed).part in catalog.own_part_ids()


def _tree(desk: Desk, placed: str) -> dict[str, object]:
    from knotplan.core.plan.kinds import kind_in

    plan = desk.session.plan
    kind = kind_in(plan, desk.session.catalog, plan.part(placed).part)
    return {k: v for k, v in kind.tree.items() if k != "id"}


def _text(desk: Desk, placed: str) -> str:
    """The part's file as it is written."""
    plan = desk.session.plan
    kind = plan.part(placed).part
    lent = next((c for c in plan.carried_parts if c.id == kind), None)
    if lent is not None:
        return "\n".join(lent.lines) + "\n"
    return read_utf8(desk.session.catalog.part_path(kind), MOST_BYTES)


# --- files ------------------------------------------------------------------------------------


def take(desk: Desk) -> None:
    name, _ = QFileDialog.getOpenFileName(desk.parent, "Take in a part", "", "Parts (*.toml);;All files (*)")
    if name:
        take_in(desk, Path(name))


def take_in(desk: Desk, path: Path) -> bool:
    """A part file checked and put among the maker's own; one that is there already is asked about."""
    from knotplan.desktop.commands import own_files

    taken = own_files.take_in(desk, path, "part")
    desk.session.catalog.forget_part(taken)
    return bool(taken)


def share(desk: Desk) -> None:
    if not desk.part:
        return
    kind = desk.session.plan.part(desk.part).part
    name, _ = QFileDialog.getSaveFileName(desk.parent, "Save the part", f"{kind}.toml", "Parts (*.toml)")
    if name:
        write(desk, desk.part, Path(name))


def write(desk: Desk, placed: str, path: Path) -> None:
    """The kind of a part as a file."""
    from knotplan.exchange.files import write_atomically

    try:
        write_atomically(path, _text(desk, placed).encode("utf-8"))
    except OSError as error:
        desk.session.noticed.emit(f"{path.name} was not written: {error.strerror}")
    else:
        desk.session.noticed.emit(f"Wrote {path}")


MENU = Menu(
    "&Part",
    (
        Command(
            "part-new",
            "&Describe a part …",
            "Ctrl+Alt+D",
            "A form: its leads, what they need, what it draws",
            describe,
        ),
        Command(
            "part-copy",
            "Change a c&opy of this part …",
            "Ctrl+Shift+D",
            "The form on a copy of the selected part",
            change_copy,
            has_part,
        ),
        Command(
            "part-change",
            "Chan&ge this part …",
            "",
            "The form on the selected part, if it is your own",
            change,
            is_own,
        ),
        LINE,
        Command(
            "part-take", "Ta&ke in a part file …", "", "Add a part that somebody shared to your own", take
        ),
        Command(
            "part-share",
            "Save this part as a &file …",
            "",
            "Write the selected part's kind to a file, to share it",
            share,
            has_part,
        ),
    ),
)

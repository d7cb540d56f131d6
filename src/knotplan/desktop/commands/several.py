"""What is done to several selected parts at once: copied, put in, lined up, let go."""

from typing import Literal

from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop import clipboard
from knotplan.desktop.desk import Desk

PLAN_SIDES: dict[str, Literal["left", "right"]] = {
    "left": "left",
    "above": "left",
    "right": "right",
    "below": "right",
}
"""what a plan calls the sides of a board, whichever way it lies"""


def named(desk: Desk, parts: tuple[str, ...]) -> str:
    """One part by its name, of several how many."""
    return desk.session.circuit.titles.part(parts[0]) if len(parts) == 1 else f"{len(parts)} parts"


def copy(desk: Desk) -> None:
    clipboard.copy(desk.session, desk.parts)
    desk.session.noticed.emit(f"Copied {named(desk, desk.parts)}.")


def cut(desk: Desk) -> None:
    parts = desk.parts
    clipboard.copy(desk.session, parts)
    desk.session.edit(f"cut {named(desk, parts)}", edits.of_all, parts, edits.remove_part)


def paste(desk: Desk) -> None:
    held = clipboard.parts_there(desk.session)
    if held is None:
        if not clipboard.holds_parts():
            desk.session.noticed.emit("There are no parts on the clipboard.")
        return
    desk.show_view("loom")
    _add_all(desk, "paste", held)


def duplicate(desk: Desk) -> None:
    _add_all(desk, "duplicate", edits.excerpt(desk.session.plan, desk.parts))


def _add_all(desk: Desk, how: str, held: Plan) -> None:
    """The parts of a plan put in, and selected."""
    session = desk.session
    before = {p.id for p in session.plan.parts}
    many = held.parts[0].name if len(held.parts) == 1 else f"{len(held.parts)} parts"
    if session.edit(f"{how} {many}", edits.put_in, held):
        session.select_parts(p.id for p in session.plan.parts if p.id not in before)


def select_all(desk: Desk) -> None:
    desk.show_view("loom")
    desk.session.select_parts(p.id for p in desk.session.plan.parts)


def line_up(desk: Desk) -> None:
    """The selected parts one after another, where the first of them stands."""
    session, bench = desk.session, desk.session.bench
    heads = desk.loom.heads(desk.parts)
    if not heads:
        return
    side = bench.by_part[heads[0]].side
    place = min(bench.order[side].index(p) for p in heads if p in bench.order[side])
    session.edit("line up the parts", edits.put_at, heads, PLAN_SIDES[side], place)


def let_go(desk: Desk) -> None:
    desk.session.edit("let the parts go", edits.let_go, desk.parts)


def is_put(desk: Desk) -> bool:
    """Some selected part stands where the maker has put it."""
    return any(desk.session.plan.part(p).side for p in desk.parts)


def place(desk: Desk, side: str) -> None:
    desk.session.edit(f"move {named(desk, desk.parts)}", edits.of_all, desk.parts, edits.nudge, side)

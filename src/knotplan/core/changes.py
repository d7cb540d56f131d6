"""What an edit changes, in words: shown before a remedy is made, and beside undo."""

from collections.abc import Iterator

from knotplan.core.circuit import Circuit
from knotplan.core.loom.cords import bead_words
from knotplan.core.plan import Tie


def changes(before: Circuit, after: Circuit) -> tuple[str, ...]:
    """Every difference between two plans that a maker would notice."""
    return (*_part_changes(before, after), *_tie_changes(before, after))


def _part_changes(before: Circuit, after: Circuit) -> Iterator[str]:
    for part_id, placed in after.placed.items():
        old = before.placed.get(part_id)
        if old is None:
            yield f"adds {placed.name} ({after.parts[part_id].summary})"
        elif old.name != placed.name:
            yield f"renames {old.name} to {placed.name}"
        elif old.params != placed.params:
            yield f"changes {placed.name}: {after.parts[part_id].summary}"
    yield from (f"removes {p.name}" for i, p in before.placed.items() if i not in after.placed)


def _tie_changes(before: Circuit, after: Circuit) -> Iterator[str]:
    old = {t.id: t for t in before.plan.ties}
    new = {t.id: t for t in after.plan.ties}
    for tie_id, tie in new.items():
        name = after.title(tie.lead)
        if tie_id not in old:
            yield f"ties {name} to {after.full_title(tie.to)}"
        else:
            yield from (f"{name}: {said}" for said in _one_tie(before, after, old[tie_id], tie))
    yield from (f"unties {before.title(t.lead)}" for i, t in old.items() if i not in new)


def _one_tie(before: Circuit, after: Circuit, old: Tie, new: Tie) -> Iterator[str]:
    if old.to != new.to:
        yield f"from {before.full_title(old.to)} to {after.full_title(new.to)}"
    if old.beads != new.beads:
        said = ", ".join(bead_words(b) for b in new.beads) or "no bead"
        was = ", ".join(bead_words(b) for b in old.beads)
        yield f"{said} instead of {was}" if was else f"gets {said}"
    if old.pull != new.pull:
        yield "the program switches the pin's pull off" if new.pull == "none" else (
            f"the program switches the pin's pull-{new.pull} on")  # fmt: skip
    if old.role != new.role:
        yield f"is called {new.role!r}" if new.role else "loses its role"
    if old.cord != new.cord:
        yield f"cord is {new.cord or 'of the usual colour'}"

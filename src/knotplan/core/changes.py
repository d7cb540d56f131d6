"""What an edit changes, in words: shown before a remedy is made, and beside undo."""

from collections.abc import Iterator

from knotplan.core.circuit import Circuit
from knotplan.core.loom.cords import bead_words
from knotplan.core.plan import PlacedPart, Tie
from knotplan.core.quantity import show


def changes(before: Circuit, after: Circuit) -> tuple[str, ...]:
    """Every difference between two plans that a maker would notice."""
    return (*_part_changes(before, after), *_tie_changes(before, after), *_clock_changes(before, after))


def _part_changes(before: Circuit, after: Circuit) -> Iterator[str]:
    for part_id, placed in after.placed.items():
        old = before.placed.get(part_id)
        if old is None:
            yield f"adds {placed.name} ({after.parts[part_id].summary})"
        elif old.name != placed.name:
            yield f"renames {old.name} to {placed.name}"
        elif old.part != placed.part:
            yield f"makes {placed.name} a {after.parts[part_id].title}"
        elif old.params != placed.params or old.asks != placed.asks:
            yield from _choices(after, part_id, old, placed)
    yield from (f"removes {p.name}" for i, p in before.placed.items() if i not in after.placed)


def _choices(after: Circuit, part_id: str, old: PlacedPart, new: PlacedPart) -> Iterator[str]:
    """What is chosen otherwise about a part, and what the program asks of it."""
    for name, spec in after.parts[part_id].params.items():
        was, now = old.params.get(name, spec.default), new.params.get(name, spec.default)
        if was != now:
            said = now if isinstance(now, str) else show(now, spec.unit)
            yield f"{new.name}: {spec.title} is {said}"
    for name in {**old.asks, **new.asks}:
        if old.asks.get(name) != new.asks.get(name):
            asked = new.asks.get(name)
            yield f"{new.name}: {name} is {f'{asked:g}' if isinstance(asked, float | int) else asked or 'as usual'}"


def _clock_changes(before: Circuit, after: Circuit) -> Iterator[str]:
    for unit in dict.fromkeys(c.unit for c in (*before.plan.clocks, *after.plan.clocks)):
        hz = after.plan.clock(unit)
        if hz != before.plan.clock(unit):
            spec = after.unit_named(unit.partition("@")[0].partition("~")[0])
            title = spec.title if spec else unit.partition(".")[2]
            yield f"{title} runs at {show(hz, 'Hz')}" if hz else f"{title} runs at its usual clock"


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
    if old.hertz != new.hertz:
        yield f"pulses at {show(new.hertz, 'Hz')}" if new.hertz else "pulses at its usual frequency"
    if old.role != new.role:
        yield f"is called {new.role!r}" if new.role else "loses its role"
    if old.cord != new.cord:
        yield f"cord is {new.cord or 'of the usual colour'}"

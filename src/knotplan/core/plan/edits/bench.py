"""Edits of what has been done and measured at the bench. They change nothing electric."""

from collections.abc import Collection, Iterable

from msgspec.structs import replace

from knotplan.core.plan.document import Plan
from knotplan.core.plan.wired import Reading, Wired


def note_wired(plan: Plan, done: Iterable[Wired] = (), undone: Collection[str] = ()) -> Plan:
    """Notes what has been done, in the order in which it was; `undone` are tasks that are so no longer."""
    new = {w.task: w for w in done}
    kept = tuple(new.pop(w.task, w) for w in plan.wired if w.task not in undone)
    return replace(plan, wired=(*kept, *new.values()))


def note_reading(plan: Plan, reading: Reading) -> Plan:
    """Notes what the meter shows at a point; an earlier reading there is forgotten."""
    others = tuple(r for r in plan.readings if r.point != reading.point)
    return replace(plan, readings=(*others, reading))


def drop_readings(plan: Plan, points: Collection[str]) -> Plan:
    """Forgets what the meter showed at some points."""
    return replace(plan, readings=tuple(r for r in plan.readings if r.point not in points))

"""Edits of what goes on together, and when."""

from typing import Any

from msgspec.structs import replace

from knotplan.core.plan.document import Activity, Plan
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.ids import slug


def add_activity(plan: Plan, title: str, parts: tuple[str, ...] = ()) -> Plan:
    """A new thing that happens, in the first sixth of the cycle."""
    name, number, titles = title.strip() or "Activity", 1, {a.title for a in plan.activities}
    while (name if number == 1 else f"{name} {number}") in titles:
        number += 1
    name = name if number == 1 else f"{name} {number}"
    activity = Activity(slug(name, {a.id for a in plan.activities}), name, parts, 0.0, plan.cycle_s / 6)
    return replace(plan, activities=(*plan.activities, activity))


def change_activity(plan: Plan, activity_id: str, **changes: Any) -> Plan:
    """Title, parts, times or exclusions of an activity; an exclusion holds both ways."""
    plan.activity(activity_id)
    if "title" in changes and not changes["title"].strip():
        raise EditError("An activity needs a name.")
    try:
        changed = tuple(replace(a, **changes) if a.id == activity_id else a for a in plan.activities)
    except ValueError as error:
        raise EditError(f"{str(error)[0].upper()}{str(error)[1:]}.") from None
    if "excludes" in changes:
        wanted = set(changes["excludes"])
        changed = tuple(
            a if a.id == activity_id else replace(a, excludes=_with(a.excludes, activity_id, a.id in wanted))
            for a in changed
        )
    return replace(plan, activities=changed)


def _with(ids: tuple[str, ...], one: str, there: bool) -> tuple[str, ...]:
    kept = tuple(i for i in ids if i != one)
    return (*kept, one) if there else kept


def remove_activity(plan: Plan, activity_id: str) -> Plan:
    """An activity taken away; loads that were only in it are then always on."""
    rest = tuple(
        replace(a, excludes=_with(a.excludes, activity_id, False))
        for a in plan.activities
        if a.id != activity_id
    )
    return replace(plan, activities=rest)


def set_cycle(plan: Plan, seconds: float) -> Plan:
    """After how long everything begins anew."""
    try:
        return replace(plan, cycle_s=seconds)
    except ValueError as error:
        raise EditError(f"{str(error)[0].upper()}{str(error)[1:]}.") from None

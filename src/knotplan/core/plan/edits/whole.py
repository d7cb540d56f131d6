"""Edits of the plan as a whole."""

from msgspec.structs import replace

from knotplan.core.plan.assumptions import BY_ID
from knotplan.core.plan.document import Assumed, Plan
from knotplan.core.plan.edits.changed import EditError


def retitle(plan: Plan, title: str) -> Plan:
    """Another title for the plan."""
    return replace(plan, title=title.strip() or "Untitled")


def assume(plan: Plan, assumption: str, value: float | None) -> Plan:
    """What is assumed otherwise than usual; nothing for the usual value."""
    known = BY_ID.get(assumption)
    if known is None:
        raise EditError(f"Nothing is assumed under the name {assumption!r}.")
    others = tuple(a for a in plan.assumes if a.id != assumption)
    if value is None or value == known.usual:
        return replace(plan, assumes=others)
    if why := known.fault(value):
        raise EditError(f"{why}.")
    order = list(BY_ID)
    assumes = sorted((*others, Assumed(assumption, value)), key=lambda a: order.index(a.id))
    return replace(plan, assumes=tuple(assumes))


def set_series(plan: Plan, series: str) -> Plan:
    """The preferred values that the maker has in the drawer."""
    return replace(plan, series=series)

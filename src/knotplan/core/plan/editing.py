"""The one door through which a plan changes: whatever an edit does, what comes out is a valid plan."""

from collections.abc import Callable
from typing import Any

from knotplan.catalog.load import Catalog
from knotplan.core.plan.direction import all_consumers_first
from knotplan.core.plan.document import Plan
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.validity.fault import Fault
from knotplan.core.plan.validity.faults import MOST_ROUNDS, faults
from knotplan.core.plan.validity.leaving_out import without


def edited(plan: Plan, catalog: Catalog, change: Callable[..., Plan], *arguments: Any, **named: Any) -> Plan:
    """A valid plan after an edit. What the edit took away takes along what referred to it; each wire is
    told from its consumer's end. Raises EditError where the edit itself asks for what no plan can be, and
    where it is about something that is not there (any more)."""
    try:
        after = change(plan, *arguments, **named)
    except (KeyError, IndexError) as error:
        raise EditError(f"The plan no longer has what this change is about: {error}.") from None
    if after == plan:
        return plan
    return all_consumers_first(_consequences(plan, after, catalog), catalog, plan)


def _consequences(before: Plan, after: Plan, catalog: Catalog) -> Plan:
    for _ in range(MOST_ROUNDS):
        wrong = list(faults(after, catalog, before))
        for fault in wrong:
            if not (fault.dangles and _was_there(before, after, fault)):
                raise EditError(
                    fault.why[0].upper() + fault.why[1:] + ("" if fault.why.endswith("?") else ".")
                )
        if not wrong:
            return after
        after = without(after, wrong)
    raise EditError("This cannot be done: other parts of the plan refer to it, and would refer to nothing.")


def _was_there(before: Plan, after: Plan, fault: Fault) -> bool:
    """What refers to nothing now was in the plan before, so that it was the edit
    that took away what it referred to."""
    field, *rest = fault.out
    value = getattr(after, str(field))
    if not rest:
        return bool(value == getattr(before, str(field)))
    return value[rest[0]] in getattr(before, str(field))

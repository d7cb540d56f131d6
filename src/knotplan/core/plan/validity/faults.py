"""What makes a plan valid, said once: readers, edits and tests ask here.

A plan is valid when it can be written and read again as it is (texts and numbers that a file can hold), when
its ids are unique, and when everything that it refers to is there.
"""

from collections.abc import Iterator

from knotplan.catalog.board.check import hint
from knotplan.catalog.load import Catalog
from knotplan.core.plan.document import Plan
from knotplan.core.plan.validity.fault import ALL_READ, Fault, Unread
from knotplan.core.plan.validity.known import Known
from knotplan.core.plan.validity.leaving_out import without
from knotplan.core.plan.validity.references import activities, bench, clocks, roles, ties
from knotplan.core.plan.validity.texts import written
from knotplan.core.plan.validity.unmoved import unmoved_parts, unmoved_ties
from knotplan.core.quantity.series import SERIES

MOST_ROUNDS = 12
"""what is left out may take along what referred to it, and that again something"""


def faults(
    plan: Plan, catalog: Catalog, since: Plan | None = None, unread: Unread = ALL_READ
) -> Iterator[Fault]:
    """Everything that makes a plan invalid; nothing where it is valid. `since` is an earlier plan that was
    valid: what both have is not looked at again."""
    yield from written(plan, since)
    if plan.series not in SERIES:
        yield Fault(
            ("series",),
            f"{plan.series!r} is no series of preferred values{hint(plan.series, SERIES)}",
            ("series",),
        )
    known = Known(plan, catalog, unread, unmoved_parts(plan, since))
    yield from known.faults
    yield from ties(plan, known, unmoved_ties(plan, since))
    yield from roles(plan)
    yield from activities(plan, known, unread)
    yield from clocks(plan, known)
    yield from bench(plan)


def settled(plan: Plan, catalog: Catalog) -> Plan | None:
    """The plan without what makes it invalid, and without what refers to that;
    nothing where its board cannot be told."""
    for _ in range(MOST_ROUNDS):
        wrong = list(faults(plan, catalog))
        if not wrong:
            return plan
        if any(f.out[0] in ("board", "carried") or f.out[-1] == "name" for f in wrong):
            return None
        plan = without(plan, wrong)
    return None

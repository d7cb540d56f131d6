"""Edits of findings that the maker lives with."""

from msgspec.structs import replace

from knotplan.core.plan.document import Accepted, Plan
from knotplan.core.plan.edits.changed import EditError


def accept(plan: Plan, rule: str, subjects: tuple[str, ...], message: str, reason: str) -> Plan:
    """Live with a finding; a reason is required."""
    if not reason.strip():
        raise EditError("Say why this is acceptable; the reason is kept in the plan.")
    return replace(
        withdraw(plan, rule, subjects),
        accepted=(
            *withdraw(plan, rule, subjects).accepted,
            Accepted(rule, subjects, message, reason.strip()),
        ),
    )


def withdraw(plan: Plan, rule: str, subjects: tuple[str, ...]) -> Plan:
    """No longer live with a finding."""
    kept = tuple(a for a in plan.accepted if (a.rule, a.subjects) != (rule, subjects))
    return replace(plan, accepted=kept)

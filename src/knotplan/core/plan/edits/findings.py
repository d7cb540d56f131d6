"""Edits of findings that the maker lives with."""

from msgspec.structs import replace

from knotplan.core.plan.document import Accepted, Plan
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.quantity.figures import figures


def accept(plan: Plan, rule: str, subjects: tuple[str, ...], message: str, reason: str) -> Plan:
    """Live with a finding; a reason is required. Of one rule about the same subjects there may be several."""
    if not reason.strip():
        raise EditError("Say why this is acceptable; the reason is kept in the plan.")
    others = tuple(a for a in plan.accepted if (a.rule, a.subjects, a.message) != (rule, subjects, message))
    return replace(plan, accepted=(*others, Accepted(rule, subjects, message, reason.strip())))


def withdraw(plan: Plan, rule: str, subjects: tuple[str, ...], message: str) -> Plan:
    """No longer live with a finding, whether it was accepted in these words or in others."""
    same = [a for a in plan.accepted if (a.rule, a.subjects) == (rule, subjects)]
    gone = [a for a in same if a.message == message] or [
        a for a in same if figures(a.message) == figures(message)
    ]
    return replace(plan, accepted=tuple(a for a in plan.accepted if a not in gone))

"""What the edits of parts and ties have in common."""

from typing import Any

from msgspec.structs import replace

from knotplan.core.plan.document import Plan


class EditError(ValueError):
    """The edit cannot be made; the message says why."""


def part_changed(plan: Plan, part_id: str, **changes: Any) -> Plan:
    """The plan with some fields of a part changed."""
    plan.part(part_id)
    return replace(plan, parts=tuple(replace(p, **changes) if p.id == part_id else p for p in plan.parts))


def tie_changed(plan: Plan, tie_id: str, **changes: Any) -> Plan:
    """The plan with some fields of a tie changed."""
    plan.tie(tie_id)
    return replace(plan, ties=tuple(replace(t, **changes) if t.id == tie_id else t for t in plan.ties))

"""Edits of the plan as a whole."""

from msgspec.structs import replace

from knotplan.core.plan.document import Plan


def retitle(plan: Plan, title: str) -> Plan:
    return replace(plan, title=title.strip() or "Untitled")


def set_series(plan: Plan, series: str) -> Plan:
    return replace(plan, series=series)

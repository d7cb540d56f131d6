"""Edits of the plan as a whole."""

from msgspec.structs import replace

from knotplan.core.plan.document import Plan


def retitle(plan: Plan, title: str) -> Plan:
    """Another title for the plan."""
    return replace(plan, title=title.strip() or "Untitled")


def set_series(plan: Plan, series: str) -> Plan:
    """The preferred values that the maker has in the drawer."""
    return replace(plan, series=series)

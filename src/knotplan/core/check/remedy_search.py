"""Looking for the remedies of many findings, within a budget."""

from collections.abc import Iterable, Iterator

from knotplan.core.check.finding import Finding
from knotplan.core.engine.effort import EFFORT
from knotplan.core.plan.remedy import Remedy

MOST_SEARCH = 2_500
"""units of effort that the remedies of one report may cost; those of a bench
of everyday size cost some hundreds"""


def within_budget(
    findings: Iterable[Finding], most: float = MOST_SEARCH
) -> Iterator[tuple[Finding, tuple[Remedy, ...] | None]]:
    """Each finding with its remedies, in their order; nothing in place of
    them where the budget was spent before."""
    begun = EFFORT.units
    for finding in findings:
        known = "remedies" in finding.__dict__
        yield finding, finding.remedies if known or EFFORT.units - begun < most else None

"""Looking for the remedies of many findings, within a budget."""

from collections import Counter
from collections.abc import Iterable, Iterator

from knotplan.core.check.finding import Finding
from knotplan.core.engine.effort import EFFORT
from knotplan.core.plan.remedy import Remedy

MOST_IN_VAIN, DEAR = 2, 0.2
"""so many searches of a rule may find nothing, once this share of the budget is gone"""
MOST_SEARCH = 2_500
"""units of effort that the remedies of one report may cost; those of a bench
of everyday size cost some hundreds"""


def within_budget(
    findings: Iterable[Finding], most: float = MOST_SEARCH
) -> Iterator[tuple[Finding, tuple[Remedy, ...] | None]]:
    """Each finding with its remedies, in their order; nothing in place of
    them where the budget was spent before. In a plan that costs much, a rule that had no remedy several times
    leaves what is left to the others."""
    begun, in_vain = EFFORT.units, Counter[str]()
    for finding in findings:
        known, spent = "remedies" in finding.__dict__, EFFORT.units - begun
        tried_enough = in_vain[finding.rule] >= MOST_IN_VAIN and spent > most * DEAR
        if not known and (spent >= most or tried_enough):
            yield finding, None
            continue
        in_vain[finding.rule] += not finding.remedies
        yield finding, finding.remedies

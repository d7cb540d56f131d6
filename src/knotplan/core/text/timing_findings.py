"""Which findings are about time."""

from knotplan.core.check.finding import Finding, Severity, gravest
from knotplan.core.check.report import Report
from knotplan.core.plan.document import split

RULES = frozenset(
    (
        "timer-shared",
        "pulse-off",
        "servo-coarse",
        "stepper-fast",
        "coil-order",
        "relay-fast",
        "pixels-slow",
        "pixels-memory",
        "pool-over",
        "cannot-keep-time",
        "pulse-unmeasured",
        "capture-shared",
        "frame-short",
        "edge-slow",
        "step-current",
    )
)
"""those whose findings belong to the Timing view"""


def findings_about(report: Report, part_id: str) -> list[Finding]:
    """What the checks say of a part's times, gravest first."""
    return [f for f in report.findings if f.rule in RULES and part_id in {split(s)[0] for s in f.subjects}]


def worst(report: Report) -> dict[str, Severity]:
    """The gravest finding about each part's times."""
    return gravest(report.findings, RULES)

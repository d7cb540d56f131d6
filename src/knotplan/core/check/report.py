"""Everything that follows from a plan, as one value."""

from msgspec import Struct

from knotplan.core.check.finding import SAID, SEVERITIES, Finding, Severity
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.readings import Points
from knotplan.core.plan.document import split
from knotplan.core.power.budget import Budget
from knotplan.core.power.node import Node


class Report(Struct, frozen=True):
    """Everything that follows from a plan."""

    circuit: Circuit
    points: Points
    budgets: tuple[Budget, ...]
    findings: tuple[Finding, ...]
    """open ones, gravest first"""
    accepted: tuple[Finding, ...]
    """those that the maker lives with"""
    power: tuple[Node, ...] = ()
    """the tree of supplies"""
    checked: bool = True
    """whether the analysis has been made; the window draws a plan before that"""

    def count(self, severity: str) -> int:
        """How many findings of a severity there are."""
        return sum(f.severity == severity for f in self.findings)

    @property
    def counted(self) -> str:
        """How many of each there are, in words."""
        return ", ".join(f"{self.count(s)} {SAID[s]}" for s in SEVERITIES)

    def worst_by_part(self) -> dict[str, Severity]:
        """The gravest open finding about each part or its leads: {part id: severity}."""
        gravest: dict[str, Severity] = {}
        for f in self.findings:  # gravest first
            for subject in f.subjects:
                gravest.setdefault(split(subject)[0], f.severity)
        return gravest


def unchecked(circuit: Circuit) -> Report:
    """A report that says nothing yet."""
    return Report(circuit, Points(), (), (), (), checked=False)

"""Everything that follows from a plan, as one value."""


from msgspec import Struct

from knotplan.core.budgets import Budget
from knotplan.core.circuit import Circuit
from knotplan.core.finding import Finding
from knotplan.core.readings import Points


class Report(Struct, frozen=True):
    """Everything that follows from a plan."""

    circuit: Circuit
    points: Points
    budgets: tuple[Budget, ...]
    findings: tuple[Finding, ...]
    """open ones, gravest first"""
    accepted: tuple[Finding, ...]
    """those that the maker lives with"""

    checked: bool = True
    """whether the analysis has been made; the window draws a plan before that"""

    def count(self, severity: str) -> int:
        return sum(f.severity == severity for f in self.findings)

    def about(self, subject: str) -> list[Finding]:
        """The open findings that name a part, a lead, a pin or a rail."""
        return [f for f in self.findings if any(s == subject or s.startswith(f"{subject}.") for s in f.subjects)]


def unchecked(circuit: Circuit) -> Report:
    """A report that says nothing yet."""
    return Report(circuit, Points(), (), (), (), checked=False)

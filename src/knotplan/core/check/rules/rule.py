"""What a rule is, what it sees, and what it finds."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from msgspec import Struct

from knotplan.catalog.load import Catalog
from knotplan.core.check.finding import Finding, Severity
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.readings import Points
from knotplan.core.match.fit import Fit, Grade, candidates
from knotplan.core.plan.remedy import Remedy
from knotplan.core.power.budgets import Budget
from knotplan.core.power.tree import Node
from knotplan.core.quantity.working import Number


@dataclass(frozen=True)
class Facts:
    """Everything that a rule may look at."""

    circuit: Circuit
    points: Points
    budgets: tuple[Budget, ...]
    catalog: Catalog
    power: tuple[Node, ...] = ()
    """the tree of supplies"""

    @cached_property
    def _ranked(self) -> dict[str, list[Fit]]:
        return {}

    def best_contact(self, lead: str, but: str = "") -> str | None:
        """The best contact for a lead that has no consequence, other than `but`."""
        if lead not in self._ranked:
            self._ranked[lead] = candidates(self.circuit, lead)
        return next((f.contact for f in self._ranked[lead] if f.contact != but and f.grade <= Grade.GOOD), None)


class Draft(Struct, frozen=True):
    """What a check yields; the rule adds its own words."""

    message: str
    subjects: tuple[str, ...]
    numbers: tuple[Number, ...] = ()
    remedies: Callable[[], Iterable[Remedy]] = tuple
    """searched for only when somebody looks at the finding"""
    severity: Severity | None = None
    title: str = ""


Check = Callable[[Facts], Iterator[Draft]]


class Rule(Struct, frozen=True):
    """One thing that goes wrong in practice."""

    id: str
    title: str
    severity: Severity
    reason: str
    source: str
    check: Check

    def findings(self, facts: Facts) -> list[Finding]:
        return [
            Finding(self.id, d.severity or self.severity, d.title or self.title, d.message, d.subjects,
                    d.numbers, d.remedies, self.reason, self.source)
            for d in self.check(facts)
        ]  # fmt: skip


def rule(id: str, title: str, severity: Severity, reason: str, source: str) -> Callable[[Check], Rule]:
    """Makes a rule of a check."""
    return lambda check: Rule(id, title, severity, reason, source, check)

"""What a rule may look at."""

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

from knotplan.catalog.load import Catalog
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.readings import Points
from knotplan.core.match.fit import Fit, Grade, candidates
from knotplan.core.power.budgets import Budget
from knotplan.core.power.tree import Node

if TYPE_CHECKING:
    from knotplan.core.check.trials import Trials


@dataclass(frozen=True)
class Facts:
    """Everything that a rule may look at."""

    circuit: Circuit
    points: Points
    budgets: tuple[Budget, ...]
    catalog: Catalog
    power: tuple[Node, ...] = ()
    """the tree of supplies"""
    trials: "Trials | None" = None
    """in which remedies are tried before they are offered; nothing during a trial itself"""

    @cached_property
    def _ranked(self) -> dict[str, list[Fit]]:
        return {}

    def best_contact(self, lead: str, but: str = "") -> str | None:
        """The best contact for a lead that has no consequence, other than `but`."""
        if lead not in self._ranked:
            self._ranked[lead] = candidates(self.circuit, lead)
        return next(
            (f.contact for f in self._ranked[lead] if f.contact != but and f.grade <= Grade.GOOD), None
        )

"""What a rule may look at."""

from collections.abc import Mapping
from functools import cached_property
from typing import TYPE_CHECKING

from knotplan.catalog.load import Catalog
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.operating_points import failure, operating_points
from knotplan.core.engine.readings import Points
from knotplan.core.match.fit import Fit, Grade, candidates
from knotplan.core.memory.question import question
from knotplan.core.power.budget import Budget
from knotplan.core.power.budgets import budget_by_id
from knotplan.core.power.node import Node
from knotplan.core.power.tree import nodes_by_id, tree

if TYPE_CHECKING:
    from knotplan.core.check.trials import Trials


class Facts:
    """Everything that a rule may look at."""

    def __init__(self, circuit: Circuit, catalog: Catalog, trials: "Trials | None" = None):
        """`trials`: in which remedies are tried before they are offered; nothing during a trial itself."""
        self.circuit, self.catalog, self.trials = circuit, catalog, trials
        self.memory = circuit.memory
        self.memory.about(self)

    @property
    def points(self) -> Points:
        """Voltages and currents; none where the engine failed."""
        return Points() if failure(self.circuit) else self._points

    @cached_property
    def _points(self) -> Points:
        return operating_points(self.circuit)

    @property
    def power(self) -> tuple[Node, ...]:
        """The tree of supplies."""
        return tree(self.circuit)

    @property
    def nodes(self) -> Mapping[str, Node]:
        """What is in it, by id."""
        return nodes_by_id(self.circuit)

    @property
    def budgets(self) -> Mapping[str, Budget]:
        """Sums of currents against their limits, by id."""
        return budget_by_id(self.circuit)

    @question
    def _ranked(self, lead: str) -> list[Fit]:
        return candidates(self.circuit, lead)

    def best_contact(self, lead: str, but: str = "") -> str | None:
        """The best contact for a lead that has no consequence, other than `but`."""
        return next(
            (f.contact for f in self._ranked(lead) if f.contact != but and f.grade <= Grade.GOOD), None
        )

"""What rules go through: each of these gives the subjects of a plan, one after another."""

from collections.abc import Callable, Iterable
from typing import Any

from knotplan.core.check.facts import Facts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.supplies import Pole
from knotplan.core.plan.document import Tie
from knotplan.core.power.budgets import Budget
from knotplan.core.power.tree import Node

Subjects = Callable[[Facts], Iterable[Any]]
"""the subjects of a rule, in the order in which their findings are listed"""


def of_circuit(subjects: Callable[[Circuit], Iterable[Any]]) -> Subjects:
    """What a question about the circuit gives: buses, timers, chains."""
    return lambda facts: subjects(facts.circuit)


def parts(facts: Facts) -> Iterable[str]:
    """Ids of the parts."""
    return facts.circuit.parts


def supplies(facts: Facts) -> Iterable[str]:
    """Ids of the parts that are supplies."""
    return facts.circuit.supplies.on_bench


def leads(facts: Facts) -> Iterable[str]:
    """Every lead of every part."""
    return facts.circuit.contacts.leads()


def ties(facts: Facts) -> Iterable[Tie]:
    """Every tie of the plan."""
    return facts.circuit.plan.ties


def pins(facts: Facts) -> Iterable[str]:
    """Signal pins, of the board and of hubs, to which something is tied."""
    return facts.circuit.ties.holders


def ties_on_pins(facts: Facts) -> Iterable[Tie]:
    """Ties on signal pins, pin by pin."""
    return (tie for _, _, tie in facts.circuit.ties.on_pins())


def supply_nodes(facts: Facts) -> Iterable[Node]:
    """Every node of the tree of supplies."""
    return (node for root in facts.power for node in root.walk())


def poles_of_nets(facts: Facts) -> Iterable[list[Pole]]:
    """What has a voltage of its own on each net: ground, rails of the board, ends of supplies."""
    return facts.circuit.supplies.poles.values()


def budgets(facts: Facts) -> Iterable[Budget]:
    """Sums of currents against their limits."""
    return facts.budgets


def pins_that_carry(facts: Facts) -> Iterable[str]:
    """Signal pins whose current is known."""
    return facts.points.pins

"""What rules go through: each of these gives the subjects of a plan, one after another."""

from collections.abc import Callable, Iterable, Mapping
from functools import cache
from typing import Any

from msgspec import Struct

from knotplan.core.check.facts import Facts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import ties_of
from knotplan.core.memory.question import Each, TableQuestion

Keys = Callable[[Facts], Iterable[Any]]


class Subjects(Struct, frozen=True, eq=False):
    """The subjects of a rule, in the order in which their findings are listed. Each has a key, by which it is
    known again after an edit."""

    keys: Keys
    of: Callable[[Facts, Any], Iterable[Any]]
    """the subjects of a key: mostly one"""


def entries(table: Callable[[Facts], Mapping[Any, Any]]) -> Subjects:
    """The entries of a table."""
    return Subjects(table, lambda facts, key: (table(facts)[key],))


@cache
def of_each(several: Each[Circuit, Any, Iterable[Any]]) -> Subjects:
    """What a question gives for each tie, part or pin: none, one, or several."""
    return Subjects(lambda facts: several.all(facts.circuit), lambda facts, key: several(facts.circuit, key))


@cache
def of_each_fact(several: Each[Facts, Any, Iterable[Any]]) -> Subjects:
    """The same of the facts."""
    return Subjects(several.all, several)


@cache
def listed(subjects: Callable[[Facts], Iterable[Any]]) -> Subjects:
    """What a function gives, numbered."""

    def numbered(facts: Facts) -> dict[int, Any]:
        return dict(enumerate(subjects(facts)))

    return entries(TableQuestion(numbered))


@cache
def of_circuit(subjects: Callable[[Circuit], Iterable[Any]]) -> Subjects:
    """What a question about the circuit gives: buses, timers, chains."""
    return listed(lambda facts: subjects(facts.circuit))


def _part_ids(facts: Facts) -> Iterable[str]:
    return facts.circuit.parts.keys()


def _leads_of(facts: Facts, part_id: str) -> list[str]:
    return [f"{part_id}.{name}" for name in facts.circuit.parts[part_id].leads]


def _pins_in_use(facts: Facts) -> Iterable[str]:
    return facts.circuit.ties.holders.keys()


parts = Subjects(_part_ids, lambda facts, part: (part,) if part in facts.circuit.parts else ())
"""ids of the parts"""
leads = Subjects(_part_ids, _leads_of)
"""every lead of every part"""
ties = Subjects(_part_ids, lambda facts, part_id: ties_of(facts.circuit, part_id))
"""every tie of the plan, part by part"""
pins = Subjects(_pins_in_use, lambda facts, pin: (pin,) if pin in facts.circuit.ties.holders else ())
"""signal pins, of the board and of hubs, to which something is tied"""
ties_on_pins = Subjects(_pins_in_use, lambda facts, pin: facts.circuit.ties.holders[pin])
"""ties on signal pins, pin by pin"""
pins_that_carry = Subjects(_pins_in_use, lambda facts, pin: (pin,) if pin in facts.points.pins else ())
"""signal pins whose current is known"""
supply_nodes = entries(lambda facts: facts.nodes)
"""every node of the tree of supplies"""
poles_of_nets = entries(lambda facts: facts.circuit.supplies.poles)
"""what has a voltage of its own on each net: ground, rails of the board, ends of supplies"""
budgets = entries(lambda facts: facts.budgets)
"""sums of currents against their limits"""

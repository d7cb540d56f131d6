"""Remedies that are looked for when somebody asks, in the facts of that moment.

A rule hands over how to look, not what is found: looking takes longer than checking, and most findings are
never opened. What it looks at is given then, and is never older than the plan on the screen.
"""

from collections.abc import Callable, Iterable
from typing import Concatenate, ParamSpec

from knotplan.core.check.facts import Facts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.remedy import Remedy

P = ParamSpec("P")
Remedies = Iterable[Remedy]
Search = Callable[[Facts], Remedies]


def none(facts: Facts) -> Remedies:
    """Nothing helps that the program knows of."""
    return ()


def given(*remedies: Remedy) -> Search:
    """These, which need no looking for."""
    return lambda facts: remedies


def on_demand(find: Callable[P, Remedies], *arguments: P.args, **named: P.kwargs) -> Search:
    """What a function finds that needs no facts."""
    return lambda facts: find(*arguments, **named)


def from_facts(
    find: Callable[Concatenate[Facts, P], Remedies], *arguments: P.args, **named: P.kwargs
) -> Search:
    """What a function finds in the facts."""
    return lambda facts: find(facts, *arguments, **named)


def from_circuit(
    find: Callable[Concatenate[Circuit, P], Remedies], *arguments: P.args, **named: P.kwargs
) -> Search:
    """What a function finds in the circuit."""
    return lambda facts: find(facts.circuit, *arguments, **named)

"""Cases: combinations of what pins, contacts and knobs do, while a program runs and at power-on."""

from itertools import product

from knotplan.catalog.part import elements as kinds
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cluster import Cluster
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.readings import Case

MOST_FREE = 3
"""with more driven pins or contacts than this in one cluster, not all combinations are looked at"""


MOVES: dict[type, list[str]] = {
    kinds.Switch: ["open", "closed"],
    kinds.Track: ["0", "0.5", "1"],
    kinds.Varies: ["0", "0.5", "1"],
    kinds.Talks: ["low", "high"],
}
"""the states in which each is looked at"""


def some(options: list[list[str]], from_both: bool = False) -> list[tuple[str, ...]]:
    """All combinations, or where there are too many each extreme and each single departure: of pins from
    both extremes, because one LED alone gets the most of a resistor that it shares."""
    if len(options) <= MOST_FREE:
        return list(product(*options))
    first, last = tuple(o[0] for o in options), tuple(o[-1] for o in options)
    singles = [(*first[:k], options[k][-1], *first[k + 1 :]) for k in range(len(options))]
    if from_both:
        singles += [(*last[:k], options[k][0], *last[k + 1 :]) for k in range(len(options))]
    return list(dict.fromkeys([first, last, *singles]))


def cases_of(c: Circuit, cluster: Cluster) -> list[Case]:
    """Every combination of states that a cluster is solved in."""
    running = [_runs(c, p) for p in cluster.pins]
    at_power_on = _power_on_states(c, cluster.pins)
    moves = [MOVES[type(c.parts[p].elements[e])] for p, e in cluster.contacts]
    places = [tuple(zip([of_part(p, e) for p, e in cluster.contacts], s, strict=True)) for s in some(moves)]
    states = [tuple(zip(cluster.pins, s, strict=True)) for s in some(running, from_both=True)]
    cases = [Case("running", s, p) for s in states for p in places]
    return cases + [Case("power-on", state, p) for state in at_power_on for p in places]


def _runs(c: Circuit, pin: str) -> list[str]:
    """The states of a pin while the program runs: those of what its lead needs."""
    functions = c.contacts.pins[pin].functions
    if "sink" in functions:
        return ["low", "off"]
    if "source" in functions:
        return ["high", "off"]
    if "bridge" in functions:
        return ["high", "low"]
    return ["high", "low"] if any(map(c.needs.driven_over, c.ties.holders[pin])) else ["input"]


def _power_on_states(c: Circuit, pins: list[str]) -> list[tuple[tuple[str, str], ...]]:
    """What a cluster's pins do before a program runs, one state after another."""
    if not pins:
        return []
    options = []
    for p in pins:
        states = [
            s
            for w in c.contacts.pins[p].power_on_states
            for s in (("low", "high") if w == "toggling" else (w,))
        ]
        options.append(list(dict.fromkeys(states)))
    return [tuple(zip(pins, s, strict=True)) for s in some(options)]

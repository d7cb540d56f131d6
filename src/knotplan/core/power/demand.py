"""What parts draw, and through which lead: loads by the catalogue,
coils, motors and signals by the engine."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.elements import Coil, Load, Motor
from knotplan.catalog.part.needs import Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import STEPPER_COILS
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.readings import Draw, Points
from knotplan.core.power.activities import Amps

LEAST_A, SIGNAL_A = 1e-6, 1e-3
"""below the first nothing counts, below the second it is one of the signals"""


class Demand(Struct, frozen=True):
    """What one part draws through one of its leads."""

    part: str
    """empty for signals and beads"""
    lead: str
    """through which it comes; empty for signals: they come from the net"""
    net: str
    amps: Amps
    why: str = ""


def demands(circuit: Circuit, points: Points) -> Iterator[Demand]:
    """Everything that draws current from a supplied net: what a part draws
    there through one lead is one demand."""
    all_demands: dict[tuple[str, str, str], Demand] = {}
    for demand in _each(circuit, points):
        key = demand.part, demand.lead, demand.net
        before = all_demands.get(key)
        if before is not None:
            amps = before.amps[0] + demand.amps[0], before.amps[1] + demand.amps[1]
            why = before.why if before.amps[1] >= demand.amps[1] else demand.why
            demand = Demand(*key, amps, why)  # noqa: PLW2901  (the one that both make)
        all_demands[key] = demand
    yield from all_demands.values()


def _each(circuit: Circuit, points: Points) -> Iterator[Demand]:
    yield from _loads(circuit)
    for net, draws in points.draws.items():
        if net in circuit.supplies.origins:
            yield from _driven(circuit, points, net, draws)


def _loads(c: Circuit) -> Iterator[Demand]:
    for part_id, part in c.parts.items():
        by_part: dict[str, Demand] = {}
        for e in part.elements.values():
            if isinstance(e, Load):
                lead = f"{part_id}.{e.a}"
                net = c.nets.of(lead)  # over beads and contacts the engine says it, as with coils
                if net in c.supplies.origins:
                    u, w = by_part[lead].amps if lead in by_part else (0.0, 0.0)
                    by_part[lead] = Demand(part_id, lead, net, (u + e.usual_a, w + e.worst_a), e.reason)
        yield from by_part.values()


def _driven(c: Circuit, points: Points, net: str, draws: list[Draw]) -> Iterator[Demand]:
    """Coils, motors and signals of one net, each cluster in its hungriest case."""
    by: dict[tuple[str, ...], list[Amps]] = {}
    for draw in draws:
        if draw.worst_a > LEAST_A:
            by.setdefault(draw.loads, []).append((draw.usual_a, draw.worst_a))
    for loads, clusters in _great(c, by).items():
        stepper = len(loads) == 1 and c.parts[loads[0]].facts.stepper is not None
        counted = sorted(clusters, key=lambda a: -a[1])[:STEPPER_COILS] if stepper else clusters
        total = sum(u for u, _ in counted), sum(w for _, w in counted)
        for part, share in _shares(c, points, net, loads).items():
            lead = _fed_lead(c, part, net) if part else ""
            yield Demand(part, lead, net, (total[0] * share, total[1] * share), _why(c, part))


def _why(c: Circuit, part: str) -> str:
    """When a part draws that much."""
    if not part:
        return ""
    return "turning" if any(isinstance(e, Motor) for e in c.parts[part].elements.values()) else "on"


def _shares(c: Circuit, points: Points, net: str, loads: tuple[str, ...]) -> dict[str, float]:
    """How what flows from a net is divided among loads of one cluster that hang on it side by side."""
    beside = [p for p in loads if _fed_lead(c, p, net)]
    if len(beside) < 2:
        return {loads[0] if loads else "": 1.0}
    amps = {p: _carried(c, points, p) for p in beside}
    whole = sum(amps.values())
    return {p: a / whole for p, a in amps.items()} if whole else {beside[0]: 1.0}


def _carried(c: Circuit, points: Points, part_id: str) -> float:
    """The most that flows through a part's coils, motors, loads and lights."""
    amps = 0.0
    for name in c.parts[part_id].elements:
        key = of_part(part_id, name)
        readings = [*points.bars.get(key, []), *points.junctions.get(key, [])]
        amps += max((abs(r.typ) for r in readings), default=0.0)
    return amps


def _great(c: Circuit, by: dict[tuple[str, ...], list[Amps]]) -> dict[tuple[str, ...], list[Amps]]:
    """Parts that are no coils or motors are listed by themselves only
    where they draw more than a signal does."""
    amps: dict[tuple[str, ...], list[Amps]] = {}
    for loads, found in by.items():
        driven = any(_by_engine(c, p) for p in loads)
        key = loads if driven or sum(w for _, w in found) > SIGNAL_A else ()
        amps[key] = amps.get(key, []) + found
    return amps


def _by_engine(c: Circuit, part_id: str) -> bool:
    """It has coils or motors, or what it draws comes over beads and contacts."""
    return any(
        isinstance(e, Coil | Motor)
        or (isinstance(e, Load) and c.nets.of(f"{part_id}.{e.a}") not in c.supplies.origins)
        for e in c.parts[part_id].elements.values()
    )


def _fed_lead(c: Circuit, part_id: str, net: str) -> str:
    """The lead of a coil or motor through which its current comes from a net."""
    part = c.parts[part_id]
    leads = [f"{part_id}.{n}" for e in part.elements.values() for n in (e.a, e.b) if n in part.leads]
    leads += [f"{part_id}.{e.a}" for e in part.elements.values() if isinstance(e, Load)]
    direct = [lead for lead in leads if lead in c.ties.at and c.supplies.fed_by(lead) == net]
    supply = [lead for lead in direct if isinstance(c.needs.of(lead), Supply)]
    return next(iter(supply or direct), "")

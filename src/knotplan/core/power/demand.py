"""What parts draw, and through which lead: loads by the catalogue,
coils, motors and signals by the engine."""

from collections.abc import Iterable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.part.elements import Load, Motor
from knotplan.catalog.part.needs import Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import STEPPER_COILS
from knotplan.core.circuit.having import having
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.operating_points import draws, failure, operating_points
from knotplan.core.engine.pieces import of_part as pieces_of_part
from knotplan.core.memory.question import each, table
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


def demands(c: Circuit) -> Iterator[Demand]:
    """Everything that draws current from a supplied net: what a part draws
    there through one lead is one demand."""
    every: dict[tuple[str, str, str], Demand] = {}
    for together in (*_own_loads.all(c).values(), *_driven.all(c).values()):
        for demand in together:
            key = demand.part, demand.lead, demand.net
            every[key] = _both(every[key], demand) if key in every else demand
    yield from every.values()


def _both(before: Demand, more: Demand) -> Demand:
    """Of one part through one lead: the sum, for the reason that makes the most of it."""
    amps = before.amps[0] + more.amps[0], before.amps[1] + more.amps[1]
    return replace(before, amps=amps, why=before.why if before.amps[1] >= more.amps[1] else more.why)


def _with_loads(c: Circuit) -> Iterable[str]:
    return having(c, Load)


@each(_with_loads)
def _own_loads(c: Circuit, part_id: str) -> tuple[Demand, ...]:
    """What a part draws by the catalogue; over beads and contacts the engine says it, as with coils."""
    by_lead: dict[str, Demand] = {}
    for e in c.parts[part_id].elements.values():
        if isinstance(e, Load):
            lead = f"{part_id}.{e.a}"
            net = c.nets.of(lead)
            if net in c.supplies.origins:
                u, w = by_lead[lead].amps if lead in by_lead else (0.0, 0.0)
                by_lead[lead] = Demand(part_id, lead, net, (u + e.usual_a, w + e.worst_a), e.reason)
    return tuple(by_lead.values())


def _drained(c: Circuit) -> Iterable[str]:
    """The supplied nets from which the engine sees current flow."""
    return () if failure(c) else draws(c).keys()


@each(_drained)
def _driven(c: Circuit, net: str) -> tuple[Demand, ...]:
    """Coils, motors and signals of one net, each cluster in its hungriest case."""
    if net not in c.supplies.origins:
        return ()
    by: dict[tuple[str, ...], list[Amps]] = {}
    for draw in draws(c)[net]:
        if draw.worst_a > LEAST_A:
            by.setdefault(draw.loads, []).append((draw.usual_a, draw.worst_a))
    return tuple(demand for loads, amps in _great(c, by).items() for demand in _of_loads(c, net, loads, amps))


def _of_loads(c: Circuit, net: str, loads: tuple[str, ...], clusters: list[Amps]) -> Iterator[Demand]:
    stepper = len(loads) == 1 and c.parts[loads[0]].facts.stepper is not None
    counted = sorted(clusters, key=lambda a: -a[1])[:STEPPER_COILS] if stepper else clusters
    total = sum(u for u, _ in counted), sum(w for _, w in counted)
    for part, share in _shares(c, net, loads).items():
        lead = _fed_lead(c, part, net) if part else ""
        yield Demand(part, lead, net, (total[0] * share, total[1] * share), _why(c, part))


def _why(c: Circuit, part: str) -> str:
    """When a part draws that much."""
    if not part:
        return ""
    return "turning" if any(isinstance(e, Motor) for e in c.parts[part].elements.values()) else "on"


def _shares(c: Circuit, net: str, loads: tuple[str, ...]) -> dict[str, float]:
    """How what flows from a net is divided among loads of one cluster that hang on it side by side."""
    beside = [p for p in loads if _fed_lead(c, p, net)]
    if len(beside) < 2:
        return {loads[0] if loads else "": 1.0}
    amps = {p: _carried(c, p) for p in beside}
    whole = sum(amps.values())
    return {p: a / whole for p, a in amps.items()} if whole else {beside[0]: 1.0}


def _carried(c: Circuit, part_id: str) -> float:
    """The most that flows through a part's coils, motors, loads and lights."""
    points, amps = operating_points(c), 0.0
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
        great = sum(w for _, w in found) > SIGNAL_A or any(p in _by_engine(c) for p in loads)
        amps.setdefault(loads if great else (), []).extend(found)
    return amps


@table
def _by_engine(c: Circuit) -> dict[str, None]:
    """The parts with coils or motors, and those whose own draw comes over beads and contacts."""
    loaded = {part_id: pieces for part_id, pieces in pieces_of_part.all(c).items() if pieces is not None}
    return {part_id: None for part_id, pieces in loaded.items() if pieces.loads}


def _fed_lead(c: Circuit, part_id: str, net: str) -> str:
    """The lead of a coil or motor through which its current comes from a net."""
    part = c.parts[part_id]
    leads = [f"{part_id}.{n}" for e in part.elements.values() for n in (e.a, e.b) if n in part.leads]
    leads += [f"{part_id}.{e.a}" for e in part.elements.values() if isinstance(e, Load)]
    direct = [lead for lead in leads if lead in c.ties.at and c.supplies.fed_by(lead) == net]
    supply = [lead for lead in direct if isinstance(c.needs.of(lead), Supply)]
    return next(iter(supply or direct), "")

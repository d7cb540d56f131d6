"""Operating points: the voltage of every net and the current through everything, in every case.

Clusters of one shape are solved together, with the sample axis holding plan x case x corner.
"""

from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from knotplan.catalog.quantities import Range
from knotplan.core.circuit import GROUND, Circuit
from knotplan.core.network_of import Case, Cluster, clusters
from knotplan.core.plan import BOARD
from knotplan.core.solve.network import Floats, Samples, Topology
from knotplan.core.solve.newton import solve

MOST_CORNERS = 8
"""with more spreads than this in a cluster, only the extremes and single departures are looked at"""


@dataclass(frozen=True)
class Reading:
    """One quantity in one case: over all corners its least, at the centre its typical, its most."""

    case: Case
    min: float
    typ: float
    max: float

    @property
    def most(self) -> float:
        """The greatest magnitude."""
        return max(abs(self.min), abs(self.max))


class Points:
    """Readings by what they are of; each is a list with one reading for every case."""

    def __init__(self) -> None:
        self.volts: dict[str, list[Reading]] = {}
        """by net"""
        self.junctions: dict[str, list[Reading]] = {}
        """current by "part/element" """
        self.bars: dict[str, list[Reading]] = {}
        """current by bead ("tie#0") or "part/element" """
        self.pins: dict[str, list[Reading]] = {}
        """current out of a pin (negative: into it) by pin id"""
        self.draws: dict[str, list[list[Reading]]] = defaultdict(list)
        """current out of a supplied net, by net: one list of readings for each cluster"""


def corner_signs(spreads: int) -> Floats:
    """(spreads, corners) of -1, 0 and 1; the first column is the centre.

    >>> corner_signs(2).tolist()
    [[0.0, -1.0, -1.0, 1.0, 1.0], [0.0, -1.0, 1.0, -1.0, 1.0]]
    """
    if spreads <= MOST_CORNERS:
        grid = np.array(list(np.ndindex(*(2,) * spreads)), float).reshape(-1, spreads).T * 2 - 1
        return np.hstack([np.zeros((spreads, 1)), grid])
    ones = np.ones((spreads, 1))
    return np.hstack([np.zeros((spreads, 1)), ones, -ones, ones - 2 * np.eye(spreads), 2 * np.eye(spreads) - ones])


def _picked(spread: Range, sign: Floats) -> Floats:
    return np.where(sign < 0, spread.min, np.where(sign > 0, spread.max, spread.typ))


@dataclass
class _Job:
    """A cluster ready to be solved."""

    cluster: Cluster
    topology: Topology
    samples: Samples
    corners: int


def _job(circuit: Circuit, cluster: Cluster) -> _Job:
    index = {n: k for k, n in enumerate(cluster.nodes)} | {n: -k - 1 for k, n in enumerate(cluster.fixed)}
    fixed = [circuit.origins[n].volts if n in circuit.origins else Range.exactly(0.0) for n in cluster.fixed]
    names = [b.spread for b in cluster.bars if b.spread] + [d.key for d in cluster.drops]
    names += [n for n in cluster.fixed if n != circuit.ground]
    rows = {name: k for k, name in enumerate(dict.fromkeys(names))}
    signs = corner_signs(len(rows))
    cases, corners = len(cluster.cases), signs.shape[1]
    centre = np.zeros(corners)

    def spread(name: str) -> Floats:
        return signs[rows[name]] if name in rows else centre

    def tiled(row: Floats) -> Floats:
        return np.tile(row, cases)

    siemens = [np.concatenate([1 / _picked(r, spread(b.spread)) for r in b.ohm])
               if len(b.ohm) == cases and cases > 1 else tiled(1 / _picked(b.ohm[0], spread(b.spread)))
               for b in cluster.bars]  # fmt: skip
    shift = [tiled(spread(d.key)) * d.spread_v for d in cluster.drops]
    n_vt = [np.full(cases * corners, d.junction.n_vt) for d in cluster.drops]
    is_a = [d.junction.is_a * np.exp(-s / d.junction.n_vt) for d, s in zip(cluster.drops, shift, strict=True)]
    count = cases * corners

    def stacked(rows: list[Floats]) -> Floats:
        return np.array(rows).reshape(len(rows), count)

    topology = Topology(
        len(cluster.nodes), len(cluster.fixed),
        tuple((index[b.a], index[b.b]) for b in cluster.bars),
        tuple((index[d.a], index[d.b]) for d in cluster.drops),
    )  # fmt: skip
    volts = [tiled(_picked(r, spread(n))) for n, r in zip(cluster.fixed, fixed, strict=True)]
    return _Job(cluster, topology, Samples(stacked(volts), stacked(siemens), stacked(is_a), stacked(n_vt)), corners)


def operating_points(circuit: Circuit) -> Points:
    """Everything that is resistive in a circuit, solved."""
    groups: dict[Topology, list[_Job]] = defaultdict(list)
    for cluster in clusters(circuit):
        job = _job(circuit, cluster)
        groups[job.topology].append(job)
    points = Points()
    for topology, jobs in groups.items():
        joined = Samples(*(np.hstack([getattr(j.samples, name) for j in jobs])
                           for name in ("fixed_v", "siemens", "is_a", "n_vt")))  # fmt: skip
        solved = solve(topology, joined)
        start = 0
        for job in jobs:
            stop = start + job.samples.fixed_v.shape[1]
            part = slice(start, stop)
            _record(circuit, points, job, solved.volts[:, part], solved.resistor_a[:, part],
                    solved.junction_a[:, part])  # fmt: skip
            start = stop
    for net, origin in circuit.origins.items():
        points.volts[net] = [Reading(Case("running"), origin.volts.min, origin.volts.typ, origin.volts.max)]
    points.volts[circuit.ground] = [Reading(Case("running"), 0.0, 0.0, 0.0)]
    return points


def _readings(job: _Job, rows: Floats) -> list[list[Reading]]:
    """One list of readings for each row of (rows, samples)."""
    shaped = rows.reshape(rows.shape[0], len(job.cluster.cases), job.corners)
    low, mid, high = shaped.min(axis=2).tolist(), shaped[:, :, 0].tolist(), shaped.max(axis=2).tolist()
    return [[Reading(c, *v) for c, *v in zip(job.cluster.cases, *row, strict=True)]
            for row in zip(low, mid, high, strict=True)]  # fmt: skip


def _record(circuit: Circuit, points: Points, job: _Job, volts: Floats, bar_a: Floats, drop_a: Floats) -> None:
    cluster = job.cluster
    points.volts.update(zip(cluster.nodes, _readings(job, volts), strict=True))
    points.bars.update(zip([b.key for b in cluster.bars], _readings(job, bar_a), strict=True))
    points.junctions.update(zip([d.key for d in cluster.drops], _readings(job, drop_a), strict=True))
    keys = {b.key: k for k, b in enumerate(cluster.bars)}
    if cluster.pins:
        out = np.array([bar_a[keys[f"pin:{p}:high"]] - bar_a[keys[f"pin:{p}:low"]] for p in cluster.pins])
        points.pins.update(zip(cluster.pins, _readings(job, out), strict=True))
    for net in cluster.fixed:
        total = np.zeros(volts.shape[1] if volts.size else job.samples.fixed_v.shape[1])
        for bar, amps in zip(cluster.bars, bar_a, strict=True):
            total += amps * ((bar.a == net) - float(bar.b == net))
        for drop, amps in zip(cluster.drops, drop_a, strict=True):
            total += amps * ((drop.a == net) - float(drop.b == net))
        points.draws[net] += _readings(job, total[None])


def pin_volts(circuit: Circuit, points: Points, pin_id: str) -> list[Reading]:
    """The voltage at a tied pin, for each case."""
    return points.volts.get(circuit.net(f"{BOARD}.{pin_id}"), [])


def ground_net(circuit: Circuit) -> str:
    """The net that all voltages are counted from."""
    return circuit.net(GROUND)

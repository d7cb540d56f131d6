"""Operating points: the voltage of every net and the current through everything, in every case.

Clusters of one shape are solved together, with the sample axis holding plan x case x corner.
"""

from collections import defaultdict
from collections.abc import Iterator
from functools import cache

import numpy as np
from msgspec import Struct

from knotplan.catalog.elements import Bipolar
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cluster import Cluster, Drop
from knotplan.core.engine.clusters import clusters
from knotplan.core.engine.readings import Case, Draw, Points, Row
from knotplan.core.engine.solver.network import Floats, Port, Samples, Solution, SolveError, Topology
from knotplan.core.engine.solver.newton import solve
from knotplan.core.plan.document import BOARD, split

MOST_CORNERS = 9
"""with more spreads than this in a cluster, only the extremes and single departures are looked at"""
MOST_SINGLE = 40
"""with more than this, only the extremes: what one of so many does by itself moves little, and looking costs their square"""


@cache
def corner_signs(spreads: int) -> Floats:
    """(spreads, corners) of -1, 0 and 1; the first column is the centre.

    >>> corner_signs(2).tolist()
    [[0.0, -1.0, -1.0, 1.0, 1.0], [0.0, -1.0, 1.0, -1.0, 1.0]]
    """
    if spreads <= MOST_CORNERS:
        grid = np.array(list(np.ndindex(*(2,) * spreads)), float).reshape(2**spreads, spreads).T * 2 - 1
        return np.hstack([np.zeros((spreads, 1)), grid])
    ones = np.ones((spreads, 1))
    if spreads > MOST_SINGLE:
        return np.hstack([np.zeros((spreads, 1)), ones, -ones])
    return np.hstack([np.zeros((spreads, 1)), ones, -ones, ones - 2 * np.eye(spreads), 2 * np.eye(spreads) - ones])


def _values(spreads: list[tuple[Range, ...]], levels: Floats, cases: int) -> Floats:
    """Values of (elements, cases x samples): each element has one range for all cases, or one for each; `levels`
    (elements, samples) says where in it a sample lies: -1 is its least, 0 typical, 1 its most."""
    count, samples = len(spreads), levels.shape[1]
    if not count:
        return np.zeros((0, cases * samples))
    table = np.array([[(r.min, r.typ, r.max) for r in (rs if len(rs) == cases else rs * cases)] for rs in spreads])
    least, typical, most = table.transpose(2, 0, 1)[:, :, :, None]
    here = levels[:, None, :]
    picked: Floats = (typical + np.where(here < 0, typical - least, most - typical) * here).reshape(count, cases * samples)
    return picked


Key = tuple[object, ...]
"""everything that the solution of a cluster depends on"""


class _Job(Struct):
    """A cluster ready to be solved."""

    key: Key
    cluster: Cluster
    topology: Topology
    samples: Samples


class Record(Struct):
    """What is known of a cluster: rows of readings by kind and key, and what it draws from each supplied net."""

    rows: list[tuple[str, str, Row]] = []
    draws: list[tuple[str, Draw]] = []


class Solved:
    """Solutions of clusters, kept from one analysis to the next: an edit touches few of them.

    A cluster's key is everything that its solution depends on, so a kept one is never out of date.
    """

    def __init__(self) -> None:
        self._last: dict[Key, Record] = {}
        self._now: dict[Key, Record] = {}
        self.electrics: object = None
        self.points: Points | None = None
        """those of the last plan, for edits that change no current"""

    def turn_over(self) -> None:
        """Begins a new analysis; what the one before the last knew is forgotten."""
        if self._now:
            self._last, self._now = self._now, {}

    def get(self, key: Key) -> Record | None:
        found = self._now.get(key) or self._last.get(key)
        if found is not None:
            self._now[key] = found
        return found

    def put(self, key: Key, record: Record) -> None:
        self._now[key] = record


def _given(circuit: Circuit, cluster: Cluster, node: str) -> Range:
    """The voltage of a supplied net, of ground, or of what lies a fixed distance beside one of them."""
    offset = cluster.offsets.get(node)
    if offset is not None:
        base = _given(circuit, cluster, offset.net)
        return Range(base.min + offset.by_v, base.typ + offset.by_v, base.max + offset.by_v)
    return circuit.origins[node].volts if node in circuit.origins else Range.exactly(0.0)


def _key(circuit: Circuit, cluster: Cluster) -> Key:
    volts = tuple(_given(circuit, cluster, n) for n in cluster.fixed)
    return (tuple(cluster.nodes), tuple(cluster.fixed), volts, tuple(cluster.bars), tuple(cluster.drops), tuple(cluster.cases),
            cluster.loads, tuple(_homes(cluster)))  # fmt: skip


def spreads_of(circuit: Circuit, cluster: Cluster) -> list[str]:
    """The names of what varies in a cluster, each by itself."""
    names = [b.spread for b in cluster.bars if b.spread]
    names += [d.spread or d.key for d in cluster.drops if d.spread_v] + [d.shares for d in cluster.drops if d.shares]
    names += [n for n in _homes(cluster) if n != circuit.ground]
    return list(dict.fromkeys(names))


def _homes(cluster: Cluster) -> list[str]:
    """The supplied net that each fixed node belongs to."""
    return [cluster.offsets[n].net if n in cluster.offsets else n for n in cluster.fixed]


def values_of(circuit: Circuit, cluster: Cluster, names: list[str], levels: Floats) -> tuple[Topology, Samples]:
    """The cluster as the engine solves it; `levels` (names, samples) says where each of what varies stands."""
    index = {n: k for k, n in enumerate(cluster.nodes)} | {n: -k - 1 for k, n in enumerate(cluster.fixed)}
    rows = {name: k for k, name in enumerate(names)}
    cases, drops = len(cluster.cases), cluster.drops
    given = np.vstack([levels, np.zeros(levels.shape[1])])  # the last row is for what has no spread

    def at(keys: list[str]) -> Floats:
        found: Floats = given[[rows.get(k, -1) for k in keys]]
        return found

    shift = _values([(Range(-d.spread_v, 0.0, d.spread_v),) for d in drops], at([d.spread or d.key for d in drops]), cases)
    n_vt = np.array([d.junction.n_vt for d in drops]).reshape(-1, 1)
    topology = Topology(
        len(cluster.nodes), len(cluster.fixed),
        tuple((index[b.a], index[b.b]) for b in cluster.bars),
        tuple(_port(d, index) for d in drops),
    )  # fmt: skip
    return topology, Samples(
        _values([(_given(circuit, cluster, n),) for n in cluster.fixed], at(_homes(cluster)), cases),
        1 / _values([b.ohm for b in cluster.bars], at([b.spread for b in cluster.bars]), cases),
        np.array([d.junction.is_a for d in drops]).reshape(-1, 1) * np.ones(shift.shape),
        np.broadcast_to(n_vt, shift.shape), None,
        np.array([d.offset_v for d in drops]).reshape(-1, 1) + shift,
        _values([(d.share,) for d in drops], at([d.shares for d in drops]), cases) if any(d.third for d in drops) else None,
    )  # fmt: skip


def _job(circuit: Circuit, cluster: Cluster, key: Key) -> _Job:
    names = spreads_of(circuit, cluster)
    return _Job(key, cluster, *values_of(circuit, cluster, names, corner_signs(len(names))))


def _port(d: Drop, index: dict[str, int]) -> Port:
    third = index[d.third] if d.third else None
    return Port(index[d.a], index[d.b], third, d.at, "square" if d.square else "exponential")


def operating_points(circuit: Circuit, kept: Solved | None = None) -> Points:
    """Everything that is resistive in a circuit, solved; `kept` saves solving what was solved before."""
    kept = kept or Solved()
    electrics = _electrics(circuit)
    if kept.points is not None and kept.electrics == electrics:
        return kept.points
    kept.electrics, kept.points = electrics, None
    kept.turn_over()
    groups: dict[Topology, list[_Job]] = defaultdict(list)
    points = Points()
    for cluster in clusters(circuit):
        key = _key(circuit, cluster)
        known = kept.get(key)
        if known is not None:
            _lay(points, known)
            continue
        job = _job(circuit, cluster, key)
        groups[job.topology].append(job)
    for topology, jobs in groups.items():
        for job, solution in zip(jobs, _together(topology, jobs), strict=True):
            record = _record(circuit, job.cluster, solution)
            kept.put(job.key, record)
            _lay(points, record)
    _put_transistors(circuit, points)
    for net, origin in circuit.origins.items():
        r = origin.volts
        points.volts.put(net, [Case("running")], np.array([[r.typ, r.min, r.max]]))
    points.volts.put(circuit.ground, [Case("running")], np.zeros((1, 1)))
    kept.points = points
    return points


def _electrics(c: Circuit) -> tuple[object, ...]:
    """All of a plan that currents depend on: not names, colours or places."""
    return c.board, c.plan.set_up, tuple(c.parts.items()), tuple((t.id, t.lead, t.to, t.pull, t.beads) for t in c.plan.ties)


def _together(topology: Topology, jobs: list[_Job]) -> Iterator[Solution]:
    """Clusters of one shape solved in one go, then taken apart again."""
    whole = _solved(topology, jobs)
    start = 0
    for job in jobs:
        part = slice(start, start + job.samples.fixed_v.shape[1])
        start = part.stop
        third = None if whole.third_a is None else whole.third_a[:, part]
        yield Solution(whole.volts[:, part], whole.resistor_a[:, part], whole.junction_a[:, part], third)


FIELDS = ("fixed_v", "siemens", "is_a", "n_vt", "sink_a", "offset_v", "share")


def _solved(topology: Topology, jobs: list[_Job]) -> Solution:
    """All samples of some clusters of one shape; raises SolveError, which names the node as the plan calls it."""
    whole = {name: [getattr(j.samples, name) for j in jobs] for name in FIELDS}
    joined = Samples(*(None if all(x is None for x in xs) else np.hstack(xs) for xs in whole.values()))  # type: ignore[arg-type]
    try:
        return solve(topology, joined)
    except SolveError as error:
        sample = error.sample
        for job in jobs:
            if sample < (count := job.samples.fixed_v.shape[1]):
                case = job.cluster.cases[sample // (count // len(job.cluster.cases))]
                stands = ", ".join(f"{what} {state}" for what, state in (*case.pins, *case.contacts)) or "always"
                name = f"the node {job.cluster.nodes[error.node]!r} ({case.moment}: {stands})"
                raise SolveError(error.node, sample, name) from None
            sample -= count
        raise


def _record(circuit: Circuit, cluster: Cluster, found: Solution) -> Record:
    """Everything that a solution says, as it is kept from one analysis to the next."""
    cases, shape = cluster.cases, (len(cluster.cases), -1)
    record = Record()

    def put(where: str, key: str, row: Floats) -> None:
        record.rows.append((where, key, Row(cases, row.reshape(shape))))

    for node, row in zip(cluster.nodes, found.volts, strict=True):
        put("volts", node, row)
    bars = {bar.key: row for bar, row in zip(cluster.bars, found.resistor_a, strict=True)}
    drops = {drop.key: row for drop, row in zip(cluster.drops, found.junction_a, strict=True)}
    for key, row in bars.items():
        put("bars", key, row)
    for drop in cluster.drops:
        back = drops.get(f"{drop.key}:back")  # of a channel or a zener diode: what is left over of both directions
        both = back is not None and (drop.square or not drop.third)
        put("junctions", drop.key, drops[drop.key] - back if both else drops[drop.key])
    for pin in cluster.pins:
        put("pins", pin, bars[f"pin:{pin}:high"] - bars[f"pin:{pin}:low"])
    record.draws.extend(_draws(circuit, cluster, found))
    return record


def _draws(circuit: Circuit, cluster: Cluster, found: Solution) -> Iterator[tuple[str, Draw]]:
    """What the cluster takes from each supplied net, in its hungriest running case."""
    homes = {n: home for n, home in zip(cluster.fixed, _homes(cluster), strict=True) if home in circuit.origins}
    totals: dict[str, Floats] = {}
    for end, amps in _flows(cluster, found) if homes else ():
        if end in homes:
            before = totals.get(end)
            totals[end] = amps if before is None else before + amps
    running = [k for k, case in enumerate(cluster.cases) if case.moment == "running"] or list(range(len(cluster.cases)))
    for node, total in totals.items():
        table = total.reshape(len(cluster.cases), -1)[running]
        yield homes[node], Draw(cluster.loads, max(0.0, float(table[:, 0].max())), max(0.0, float(table.max())))


def _lay(points: Points, record: Record) -> None:
    """Puts what is known of a cluster among the points."""
    where = {"volts": points.volts.rows, "bars": points.bars.rows, "junctions": points.junctions.rows, "pins": points.pins.rows}
    for kind, key, row in record.rows:
        where[kind][key] = row
    for net, draw in record.draws:
        points.draws[net].append(draw)


def _put_transistors(circuit: Circuit, points: Points) -> None:
    """The current into a hub's contact behind which the engine has a transistor."""
    for contact in circuit.holders:
        part_id, element = split(contact)[0], circuit.driver(contact).element
        if part_id != BOARD and element:
            bipolar = isinstance(circuit.parts[part_id].elements.get(element), Bipolar)
            key = f"{part_id}/{element}:collector" if bipolar else f"{part_id}/{element}"
            points.pins.put_negative(contact, points.bars if bipolar else points.junctions, key)


def _flows(cluster: Cluster, found: Solution) -> Iterator[tuple[str, Floats]]:
    """(node, current out of it) for each end of each element."""
    for bar, amps in zip(cluster.bars, found.resistor_a, strict=True):
        yield bar.a, amps
        yield bar.b, -amps
    for k, (drop, amps) in enumerate(zip(cluster.drops, found.junction_a, strict=True)):
        third = found.third_a[k] if found.third_a is not None and drop.third else 0.0 * amps
        sign = 1.0 if drop.at == "a" else -1.0
        yield drop.third, sign * third
        yield drop.a, amps - (third if drop.at == "a" else 0.0)
        yield drop.b, -amps + (third if drop.at == "b" else 0.0)

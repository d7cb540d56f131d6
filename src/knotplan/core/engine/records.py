"""What the solution of each cluster says, and how clusters are solved: alike ones once, those of one shape
together."""

from collections import defaultdict
from collections.abc import Iterable, Iterator

import numpy as np
from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cluster import Cluster
from knotplan.core.engine.clusters import cluster_of
from knotplan.core.engine.keys import Key, of_pin
from knotplan.core.engine.readings import Draw, Sweep
from knotplan.core.engine.samples import corners_of, shape_of
from knotplan.core.engine.solver.network import Floats, Samples, Solution, SolveError, Topology
from knotplan.core.engine.solver.newton import solve
from knotplan.core.memory.question import table


class Record(Struct, eq=False):
    """What is known of a cluster: readings by what they are of, and what it draws from each supplied net."""

    cluster: Cluster
    volts: dict[str, Sweep] = {}
    bars: dict[Key, Sweep] = {}
    junctions: dict[Key, Sweep] = {}
    pins: dict[str, Sweep] = {}
    draws: list[tuple[str, Draw]] = []


@table
def records(c: Circuit) -> dict[object, Record]:
    """The record of every cluster, by its group; raises SolveError.

    A cluster says everything that its solution depends on, so that of one that stayed as it was is taken
    over. (A sample's solution does not depend on those solved beside it.)
    """
    before, now = records.known(c), cluster_of.all(c).items()
    kept = {key: r for key, x in now if (r := before.get(key)) is not None and r.cluster is x}
    fresh = {key: cluster for key, cluster in now if key not in kept and cluster is not None}
    solved = dict(zip(fresh, solutions(fresh.values()), strict=True))
    return {
        key: kept[key] if key in kept else record_of(cluster, solved[key])
        for key, cluster in now
        if cluster is not None
    }


class _Job(Struct):
    """A cluster ready to be solved."""

    cluster: Cluster
    topology: Topology
    samples: Samples


def solutions(clusters: Iterable[Cluster]) -> list[Solution]:
    """Of each cluster; of those that differ by names only, one is solved."""
    shapes = [(shape_of(cluster), cluster) for cluster in clusters]
    jobs: dict[tuple[object, ...], _Job] = {}
    together: dict[Topology, list[_Job]] = defaultdict(list)
    for shape, cluster in shapes:
        if shape not in jobs:
            job = jobs[shape] = _Job(cluster, *corners_of(cluster))
            together[job.topology].append(job)
    found: dict[int, Solution] = {}
    for topology, alike in together.items():
        found |= zip(map(id, alike), _together(topology, alike), strict=True)
    return [found[id(jobs[shape])] for shape, _ in shapes]


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
    """All samples of some clusters of one shape; raises SolveError, which
    names the node as the plan calls it."""
    whole = {name: [getattr(j.samples, name) for j in jobs] for name in FIELDS}
    joined = Samples(*(None if all(x is None for x in xs) else np.hstack(xs) for xs in whole.values()))  # type: ignore[arg-type]
    try:
        return solve(topology, joined)
    except SolveError as error:
        sample = error.sample
        for job in jobs:
            if sample < (count := job.samples.fixed_v.shape[1]):
                case = job.cluster.cases[sample // (count // len(job.cluster.cases))]
                stands = (
                    ", ".join(f"{what} {state}" for what, state in (*case.pins, *case.contacts)) or "always"
                )
                name = f"the node {job.cluster.nodes[error.node]!r} ({case.moment}: {stands})"
                raise SolveError(error.node, sample, name) from None
            sample -= count
        raise


def record_of(cluster: Cluster, found: Solution) -> Record:
    """Everything that a solution says."""
    cases, shape = cluster.cases, (len(cluster.cases), -1)

    def row(values: Floats) -> Sweep:
        return Sweep(cases, values.reshape(shape))

    bars = {bar.key: amps for bar, amps in zip(cluster.bars, found.resistor_a, strict=True)}
    drops = {drop.key: amps for drop, amps in zip(cluster.drops, found.junction_a, strict=True)}
    record = Record(
        cluster,
        {node: row(volts) for node, volts in zip(cluster.nodes, found.volts, strict=True)},
        {key: row(amps) for key, amps in bars.items()},
    )
    for drop in cluster.drops:
        back = drops.get(
            drop.key.its("back")
        )  # of a channel or a zener diode: what is left over of both directions
        both = back is not None and (drop.square or not drop.third)
        record.junctions[drop.key] = row(drops[drop.key] - back if both else drops[drop.key])
    for pin in cluster.pins:
        record.pins[pin] = row(bars[of_pin(pin).its("high")] - bars[of_pin(pin).its("low")])
    record.draws.extend(_draws(cluster, found))
    return record


def _draws(cluster: Cluster, solution: Solution) -> Iterator[tuple[str, Draw]]:
    """What the cluster takes from each supplied net, in its hungriest running case."""
    homes = {n: home for n, home in zip(cluster.fixed, cluster.homes, strict=True) if home in cluster.fed}
    totals: dict[str, Floats] = {}
    for end, amps in _flows(cluster, solution) if homes else ():
        if end in homes:
            before = totals.get(end)
            totals[end] = amps if before is None else before + amps
    running = [k for k, case in enumerate(cluster.cases) if case.moment == "running"] or list(
        range(len(cluster.cases))
    )
    for node, total in totals.items():
        table = total.reshape(len(cluster.cases), -1)[running]
        yield (
            homes[node],
            Draw(cluster.loads, max(0.0, float(table[:, 0].max())), max(0.0, float(table.max()))),
        )


def _flows(cluster: Cluster, solution: Solution) -> Iterator[tuple[str, Floats]]:
    """(node, current out of it) for each end of each element."""
    for bar, amps in zip(cluster.bars, solution.resistor_a, strict=True):
        yield bar.a, amps
        yield bar.b, -amps
    for k, (drop, amps) in enumerate(zip(cluster.drops, solution.junction_a, strict=True)):
        third = solution.third_a[k] if solution.third_a is not None and drop.third else 0.0 * amps
        sign = 1.0 if drop.at == "a" else -1.0
        yield drop.third, sign * third
        yield drop.a, amps - (third if drop.at == "a" else 0.0)
        yield drop.b, -amps + (third if drop.at == "b" else 0.0)

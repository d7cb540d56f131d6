"""Operating points: the voltage of every net and the current through everything, in every case.

Clusters of one shape are solved together, with the sample axis holding plan x case x corner.
"""

from collections import defaultdict
from collections.abc import Iterator

import numpy as np

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cache import EngineCache, Fingerprint, Record
from knotplan.core.engine.clusters import clusters
from knotplan.core.engine.read_out import put_record, put_transistor_currents, record_of
from knotplan.core.engine.readings import Case, Points
from knotplan.core.engine.samples import Job, job_of, key_of
from knotplan.core.engine.solver.network import Samples, Solution, SolveError, Topology
from knotplan.core.engine.solver.newton import solve


def operating_points(circuit: Circuit, kept: EngineCache | None = None) -> Points:
    """Everything that is resistive in a circuit, solved; `kept` saves solving what was solved before."""
    kept = kept or EngineCache()
    electrics = _electrics(circuit)
    if kept.points is not None and kept.electrics == electrics:
        return kept.points
    kept.electrics, kept.points = electrics, None
    kept.turn_over()
    groups: dict[Topology, list[Job]] = defaultdict(list)
    records: dict[Fingerprint, Record] = {}
    keys = []
    for cluster in clusters(circuit):
        key = key_of(circuit, cluster)
        keys.append(key)
        known = kept.get(key)
        if known is not None:
            records[key] = known
            continue
        job = job_of(circuit, cluster, key)
        groups[job.topology].append(job)
    for topology, jobs in groups.items():
        for job, solution in zip(jobs, _together(topology, jobs), strict=True):
            records[job.key] = record_of(circuit, job.cluster, solution)
            kept.put(job.key, records[job.key])
    points = Points()
    for key in keys:  # in the circuit's order, whatever was known before
        put_record(points, records[key])
    put_transistor_currents(circuit, points)
    for net, origin in circuit.supplies.origins.items():
        r = origin.volts
        points.volts.put(net, [Case("running")], np.array([[r.typ, r.min, r.max]]))
    points.volts.put(circuit.nets.ground, [Case("running")], np.zeros((1, 1)))
    kept.points = points
    return points


def _electrics(c: Circuit) -> tuple[object, ...]:
    """All of a plan that currents depend on: not names, colours or places."""
    return (
        c.board,
        c.plan.set_up,
        tuple(c.parts.items()),
        tuple((t.id, t.lead, t.to, t.pull, t.beads) for t in c.plan.ties),
    )


def _together(topology: Topology, jobs: list[Job]) -> Iterator[Solution]:
    """Clusters of one shape solved in one go, then taken apart again."""
    whole = _solved(topology, jobs)
    start = 0
    for job in jobs:
        part = slice(start, start + job.samples.fixed_v.shape[1])
        start = part.stop
        third = None if whole.third_a is None else whole.third_a[:, part]
        yield Solution(whole.volts[:, part], whole.resistor_a[:, part], whole.junction_a[:, part], third)


FIELDS = ("fixed_v", "siemens", "is_a", "n_vt", "sink_a", "offset_v", "share")


def _solved(topology: Topology, jobs: list[Job]) -> Solution:
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

"""A cluster as the engine solves it: its topology, and the values of its
elements for every case and corner."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cache import Fingerprint
from knotplan.core.engine.cluster import Cluster, Drop, Varying
from knotplan.core.engine.corners import corner_signs
from knotplan.core.engine.solver.network import Floats, Port, Samples, Topology


def _values(spreads: list[tuple[Range, ...]], levels: Floats, cases: int) -> Floats:
    """Values of (elements, cases x samples): each element has one range for all cases, or one for each;
    `levels` (elements, samples) says where in it a sample lies: -1 is its least, 0 typical, 1 its most."""
    count, samples = len(spreads), levels.shape[1]
    if not count:
        return np.zeros((0, cases * samples))
    table = np.array(
        [[(r.min, r.typ, r.max) for r in (rs if len(rs) == cases else rs * cases)] for rs in spreads]
    )
    least, typical, most = table.transpose(2, 0, 1)[:, :, :, None]
    here = levels[:, None, :]
    picked: Floats = (typical + np.where(here < 0, typical - least, most - typical) * here).reshape(
        count, cases * samples
    )
    return picked


class Job(Struct):
    """A cluster ready to be solved."""

    key: Fingerprint
    cluster: Cluster
    topology: Topology
    samples: Samples


def _given(circuit: Circuit, cluster: Cluster, node: str) -> Range:
    """The voltage of a supplied net, of ground, or of what lies a fixed distance beside one of them."""
    offset = cluster.offsets.get(node)
    if offset is not None:
        base = _given(circuit, cluster, offset.net)
        return Range(base.min + offset.by_v, base.typ + offset.by_v, base.max + offset.by_v)
    return circuit.supplies.origins[node].volts if node in circuit.supplies.origins else Range.exactly(0.0)


def key_of(circuit: Circuit, cluster: Cluster) -> Fingerprint:
    """Everything on which the solution of a cluster depends."""
    volts = tuple(_given(circuit, cluster, n) for n in cluster.fixed)
    return (
        tuple(cluster.nodes),
        tuple(cluster.fixed),
        volts,
        tuple(cluster.bars),
        tuple(cluster.drops),
        tuple(cluster.cases),
        cluster.loads,
        tuple(supplied_nets(cluster)),
    )


def spreads_of(circuit: Circuit, cluster: Cluster) -> list[Varying]:
    """The names of what varies in a cluster, each by itself."""
    names: list[Varying] = [b.spread for b in cluster.bars if b.spread]
    names += [d.spread or d.key for d in cluster.drops if d.spread_v] + [
        d.shares for d in cluster.drops if d.shares
    ]
    names += [n for n in supplied_nets(cluster) if n != circuit.nets.ground]
    return list(dict.fromkeys(names))


def supplied_nets(cluster: Cluster) -> list[str]:
    """The supplied net that each fixed node belongs to."""
    return [cluster.offsets[n].net if n in cluster.offsets else n for n in cluster.fixed]


def values_of(
    circuit: Circuit, cluster: Cluster, names: Sequence[Varying], levels: Floats
) -> tuple[Topology, Samples]:
    """The cluster as the engine solves it; `levels` (names, samples)
    says where each of what varies stands."""
    return values_at([_given(circuit, cluster, n) for n in cluster.fixed], cluster, names, levels)


def values_at(
    volts: Sequence[Range], cluster: Cluster, names: Sequence[Varying], levels: Floats
) -> tuple[Topology, Samples]:
    """The same with the voltages of the fixed nodes as they are told."""
    index = {n: k for k, n in enumerate(cluster.nodes)} | {n: -k - 1 for k, n in enumerate(cluster.fixed)}
    rows = {name: k for k, name in enumerate(names)}
    cases, drops = len(cluster.cases), cluster.drops
    given = np.vstack([levels, np.zeros(levels.shape[1])])  # the last row is for what has no spread

    def at(keys: Sequence[Varying]) -> Floats:
        rows_of_keys: Floats = given[[rows.get(k, -1) for k in keys]]
        return rows_of_keys

    shift = _values(
        [(Range(-d.spread_v, 0.0, d.spread_v),) for d in drops], at([d.spread or d.key for d in drops]), cases
    )
    n_vt = np.array([d.junction.n_vt for d in drops]).reshape(-1, 1)
    topology = Topology(
        len(cluster.nodes),
        len(cluster.fixed),
        tuple((index[b.a], index[b.b]) for b in cluster.bars),
        tuple(_port(d, index) for d in drops),
    )
    return topology, Samples(
        _values([(v,) for v in volts], at(supplied_nets(cluster)), cases),
        1 / _values([b.ohm for b in cluster.bars], at([b.spread for b in cluster.bars]), cases),
        np.array([d.junction.is_a for d in drops]).reshape(-1, 1) * np.ones(shift.shape),
        np.broadcast_to(n_vt, shift.shape),
        None,
        np.array([d.offset_v for d in drops]).reshape(-1, 1) + shift,
        _values([(d.share,) for d in drops], at([d.shares for d in drops]), cases)
        if any(d.third for d in drops)
        else None,
    )


def job_of(circuit: Circuit, cluster: Cluster, key: Fingerprint) -> Job:
    """What has to be solved for a cluster, its samples included."""
    names = spreads_of(circuit, cluster)
    return Job(key, cluster, *values_of(circuit, cluster, names, corner_signs(len(names))))


def _port(d: Drop, index: dict[str, int]) -> Port:
    third = index[d.third] if d.third else None
    return Port(index[d.a], index[d.b], third, d.at, "square" if d.square else "exponential")

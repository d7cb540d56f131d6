"""A cluster as the engine solves it: its topology, and the values of its
elements for every case and corner."""

from collections.abc import Sequence

import numpy as np

from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
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


def given_volts(circuit: Circuit, cluster: Cluster) -> list[Range]:
    """The voltages of a cluster's fixed nodes."""
    return [_given(circuit, cluster, n) for n in cluster.fixed]


def _given(circuit: Circuit, cluster: Cluster, node: str) -> Range:
    """The voltage of a supplied net, of ground, or of what lies a fixed distance beside one of them."""
    offset = cluster.offsets.get(node)
    if offset is not None:
        base = _given(circuit, cluster, offset.net)
        return Range(base.min + offset.by_v, base.typ + offset.by_v, base.max + offset.by_v)
    return circuit.supplies.origins[node].volts if node in circuit.supplies.origins else Range.exactly(0.0)


def values_of(cluster: Cluster, names: Sequence[Varying], levels: Floats) -> tuple[Topology, Samples]:
    """The cluster as the engine solves it; `levels` (names, samples)
    says where each of what varies stands."""
    return values_at(cluster.volts, cluster, names, levels)


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
        _values([(v,) for v in volts], at(cluster.homes), cases),
        1 / _values([b.ohm for b in cluster.bars], at([b.spread for b in cluster.bars]), cases),
        np.array([d.junction.is_a for d in drops]).reshape(-1, 1) * np.ones(shift.shape),
        np.broadcast_to(n_vt, shift.shape),
        None,
        np.array([d.offset_v for d in drops]).reshape(-1, 1) + shift,
        _values([(d.share,) for d in drops], at([d.shares for d in drops]), cases)
        if any(d.third for d in drops)
        else None,
    )


def corners_of(cluster: Cluster) -> tuple[Topology, Samples]:
    """The cluster with all its corners."""
    names = cluster.varying
    return values_of(cluster, names, corner_signs(len(names)))


def shape_of(cluster: Cluster) -> tuple[object, ...]:
    """Everything that the numbers of a solution depend on, without names: of clusters alike, one is
    solved."""
    at = {name: k for k, name in enumerate((*cluster.nodes, *cluster.fixed))}
    varies = {name: k for k, name in enumerate(cluster.varying)}
    return (
        len(cluster.nodes),
        tuple(cluster.volts),
        tuple(varies.get(home, -1) for home in cluster.homes),
        tuple((at[b.a], at[b.b], b.ohm, varies.get(b.spread, -1)) for b in cluster.bars),
        tuple(_shape_of_drop(d, at, varies) for d in cluster.drops),
        len(cluster.cases),
    )


def _shape_of_drop(d: Drop, at: dict[str, int], varies: dict[Varying, int]) -> tuple[object, ...]:
    ends = at[d.a], at[d.b], at.get(d.third, -1), d.at, d.square
    law = d.junction, d.spread_v, d.offset_v, d.share
    return (*ends, *law, varies.get(d.spread or d.key, -1), varies.get(d.shares, -1))


def _port(d: Drop, index: dict[str, int]) -> Port:
    third = index[d.third] if d.third else None
    return Port(index[d.a], index[d.b], third, d.at, "square" if d.square else "exponential")

"""Tolerances by chance: many specimens of one net, each with its own supplies, resistors, junctions and pins.

Corners (`knotplan.core.engine.corners`) say how bad it can get at all; this says how often. Every quantity
that has a spread is drawn by itself: with even chances between its least and its typical value, or between
that and its most. So the typical value is the median, and no specimen lies beyond the corners' ranges.
"""

from collections.abc import Callable

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.cluster import Cluster
from knotplan.core.engine.clusters import clusters
from knotplan.core.engine.keys import Key
from knotplan.core.engine.readings import Case
from knotplan.core.engine.samples import values_of
from knotplan.core.engine.solver.network import Floats, Solution
from knotplan.core.engine.solver.newton import solve

COUNT = 10_000
SEED = 20_000
BINS = 40


class Spread(Struct, frozen=True):
    """How one quantity lies among many specimens."""

    case: Case
    values: Floats
    """(specimens,)"""

    def share(self, least: float, most: float) -> float:
        """The share of the specimens that lie from `least` to `most`."""
        return float(np.mean((self.values >= least) & (self.values <= most)))

    def within(self, share: float = 0.9) -> tuple[float, float]:
        """Between which values the middle `share` of the specimens lies."""
        low, high = np.quantile(self.values, [(1 - share) / 2, (1 + share) / 2])
        return float(low), float(high)

    def histogram(self, bins: int = BINS) -> tuple[Floats, Floats]:
        """(edges, specimens in each bin)."""
        low, high = float(self.values.min()), float(self.values.max())
        if not high - low > 1e-12 * max(abs(low), abs(high), 1e-30):  # all alike
            low, high = low - 0.5e-3 * max(abs(low), 1e-9), high + 0.5e-3 * max(abs(high), 1e-9)
        counts, edges = np.histogram(self.values, bins, (low, high))
        return edges, counts.astype(float)


def of_junction(circuit: Circuit, key: Key, case: Case, count: int = COUNT) -> Spread | None:
    """The current through a junction of a part in one case, amperes."""
    cluster = _cluster(circuit, case, lambda c: key in [d.key for d in c.drops])
    if cluster is None:
        return None
    at = [d.key for d in cluster.drops].index(key)
    return Spread(case, _specimens(cluster, count).junction_a[at])


def of_net(circuit: Circuit, net: str, case: Case, count: int = COUNT) -> Spread | None:
    """The voltage of a net in one case, volts."""
    cluster = _cluster(circuit, case, lambda c: net in c.nodes)
    if cluster is None:
        return None
    return Spread(case, _specimens(cluster, count).volts[cluster.nodes.index(net)])


def _cluster(circuit: Circuit, case: Case, wanted: Callable[[Cluster], bool]) -> Cluster | None:
    """The cluster in that one case."""
    for cluster in clusters(circuit):
        if wanted(cluster) and case in cluster.cases:
            at, count = cluster.cases.index(case), len(cluster.cases)
            bars = [replace(b, ohm=(b.ohm[at],)) if len(b.ohm) == count else b for b in cluster.bars]
            return replace(cluster, bars=bars, cases=[case])
    return None


def _specimens(cluster: Cluster, count: int) -> Solution:
    names = cluster.varying
    levels = np.random.default_rng(SEED).uniform(-1.0, 1.0, (len(names), count))
    return solve(*values_of(cluster, names, levels))

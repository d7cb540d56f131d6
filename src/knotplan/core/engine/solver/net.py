"""One network at hand: its topology with many samples, and what Newton's method asks of it."""

from typing import Self

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from knotplan.core.engine.solver.matrix import Full, Matrix, Order, Sparse, least_degree
from knotplan.core.engine.solver.network import Floats, Port, Samples, Solution, Topology

GMIN = 1e-12
"""conductance from every node to ground, so that a floating node has a voltage, siemens"""
Mask = NDArray[np.bool_]
MOST_WRITTEN_OUT = 16
"""nodes up to which the matrix is kept in full"""


def across(volts: Floats, fixed: Floats, ends: tuple[tuple[int, int], ...]) -> Floats:
    """Voltage from the first to the second node of each pair: (pairs, samples)."""
    both = np.concatenate([volts, fixed[::-1]])  # so that -1, the first fixed node, is the last row
    a, b = (np.array([e[k] for e in ends], dtype=int) for k in (0, 1))
    between: Floats = both[a] - both[b]
    return between


def places(which: Mask) -> NDArray[np.intp]:
    """Numbers of the chosen samples, a single one twice: along an axis of one entry NumPy adds up in another
    order, and a sample's last digit would depend on whether others are solved beside it."""
    at = np.flatnonzero(which)
    return np.repeat(at, 2) if len(at) == 1 else at


class Net(Struct):
    """A topology with its samples."""

    t: Topology
    s: Samples
    ports: list[Port]
    order: Order | None = None
    """in which the nodes of a large network are eliminated"""
    linear: tuple[Matrix, Floats] | None = None
    """matrix and source currents without the ports, once they have been asked for"""

    @classmethod
    def of(cls, topology: Topology, samples: Samples) -> Self:
        """The net of a topology with the values of its samples."""
        ports = [Port(*p) for p in topology.junctions]
        if topology.nodes <= MOST_WRITTEN_OUT:
            return cls(topology, samples, ports)
        groups = [
            *topology.resistors,
            *((p.a, p.b) if p.third is None else (p.a, p.b, p.third) for p in ports),
        ]
        return cls(topology, samples, ports, least_degree(topology.nodes, groups))

    @property
    def entries(self) -> int:
        """How many entries its matrix has."""
        return (1 + self.t.nodes) ** 2 if self.order is None else len(self.order.kept)

    @property
    def square(self) -> Mask:
        """(ports, 1): which ports are channels of field-effect transistors."""
        return np.array([p.law == "square" for p in self.ports])[:, None]

    def only(self, which: Mask) -> "Net":
        """The same net with some of its samples, in the order of `places`."""
        s, at = self.s, places(which)

        def cut(values: Floats | None) -> Floats | None:
            return None if values is None else values[:, at]

        kept = Samples(
            s.fixed_v[:, at],
            s.siemens[:, at],
            s.is_a[:, at],
            s.n_vt[:, at],
            cut(s.sink_a),
            cut(s.offset_v),
            cut(s.share),
        )
        return Net(self.t, kept, self.ports, self.order)

    def raised(self, share: float) -> "Net":
        """With all given voltages and currents at a share of what they are."""
        s = self.s
        sink = None if s.sink_a is None else s.sink_a * share
        part = Samples(s.fixed_v * share, s.siemens, s.is_a, s.n_vt, sink, s.offset_v, s.share)
        return Net(self.t, part, self.ports, self.order)

    def ways(self, k: int) -> list[tuple[int, float | Floats]]:
        """(node, what a unit current through port k brings it) of each node that the port touches."""
        port = self.ports[k]
        if port.third is None:
            return [(port.a, -1.0), (port.b, 1.0)]
        share = 1.0 if self.s.share is None else self.s.share[k]
        sign, at, other = (-1.0, port.a, port.b) if port.at == "a" else (1.0, port.b, port.a)
        return [(at, sign * (1 - share)), (port.third, sign * share), (other, -sign)]

    def laws(self, over: Floats) -> tuple[Floats, Floats]:
        """(current, its slope) of each port at given voltages: (ports, samples) each."""
        s = self.s
        v0 = 0.0 if s.offset_v is None else s.offset_v
        x = np.minimum((over - v0) / s.n_vt, 300.0)
        grown = s.is_a * np.exp(x)
        amps, slope = (
            grown - s.is_a * (1.0 if s.offset_v is None else np.exp(-s.offset_v / s.n_vt)),
            grown / s.n_vt,
        )
        square = self.square[:, 0]
        if square.any():
            far = (over - v0)[square] / s.n_vt[square]
            soft = np.logaddexp(0.0, far)
            amps[square] = s.is_a[square] * soft**2
            slope[square] = (
                2 * s.is_a[square] * soft / (1 + np.exp(-np.maximum(far, -300.0))) / s.n_vt[square]
            )
        return amps, slope

    def better_known(self, volts: Floats, amps: Floats) -> Floats:
        """Voltages over the ports: from their currents where the law can be
        turned round, which says more digits."""
        s = self.s
        v0 = np.zeros_like(s.n_vt) if s.offset_v is None else s.offset_v
        least = np.exp(-v0 / s.n_vt)
        turned = v0 + s.n_vt * np.log(np.maximum(amps / s.is_a + least, 1e-6 * least))
        better: Floats = np.where(self.square, self.across(volts), turned)
        return better

    def limited(self, new: Floats, old: Floats) -> Floats:
        """A port's next voltage, kept from running up its exponential (Nagel, SPICE2, 1975)."""
        s = self.s
        v0 = 0.0 if s.offset_v is None else s.offset_v
        critical = s.n_vt * np.log(s.n_vt / (np.sqrt(2) * s.is_a))
        a, b = new - v0, old - v0
        far = (a > critical) & (np.abs(a - b) > 2 * s.n_vt)
        rising = b + s.n_vt * np.log(np.maximum(1 + (a - b) / s.n_vt, 1e-30))
        from_off = s.n_vt * np.log(np.maximum(a, s.n_vt) / s.n_vt)
        kept = np.where(far, np.where(b > 0, np.where(a > b - s.n_vt, rising, critical), from_off), a) + v0
        limited: Floats = np.where(self.square, new, kept)
        return limited

    def across(self, volts: Floats, fixed: Floats | None = None) -> Floats:
        """Voltage over each port: (ports, samples)."""
        return across(
            volts, self.s.fixed_v if fixed is None else fixed, tuple((p.a, p.b) for p in self.ports)
        )

    def conductances(self) -> tuple[Matrix, Floats]:
        """(matrix, source currents) of the linear part, for the caller to add to."""
        if self.linear is None:
            self.linear = self._linear()
        matrix, source = self.linear
        return matrix.copy(), source.copy()

    def _linear(self) -> tuple[Matrix, Floats]:
        t, s = self.t, self.s
        count = s.fixed_v.shape[1]
        matrix: Matrix = Full.empty(t.nodes, count) if self.order is None else Sparse.empty(self.order, count)
        source = np.zeros((t.nodes, count))
        for node in range(t.nodes):
            matrix.add(node, node, GMIN)
        for (a, b), g in zip(t.resistors, s.siemens, strict=True):
            for here, there in ((a, b), (b, a)):
                if here < 0:
                    continue
                matrix.add(here, here, g)
                if there >= 0:
                    matrix.add(here, there, -g)
                else:
                    source[here] += g * s.fixed_v[-there - 1]
        if s.sink_a is not None:
            for node, amps in zip(t.sinks, s.sink_a, strict=True):
                source[node] -= amps
        return matrix, source

    def least_ohms(self) -> Floats:
        """Of each port, no more than the resistance that it sees, as if all but its own
        nodes were fixed: (ports, samples)."""
        t, s = self.t, self.s
        siemens = np.full((t.nodes + 1, s.fixed_v.shape[1]), GMIN)
        siemens[-1] = np.inf  # fixed nodes, whose numbers are negative
        for ends, g in zip(t.resistors, s.siemens, strict=True):
            for node in ends:
                siemens[max(node, -1)] += g
        a, b = [max(p.a, -1) for p in self.ports], [max(p.b, -1) for p in self.ports]
        least: Floats = 1 / siemens[a] + 1 / siemens[b]
        return least

    def open_and_unit(self) -> tuple[Matrix, Floats]:
        """The matrix, and as right sides the sources and a unit current through each port."""
        matrix, source = self.conductances()
        right = np.zeros((self.t.nodes, 1 + len(self.ports), source.shape[1]))
        right[:, 0] = source
        for k in range(len(self.ports)):
            for node, brings in self.ways(k):
                if node >= 0:
                    right[node, 1 + k] += brings
        return matrix, right

    def solution(self, volts: Floats, amps: Floats) -> Solution:
        """What was found, by element: volts of the nodes, amperes of the bars and ports."""
        third = None if self.s.share is None else self.s.share * amps
        return Solution(volts, across(volts, self.s.fixed_v, self.t.resistors) * self.s.siemens, amps, third)

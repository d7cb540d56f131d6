"""Nodal analysis by Newton's method on the junctions' ports, over all samples at once.

Sources are Norton sources (a fixed node behind a resistance), so the matrix is that of a conductance
network: symmetric and diagonally dominant, and elimination needs no pivots. The linear part is solved
once for its open-circuit voltages and port resistances; Newton's method then runs on the ports
alone (``v = v_open - R i(v)``), which costs next to nothing for the one or two that a net has.
A network of many nodes has many ports, whose resistances would fill a table of their square: it takes the
same steps by way of its nodes. Samples that do not settle there are solved on the nodes with shorter steps,
and those that do not settle there either by raising all sources from nothing, a step at a time.

**A sample's solution does not depend, to its last digit, on those that are solved beside it**: a sample that
has settled stays as it is while others go on. What was kept of earlier analyses changes no report that way.
"""

from collections.abc import Callable
from functools import partial

import numpy as np

from knotplan.core.engine.effort import EFFORT
from knotplan.core.engine.solver.matrix import eliminated
from knotplan.core.engine.solver.net import GMIN, Mask, Net, places
from knotplan.core.engine.solver.network import Floats, Samples, Solution, SolveError, Topology

TOLERANCE_V = 1e-9
MOST_STEPS = 60
MOST_NODE_STEPS = 200
USUAL_STEPS = 15
"""what is counted as effort: most networks settle in as many or fewer"""
NODE_TOLERANCE_V = 5e-6
"""nodes that only leakage reaches are no better known than that: a picoampere through 1/GMIN is a volt"""
POLISHING = 12
"""steps on the nodes from a solution that rounding has left coarse; two or three do as a rule"""
MANY_PORTS = 8
"""with more ports than this, and more than nodes, the nodes are the fewer unknowns"""
FIRST_STAGE, LEAST_STAGE = 0.1, 1e-4
"""shares of the sources by which they are raised"""
EPSILON = float(np.finfo(float).eps)
Found = tuple[Floats, Floats, Mask]
"""(node voltages, port currents, which samples settled)"""


def solve(topology: Topology, samples: Samples) -> Solution:
    """Voltages and currents of every sample; raises SolveError."""
    net = Net.of(topology, samples)
    if samples.fixed_v.shape[1] == 1:
        return _first(_solved(net.only(np.array([True]))))
    return _solved(net)


def _first(twice: Solution) -> Solution:
    """Of one sample that was solved twice."""
    third = None if twice.third_a is None else twice.third_a[:, :1]
    return Solution(twice.volts[:, :1], twice.resistor_a[:, :1], twice.junction_a[:, :1], third)


def _solved(net: Net) -> Solution:
    rows = len(net.ports) if net.order is None else USUAL_STEPS
    EFFORT.spend(1 + rows * net.entries * net.s.fixed_v.shape[1] / 25_000)
    if not net.ports:
        matrix, source = net.conductances()
        return net.solution(matrix.solve(source[:, None])[:, 0], np.zeros((0, source.shape[1])))
    with np.errstate(all="ignore"):  # what comes to nothing here is solved by the next method
        return _settled(net)


def _settled(net: Net) -> Solution:
    coarse = np.zeros(net.s.fixed_v.shape[1], bool)
    if net.order is None and len(net.ports) > max(MANY_PORTS, net.t.nodes):
        volts, amps, settled = _on_nodes(net, np.zeros_like(net.s.n_vt), MOST_NODE_STEPS, TOLERANCE_V)
    else:
        linear = _Responses(net) if net.order is None else _Tangents(net)
        volts, amps, settled = _on_ports(net, linear)
        coarse = settled & (linear.rounding(amps) > TOLERANCE_V).any(axis=0)
    if coarse.any():  # a few steps with the full matrix give back the digits that the ports' ohms cost
        at = places(coarse)
        known = net.only(coarse).better_known(volts[:, at], amps[:, at])
        polished = partial(_on_nodes, over=known, steps=POLISHING, tolerance=TOLERANCE_V, polish=True)
        _replace(net, coarse, volts, amps, polished)
    for method in (_from_nothing, _stepped):
        if not settled.all():
            settled = settled | _replace(net, ~settled, volts, amps, method)
    if not settled.all():
        sample = int(np.flatnonzero(~settled)[0])
        raise SolveError(_restless(net, sample), sample)
    return net.solution(volts, amps)


def _restless(net: Net, sample: int) -> int:
    """The node that moves most between two steps of a sample that does not settle."""
    net = net.only(np.arange(net.s.fixed_v.shape[1]) == sample)
    over = np.zeros_like(net.s.n_vt)
    volts = last = np.zeros((net.t.nodes, over.shape[1]))
    for _ in range(MOST_STEPS):
        last, volts = volts, _node_step(net, over)
        over = net.limited(net.across(volts), over)
    return int(np.abs(volts - last)[:, 0].argmax())


def _replace(net: Net, which: Mask, volts: Floats, amps: Floats, method: Callable[[Net], Found]) -> Mask:
    """Solves some samples by another method and puts in what settled; says which did."""
    found, currents, settled = method(net.only(which))
    at = places(which)[settled]
    volts[:, at], amps[:, at] = found[:, settled], currents[:, settled]
    done = np.zeros(len(which), bool)
    done[at] = True
    return done


class _Responses:
    """Every port's tangent solved with the ports' resistances: for few of them."""

    def __init__(self, net: Net):
        matrix, right = net.open_and_unit()
        self.response = matrix.solve(right)
        none = np.zeros_like(net.s.fixed_v)
        self.opened = net.across(self.response[:, 0])
        self.ohms = -np.stack(
            [net.across(self.response[:, 1 + k], none) for k in range(len(net.ports))], axis=1
        )
        self.own = np.stack([self.ohms[k, k] for k in range(len(net.ports))])
        self.most_ohms = np.abs(self.ohms).max(axis=(0, 1))

    def reached(self, volts: Floats, amps: Floats, slope: Floats) -> tuple[Floats, Floats]:
        """(voltages over the ports, currents) where each port follows its
        tangent: (R + diag(1/g)) i = right."""
        ohm = 1 / np.maximum(slope, 1e-40)
        right = self.opened - volts + amps * ohm
        if len(ohm) == 1:
            new = right / (self.ohms[0] + ohm)
        else:
            matrix = self.ohms.copy()
            for k in range(len(ohm)):
                matrix[k, k] += ohm[k]
            new = eliminated(matrix, right[:, None])[:, 0]
        return self.opened - (self.ohms * new).sum(axis=1), new

    def keep(self, done: Mask) -> None:
        """Nothing is carried from step to step here."""

    def rounding(self, amps: Floats) -> Floats:
        """Volts of each port that are left to rounding: nodes that only junctions, or open contacts, join to
        the rest make ports of up to 1/GMIN, and milliamperes through them say no more than that."""
        at_most = 8 * EPSILON * self.most_ohms * np.abs(amps).sum(axis=0)
        matters = at_most > TOLERANCE_V
        if not matters.any():
            return np.zeros_like(amps)
        left: Floats = 8 * EPSILON * (np.abs(self.ohms) * np.abs(amps)).sum(axis=1)
        return np.where(matters, left, 0.0)

    def volts(self, amps: Floats) -> Floats:
        """Voltages of the nodes at given currents of the ports."""
        nodes_v: Floats = self.response[:, 0] + (self.response[:, 1:] * amps).sum(axis=1)
        return nodes_v


class _Tangents:
    """Every port's tangent solved by way of the nodes: for many ports."""

    def __init__(self, net: Net):
        self.net = net
        matrix, source = net.conductances()
        self.nodes = self.last = matrix.solve(source[:, None])[:, 0]
        self.opened = net.across(self.nodes)
        self.own = net.least_ohms()

    def reached(self, volts: Floats, amps: Floats, slope: Floats) -> tuple[Floats, Floats]:
        """(voltages over the ports, currents) where each port follows its tangent."""
        self.last, self.nodes = self.nodes, _node_step(self.net, volts)
        reached = self.net.across(self.nodes)
        return reached, amps + slope * (reached - volts)

    def keep(self, done: Mask) -> None:
        """Leaves some samples as they were before the last step."""
        self.nodes[:, done] = self.last[:, done]

    def rounding(self, amps: Floats) -> Floats:
        """None: the voltages are those of the nodes."""
        return np.zeros_like(amps)

    def volts(self, amps: Floats) -> Floats:
        """Voltages of the nodes at the last tangents."""
        return self.nodes


def _on_ports(net: Net, linear: _Responses | _Tangents) -> Found:
    """Newton's method on the voltages over the ports."""
    s = net.s
    opened = linear.opened
    v0 = 0.0 if s.offset_v is None else s.offset_v
    square = net.square
    # from above: the port's voltage were all of the open voltage across its own port resistance
    start = v0 + s.n_vt * np.log1p(np.maximum(opened - v0, 0.0) / (np.maximum(linear.own, 1e-6) * s.is_a))
    volts = np.where(square, opened, np.minimum(opened, start))
    amps = np.zeros_like(volts)
    settled = np.zeros(volts.shape[1], bool)
    for _ in range(MOST_STEPS):
        reached, new = linear.reached(volts, *net.laws(volts))
        # a long step forward is taken on the logarithm of the current, so that nothing runs away
        # ref: Nagel, SPICE2 (1975), junction voltage limiting
        far = (reached > volts + 2 * s.n_vt) & ~square
        limited = reached
        if far.any():
            grown = np.log1p((reached - volts) / s.n_vt, where=far, out=np.zeros_like(volts))
            limited = np.where(far, volts + s.n_vt * grown, reached)
        close = (np.abs(limited - volts) < TOLERANCE_V + linear.rounding(new)).all(axis=0)
        if settled.any():
            linear.keep(settled)
            limited, new = np.where(settled, volts, limited), np.where(settled, amps, new)
        volts, amps = limited, new
        settled = settled | close
        if settled.all():
            break
    # the currents of the last tangents, not those of the laws at `volts`: steep laws would make of a nanovolt
    # too much
    nodes_v = linear.volts(amps)
    return nodes_v, amps, settled & np.isfinite(nodes_v).all(axis=0)


def _on_nodes(
    net: Net, over: Floats, steps: int, tolerance: float = NODE_TOLERANCE_V, polish: bool = False
) -> Found:
    """Newton's method on the nodes themselves, from given voltages over the ports."""
    volts = np.zeros((net.t.nodes, over.shape[1]))
    settled = np.zeros(over.shape[1], bool)
    for _ in range(steps):
        new = _node_step(net, over)
        limited = net.limited(net.across(new), over)
        close = (np.abs(limited - over) < tolerance).all(axis=0)
        volts, over = np.where(settled, volts, new), np.where(settled, over, limited)
        settled = settled | close
        if settled.all():
            break
    return volts, net.laws(over)[0], settled | polish


def _from_nothing(net: Net) -> Found:
    return _on_nodes(net, np.zeros_like(net.s.n_vt), MOST_NODE_STEPS)


def _stepped(net: Net) -> Found:
    """All sources raised from nothing, a step at a time, each step beginning where the last one ended; each
    sample by steps of its own."""
    count = net.s.fixed_v.shape[1]
    each = [_raised(net.only(np.arange(count) == k)) for k in range(count)]
    volts: Floats = np.hstack([found[0][:, :1] for found in each])
    amps: Floats = np.hstack([found[1][:, :1] for found in each])
    return volts, amps, np.array([found[2].all() for found in each])


def _raised(net: Net) -> Found:
    over = np.zeros_like(net.s.n_vt)
    raised, stage = 0.0, FIRST_STAGE
    solution: Found = (np.zeros((net.t.nodes, over.shape[1])), over, np.zeros(over.shape[1], bool))
    while raised < 1.0 and stage >= LEAST_STAGE:
        here = min(1.0, raised + stage)
        part = net.raised(here)
        volts, amps, settled = _on_nodes(part, over, MOST_NODE_STEPS)
        if settled.all():
            raised, stage = here, stage * 2
            over = part.across(volts)
            solution = volts, amps, settled & (raised >= 1.0)
        else:
            stage /= 4
    return solution


def _node_step(net: Net, over: Floats) -> Floats:
    """Node voltages with every port replaced by its tangent: (nodes, samples)."""
    matrix, right = net.conductances()
    amps, slope = net.laws(over)
    g = slope + GMIN
    rest = amps - g * over
    for k, port in enumerate(net.ports):
        for node, brings in net.ways(k):  # brings * (g (v_a - v_b) + rest) flows into the node
            if node < 0:
                continue
            right[node] += brings * rest[k]
            for end, sign in ((port.a, 1.0), (port.b, -1.0)):
                if end >= 0:
                    matrix.add(node, end, -brings * sign * g[k])
                else:
                    right[node] += brings * sign * g[k] * net.s.fixed_v[-end - 1]
    return matrix.solve(right[:, None])[:, 0]

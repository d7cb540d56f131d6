"""Nodal analysis by Newton's method on the junctions' ports, over all samples at once.

Sources are Norton sources (a fixed node behind a resistance), so the matrix is that of a conductance
network: symmetric and diagonally dominant, and elimination needs no pivots. The linear part is solved
once for its open-circuit voltages and port resistances; Newton's method then runs on the ports
alone (``v = v_open - R i(v)``), which costs next to nothing for the one or two that a net has.
Samples that do not settle there are solved on the nodes, and those that do not settle there either by
raising all sources from nothing, a step at a time.
"""

from collections.abc import Callable

import numpy as np

from knotplan.core.effort import EFFORT
from knotplan.core.solve.net import GMIN, Mask, Net
from knotplan.core.solve.network import Floats, Samples, Solution, SolveError, Topology

TOLERANCE_V = 1e-9
MOST_STEPS = 60
MOST_NODE_STEPS = 200
NODE_TOLERANCE_V = 5e-6
"""nodes that only leakage reaches are no better known than that: a picoampere through 1/GMIN is a volt"""
MOST_WRITTEN_OUT = 16
"""unknowns up to which elimination is written out"""
MANY_PORTS = 8
"""with more ports than this, and more than nodes, the nodes are the fewer unknowns"""
FIRST_STAGE, LEAST_STAGE = 0.1, 1e-4
"""shares of the sources by which they are raised"""
EPSILON = float(np.finfo(float).eps)
Found = tuple[Floats, Floats, Mask]
"""(node voltages, port currents, which samples settled)"""


def solve(topology: Topology, samples: Samples) -> Solution:
    """Voltages and currents of every sample; raises SolveError."""
    net = Net(topology, samples)
    EFFORT.spend(1 + len(net.ports) * samples.fixed_v.shape[1] * (1 + net.t.nodes) ** 2 / 25_000)
    response = _eliminated(*net.open_and_unit())
    if not net.ports:
        return net.solution(response[:, 0], np.zeros((0, response.shape[2])))
    with np.errstate(all="ignore"):  # what comes to nothing here is solved by the next method
        return _settled(net, response)


def _settled(net: Net, response: Floats) -> Solution:
    if len(net.ports) > max(MANY_PORTS, net.t.nodes):
        volts, amps, settled = _on_nodes(net, np.zeros_like(net.s.n_vt), MOST_NODE_STEPS, TOLERANCE_V)
    else:
        volts, amps, settled = _on_ports(net, response)
    if net.bare and settled.any():  # a few steps with the full matrix give back the digits that the ports' 1/GMIN costs
        known = net.only(settled).better_known(volts[:, settled], amps[:, settled])
        _replace(net, settled, volts, amps, lambda part: _on_nodes(part, known, 4, TOLERANCE_V, polish=True))
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
    volts = last = np.zeros((net.t.nodes, 1))
    for _ in range(MOST_STEPS):
        last, volts = volts, _node_step(net, over)
        over = net.limited(net.across(volts), over)
    return int(np.abs(volts - last)[:, 0].argmax())


def _replace(net: Net, which: Mask, volts: Floats, amps: Floats, method: Callable[[Net], Found]) -> Mask:
    """Solves some samples by another method and puts in what settled; says which did."""
    found, currents, settled = method(net.only(which))
    at = np.flatnonzero(which)[settled]
    volts[:, at], amps[:, at] = found[:, settled], currents[:, settled]
    done = np.zeros(len(which), bool)
    done[at] = True
    return done


def _eliminated(matrix: Floats, right: Floats) -> Floats:
    """X of matrix (n, n, samples) times X = right (n, columns, samples); both are overwritten.

    Written out over the sample axis: four times as fast as batched LAPACK for networks as small as most are.
    """
    n = right.shape[0]
    if n > MOST_WRITTEN_OUT:
        found = np.linalg.solve(matrix.transpose(2, 0, 1), right.transpose(2, 0, 1))
        return np.asarray(found.transpose(1, 2, 0), dtype=np.float64)
    for k in range(n - 1):
        factor = matrix[k + 1 :, k] / matrix[k, k]
        matrix[k + 1 :, k + 1 :] -= factor[:, None] * matrix[k, k + 1 :]
        right[k + 1 :] -= factor[:, None] * right[k]
    for k in range(n - 1, -1, -1):
        for j in range(k + 1, n):
            right[k] -= matrix[k, j] * right[j]
        right[k] /= matrix[k, k]
    return right


def _on_ports(net: Net, response: Floats) -> Found:
    """Newton's method on the ports."""
    s, ports = net.s, net.ports
    none = np.zeros_like(s.fixed_v)
    opened = net.across(response[:, 0])
    ohms = -np.stack([net.across(response[:, 1 + k], none) for k in range(len(ports))], axis=1)
    own = np.maximum(np.stack([ohms[k, k] for k in range(len(ports))]), 1e-6)
    v0 = 0.0 if s.offset_v is None else s.offset_v
    square = net.square
    # from above: the port's voltage were all of the open voltage across its own port resistance
    start = v0 + s.n_vt * np.log1p(np.maximum(opened - v0, 0.0) / (own * s.is_a))
    volts = np.where(square, opened, np.minimum(opened, start))
    moved = rounding = new = np.zeros_like(volts)
    for _ in range(MOST_STEPS):
        amps, slope = net.laws(volts)
        ohm = 1 / np.maximum(slope, 1e-40)
        new = _port_step(ohms, ohm, opened - volts + amps * ohm)
        reached = opened - (ohms * new).sum(axis=1)
        # a long step forward is taken on the logarithm of the current, so that nothing runs away
        # ref: Nagel, SPICE2 (1975), junction voltage limiting
        far = (reached > volts + 2 * s.n_vt) & ~square
        safe = volts + s.n_vt * np.log1p(np.maximum(reached - volts, 0.0) / s.n_vt)
        limited = np.where(far, safe, reached)
        moved = np.abs(limited - volts)
        volts = limited
        # a node that only junctions touch has a port of 1/GMIN: milliamperes through it leave so much of rounding,
        # and more than that cannot be asked for here (the polish after this gives the digits back)
        rounding = 8 * EPSILON * (np.abs(ohms) * np.abs(new)).sum(axis=1)
        if (moved < TOLERANCE_V + rounding).all():
            break
    # the currents of the last tangents, not those of the laws at `volts`: steep laws would make of a nanovolt too much
    found = response[:, 0] + (response[:, 1:] * new).sum(axis=1)
    settled = np.asarray((moved < TOLERANCE_V + rounding).all(axis=0)) & np.isfinite(found).all(axis=0)
    return found, new, settled


def _port_step(ohms: Floats, ohm: Floats, right: Floats) -> Floats:
    """Currents of the linearised ports: (R + diag(1/g)) i = right."""
    if len(ohm) == 1:
        single: Floats = right / (ohms[0] + ohm)
        return single
    matrix = ohms.copy()
    for k in range(len(ohm)):
        matrix[k, k] += ohm[k]
    return _eliminated(matrix, right[:, None].copy())[:, 0]


def _on_nodes(net: Net, over: Floats, steps: int, tolerance: float = NODE_TOLERANCE_V, polish: bool = False) -> Found:
    """Newton's method on the nodes themselves, from given voltages over the ports."""
    for _ in range(steps):
        volts = _node_step(net, over)
        limited = net.limited(net.across(volts), over)
        moved = np.abs(limited - over)
        over = limited
        if (moved < tolerance).all():
            break
    settled = np.asarray((moved < tolerance).all(axis=0))
    return volts, net.laws(over)[0], settled | polish


def _from_nothing(net: Net) -> Found:
    return _on_nodes(net, np.zeros_like(net.s.n_vt), MOST_NODE_STEPS)


def _stepped(net: Net) -> Found:
    """All sources raised from nothing, a step at a time, each step beginning where the last one ended."""
    over = np.zeros_like(net.s.n_vt)
    raised, stage = 0.0, FIRST_STAGE
    found: Found = (np.zeros((net.t.nodes, over.shape[1])), over, np.zeros(over.shape[1], bool))
    while raised < 1.0 and stage >= LEAST_STAGE:
        here = min(1.0, raised + stage)
        part = net.raised(here)
        volts, amps, settled = _on_nodes(part, over, MOST_NODE_STEPS)
        if settled.all():
            raised, stage = here, stage * 2
            over = part.across(volts)
            found = volts, amps, settled & (raised >= 1.0)
        else:
            stage /= 4
    return found


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
                    matrix[node, end] -= brings * sign * g[k]
                else:
                    right[node] += brings * sign * g[k] * net.s.fixed_v[-end - 1]
    return _eliminated(matrix, right[:, None])[:, 0]

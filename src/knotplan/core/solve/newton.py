"""Nodal analysis by Newton's method on the junctions' ports, over all samples at once.

Sources are Norton sources (a fixed node behind a resistance), so the matrix is that of a conductance
network: symmetric and diagonally dominant, and elimination needs no pivots. The linear part is solved
once for its open-circuit voltages and port resistances; Newton's method then runs on the junctions
alone (``v = v_open - R i(v)``), which costs next to nothing for the one or two that a net has.
Elimination is written out over the sample axis: four times as fast as batched LAPACK for networks so
small.
"""

import numpy as np

from knotplan.core.solve.network import Floats, Samples, Solution, SolveError, Topology

GMIN = 1e-12
"""conductance from every node to ground, so that a floating node has a voltage, siemens"""
TOLERANCE_V = 1e-9
MOST_STEPS = 100
MOST_NODE_STEPS = 400
NODE_TOLERANCE_V = 5e-6
"""nodes that only leakage reaches are no better known than that: a picoampere through 1/GMIN is a volt"""
EPSILON = float(np.finfo(float).eps)


def _eliminated(matrix: Floats, right: Floats) -> Floats:
    """X of matrix (n, n, samples) times X = right (n, columns, samples); both are overwritten."""
    n = right.shape[0]
    for k in range(n - 1):
        factor = matrix[k + 1 :, k] / matrix[k, k]
        matrix[k + 1 :, k + 1 :] -= factor[:, None] * matrix[k, k + 1 :]
        right[k + 1 :] -= factor[:, None] * right[k]
    for k in range(n - 1, -1, -1):
        for j in range(k + 1, n):
            right[k] -= matrix[k, j] * right[j]
        right[k] /= matrix[k, k]
    return right


def _conductances(t: Topology, s: Samples) -> tuple[Floats, Floats]:
    """(matrix, source currents) of the linear part."""
    count = s.fixed_v.shape[1]
    matrix, source = np.zeros((t.nodes, t.nodes, count)), np.zeros((t.nodes, count))
    for node in range(t.nodes):
        matrix[node, node] = GMIN
    for (a, b), g in zip(t.resistors, s.siemens, strict=True):
        for here, there in ((a, b), (b, a)):
            if here < 0:
                continue
            matrix[here, here] += g
            if there >= 0:
                matrix[here, there] -= g
            else:
                source[here] += g * s.fixed_v[-there - 1]
    if s.sink_a is not None:
        for node, amps in zip(t.sinks, s.sink_a, strict=True):
            source[node] -= amps
    return matrix, source


def _across(volts: Floats, fixed: Floats, ends: tuple[tuple[int, int], ...]) -> Floats:
    """Voltage from the first to the second node of each pair: (pairs, samples)."""
    both = np.concatenate([volts, fixed[::-1]])  # so that -1, the first fixed node, is the last row
    a, b = (np.array([e[k] for e in ends], dtype=int) for k in (0, 1))
    across: Floats = both[a] - both[b]
    return across


def solve(topology: Topology, samples: Samples) -> Solution:
    """Voltages and currents of every sample; raises SolveError."""
    t, s = topology, samples
    matrix, source = _conductances(t, s)
    ports = len(t.junctions)
    right = np.zeros((t.nodes, 1 + ports, source.shape[1]))
    right[:, 0] = source
    for k, (a, b) in enumerate(t.junctions):  # a unit current through junction k
        if a >= 0:
            right[a, 1 + k] -= 1.0
        if b >= 0:
            right[b, 1 + k] += 1.0
    response = _eliminated(matrix, right)
    volts, amps = response[:, 0], np.zeros((0, source.shape[1]))
    if ports:
        bare = set(range(t.nodes)) - {node for ends in t.resistors for node in ends}
        try:
            amps = _junction_currents(t, s, response)
            volts = volts + (response[:, 1:] * amps).sum(axis=1)
            if bare:
                over = s.n_vt * np.log1p(np.maximum(amps, -0.999999 * s.is_a) / s.is_a)
                volts, amps = _on_nodes(t, s, over, 4)
        except SolveError:  # junctions one behind another, turned against each other: their ports say too little
            volts, amps = _on_nodes(t, s, np.zeros_like(s.n_vt), MOST_NODE_STEPS)
    return Solution(volts, _across(volts, s.fixed_v, t.resistors) * s.siemens, amps)


def _junction_currents(t: Topology, s: Samples, response: Floats) -> Floats:
    """Newton's method on the ports: (junctions, samples) of forward current."""
    none = np.zeros_like(s.fixed_v)
    opened = _across(response[:, 0], s.fixed_v, t.junctions)
    ports = range(len(t.junctions))
    ohms = -np.stack([_across(response[:, 1 + k], none, t.junctions) for k in ports], axis=1)
    own = np.stack([ohms[k, k] for k in ports])
    # from above: the junction's voltage were all of the open voltage across its own port resistance
    start = s.n_vt * np.log1p(np.maximum(opened, 0.0) / (own * s.is_a))
    volts = np.minimum(opened, start)
    for _ in range(MOST_STEPS):
        grown = np.exp(np.minimum(volts / s.n_vt, 300.0))
        amps = s.is_a * (grown - 1)
        ohm = s.n_vt / (s.is_a * np.maximum(grown, 1e-30))
        new = _port_step(ohms, ohm, opened - volts + amps * ohm)
        reached = opened - (ohms * new).sum(axis=1)
        # a long step forward is taken on the logarithm of the current, so that nothing runs away
        # ref: Nagel, SPICE2 (1975), junction voltage limiting
        far = reached > volts + 2 * s.n_vt
        safe = volts + s.n_vt * np.log1p(np.maximum(reached - volts, 0.0) / s.n_vt)
        limited = np.where(far, safe, reached)
        moved = np.abs(limited - volts)
        volts = limited
        # a node that only junctions touch has a port of 1/GMIN: milliamperes through it leave so much of rounding,
        # and more than that cannot be asked for here (the polish after this gives the digits back)
        rounding = 8 * EPSILON * (np.abs(ohms) * np.abs(new)).sum(axis=1)
        if (moved < TOLERANCE_V + rounding).all():
            settled: Floats = s.is_a * np.expm1(volts / s.n_vt)
            return settled
    worst = int(np.unravel_index(moved.argmax(), moved.shape)[0])
    raise SolveError(f"no operating point after {MOST_STEPS} steps; junction {worst} did not settle")


def _port_step(ohms: Floats, ohm: Floats, right: Floats) -> Floats:
    """Currents of the linearised junctions: (R + diag(1/g)) i = right."""
    if len(ohm) == 1:
        single: Floats = right / (ohms[0] + ohm)
        return single
    matrix = ohms.copy()
    for k in range(len(ohm)):
        matrix[k, k] += ohm[k]
    return _eliminated(matrix, right[:, None].copy())[:, 0]


def _on_nodes(t: Topology, s: Samples, over: Floats, steps: int) -> tuple[Floats, Floats]:
    """Newton's method on the nodes themselves, from given voltages over the junctions; raises SolveError.

    A node that only junctions touch has a port resistance of 1/GMIN, which costs the ports ten digits; from their
    solution a few steps with the full matrix give them back. From nothing it takes more, with each junction's voltage
    limited (Nagel, SPICE2, 1975).
    """
    critical = s.n_vt * np.log(s.n_vt / (np.sqrt(2) * s.is_a))
    for _ in range(steps):
        volts = _node_step(t, s, over)
        across = _across(volts, s.fixed_v, t.junctions)
        limited = _limited(across, over, s.n_vt, critical)
        moved = np.abs(limited - over)
        over = limited
        if (moved < (TOLERANCE_V if steps < MOST_NODE_STEPS else NODE_TOLERANCE_V)).all():
            break
    else:
        if steps == MOST_NODE_STEPS:
            worst = int(np.unravel_index(moved.argmax(), moved.shape)[0])
            raise SolveError(f"no operating point after {steps} steps; junction {worst} did not settle")
    return volts, s.is_a * np.expm1(over / s.n_vt)


def _limited(new: Floats, old: Floats, n_vt: Floats, critical: Floats) -> Floats:
    """A junction's next voltage, kept from running up its exponential."""
    far = (new > critical) & (np.abs(new - old) > 2 * n_vt)
    rising = old + n_vt * np.log(np.maximum(1 + (new - old) / n_vt, 1e-30))
    from_off = n_vt * np.log(np.maximum(new, n_vt) / n_vt)
    return np.where(far, np.where(old > 0, np.where(new > old - n_vt, rising, critical), from_off), new)


def _node_step(t: Topology, s: Samples, over: Floats) -> Floats:
    """Node voltages with every junction replaced by its tangent: (nodes, samples)."""
    matrix, right = _conductances(t, s)
    grown = s.is_a * np.exp(np.minimum(over / s.n_vt, 300.0))
    g = grown / s.n_vt + GMIN
    offset = grown - s.is_a - g * over
    for k, (a, b) in enumerate(t.junctions):
        for here, there, sign in ((a, b, 1.0), (b, a, -1.0)):
            if here < 0:
                continue
            matrix[here, here] += g[k]
            right[here] -= sign * offset[k]
            if there >= 0:
                matrix[here, there] -= g[k]
            else:
                right[here] += g[k] * s.fixed_v[-there - 1]
    return _eliminated(matrix, right[:, None])[:, 0]

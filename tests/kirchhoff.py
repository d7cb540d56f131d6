"""Kirchhoff's current law, at each node of the tree of supplies and at each node that the engine solved; and
each junction's own law. All for any report."""

from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
import pytest

from knotplan.core.check.report import Report
from knotplan.core.engine import records
from knotplan.core.engine.solver.network import Floats, Port, Samples, Solution, Topology

Solved = tuple[Topology, Samples, Solution]
LEAST_A, LEAST_V = 1e-8, 1e-8
"""the least that is told of a current, and of a voltage, is a thousand times that"""
LEAST_SHARE = 1e-9
"""of the largest current of a node, where thousands of amperes would flow"""
LEAST_SIEMENS = 1e-12
"""what joins every node to ground"""


def assert_currents_add_up(report: Report) -> None:
    """What a node carries is what its children draw from it, and no more arrives below than above."""
    for root in report.power:
        for node in root.walk():
            if node.children:
                drawn = sum(child.drawn.peaks_a for child in node.children)
                assert node.total.peaks_a == pytest.approx(drawn, rel=1e-9, abs=1e-12), node.id
            for child in node.children:
                made = child.kind == "rail" or child.intake is not None
                assert made or child.least_v <= node.least_v + 1e-9, (node.id, child.id)
                assert child.least_v <= child.usual_v + 1e-9, child.id


@contextmanager
def recorded() -> Iterator[list[Solved]]:
    """What the engine solves meanwhile."""
    solved: list[Solved] = []

    def solve(topology: Topology, samples: Samples) -> Solution:
        solved.append((topology, samples, original(topology, samples)))
        return solved[-1][2]

    original = records.solve
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(records, "solve", solve)
        yield solved


def assert_solved(topology: Topology, samples: Samples, solution: Solution) -> None:
    """At every node the currents add up, and each junction carries what its law says of the voltage over it.

    The laws are written down here once more, as `Port` states them (Shockley, 1949; Enz, Krummenacher and
    Vittoz, 1995), and nothing of the solver is used.
    """
    ports = [Port(*j) for j in topology.junctions]
    into, most = np.zeros_like(solution.volts), np.zeros_like(solution.volts)

    def flows(node: int, amps: Floats) -> None:
        if node >= 0:
            into[node] += amps
            most[node] = np.maximum(most[node], np.abs(amps))

    for (a, b), amps in zip(topology.resistors, solution.resistor_a, strict=True):
        flows(a, -amps)
        flows(b, amps)
    for node, amps in zip(topology.sinks, samples.sink_a if topology.sinks else (), strict=True):
        flows(node, -amps)
    for k, (port, amps) in enumerate(zip(ports, solution.junction_a, strict=True)):
        third = _third(port, samples, k) * amps
        flows(port.a, -(amps - third) if port.at == "a" else -amps)
        flows(port.b, amps - third if port.at == "b" else amps)
        if port.third is not None:
            flows(port.third, -third if port.at == "a" else third)
        volts = _volts(port.a, samples, solution) - _volts(port.b, samples, solution)
        beside_v = _beside_its_law(port, samples, k, volts, amps)
        assert beside_v < LEAST_V, (port, beside_v)
    assert (np.abs(into) < LEAST_A + LEAST_SHARE * most).all(), (topology, into)


def _volts(node: int, samples: Samples, solution: Solution) -> Floats:
    voltages: Floats = solution.volts[node] if node >= 0 else samples.fixed_v[-node - 1]
    return voltages


def _third(port: Port, samples: Samples, k: int) -> Floats | float:
    """The share of a port's current that its third node has."""
    if port.third is None:
        return 0.0
    return 1.0 if samples.share is None else samples.share[k]


def _beside_its_law(port: Port, samples: Samples, k: int, volts: Floats, amps: Floats) -> float:
    """By how much the voltage would have to be another for the current, V; of the worst sample."""
    scale, n_vt = samples.is_a[k], samples.n_vt[k]
    v0 = np.zeros_like(n_vt) if samples.offset_v is None else samples.offset_v[k]
    x = (volts - v0) / n_vt
    if port.law == "square":
        law = scale * np.log1p(np.exp(x)) ** 2
        slope = 2 * scale * np.log1p(np.exp(x)) / (1 + np.exp(-x)) / n_vt
    else:
        law = scale * (np.exp(x) - np.exp(-v0 / n_vt))
        slope = scale * np.exp(x) / n_vt
    return float((np.abs(law - amps) / (slope + LEAST_SIEMENS)).max())

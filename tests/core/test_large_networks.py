"""Networks of many nodes: elimination in order of degree, against closed forms,
NumPy's solver and the small method."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from knotplan.core.engine.solver import net as net_module
from knotplan.core.engine.solver.junction import fit
from knotplan.core.engine.solver.matrix import Sparse, least_degree
from knotplan.core.engine.solver.network import Port, Samples, Solution, Topology
from knotplan.core.engine.solver.newton import solve

RED = fit(((0.001, 1.75), (0.02, 2.0)))
PAIRS = st.lists(st.tuples(st.integers(-2, 24), st.integers(-2, 24)), min_size=20, max_size=60)


def lights(count: int, source_ohm: float, volts: float) -> Solution:
    """So many lights on one pin, each with a cord before and behind it."""
    ends, ports = [(-1, 0)], []
    for k in range(count):
        ends += [(0, 1 + 2 * k), (2 + 2 * k, -2)]
        ports.append((1 + 2 * k, 2 + 2 * k))
    ohms = np.array([source_ohm] + [220.0, 0.05] * count)[:, None]
    ones = np.ones((count, 1))
    return solve(
        Topology(1 + 2 * count, 2, tuple(ends), tuple(ports)),
        Samples(np.array([[volts], [0.0]]), 1 / ohms, RED.is_a * ones, RED.n_vt * ones),
    )


@pytest.mark.parametrize("count", [9, 60, 300])
@pytest.mark.parametrize("volts", [1.2, 3.3, 12.0])
def test_many_alike_lights_on_a_pin_share_its_current(count: int, volts: float) -> None:
    """Each has the current of one behind `count` times the source's resistance (closed loop by brentq)."""
    expected = brentq(
        lambda i: volts - i * (25 * count + 220.05) - RED.n_vt * np.log1p(i / RED.is_a),
        0,
        volts / 220,
        xtol=1e-18,
        rtol=1e-14,
    )
    found = lights(count, 25.0, volts)
    assert found.junction_a[:, 0] == pytest.approx([expected] * count, rel=1e-6, abs=1e-11)
    assert found.resistor_a[0, 0] == pytest.approx(count * expected, rel=1e-6, abs=1e-9)  # 600 nodes leak


def test_a_tree_gains_no_entry() -> None:
    branches = [(0, 1 + 2 * k) for k in range(200)] + [(1 + 2 * k, 2 + 2 * k) for k in range(200)]
    order = least_degree(401, branches)
    assert len(order.kept) == 401 + 2 * len(branches)


def test_a_long_chain_and_a_hub_are_ordered_at_once() -> None:
    """Each node is looked at when it changes, not at every round."""
    chain = least_degree(20_000, [(k, k + 1) for k in range(19_999)])
    assert len(chain.kept) == 3 * 20_000 - 2
    hub = least_degree(20_000, [(0, k) for k in range(1, 20_000)])
    assert len(hub.rounds) == 2


@given(PAIRS, st.integers(0, 10**6))
@settings(max_examples=60, deadline=None)
def test_elimination_in_order_of_degree_is_what_numpy_finds(pairs: list[tuple[int, int]], seed: int) -> None:
    r = np.random.default_rng(seed)
    order = least_degree(25, pairs)
    sparse, full = Sparse.empty(order, 3), np.zeros((3, 25, 25))
    for node in range(25):
        sparse.add(node, node, 1.0)
        full[:, node, node] += 1.0
    for a, b in pairs:
        g = r.uniform(0.1, 10.0, 3)
        for here, there in ((a, b), (b, a)):
            if here >= 0 and a != b:
                sparse.add(here, here, g)
                full[:, here, here] += g
            if here >= 0 and there >= 0 and a != b:
                share = r.uniform(
                    0.2, 1.0
                )  # what is taken from one node need not all reach the other: not symmetric
                sparse.add(here, there, -share * g)
                full[:, here, there] -= share * g
    right = r.uniform(-1.0, 1.0, (25, 2, 3))
    expected = np.linalg.solve(full, right.transpose(2, 0, 1)).transpose(1, 2, 0)
    assert sparse.solve(right.copy()) == pytest.approx(expected, rel=1e-9, abs=1e-12)


@st.composite
def networks(draw: st.DrawFn) -> tuple[Topology, Samples]:
    """Resistors to a fixed node from each of some nodes, more between
    them, diodes and transistors anywhere."""
    nodes = draw(st.integers(2, 8))
    node = st.integers(-2, nodes - 1)
    pair = st.tuples(node, node).filter(lambda p: p[0] != p[1])
    ends = [(k, draw(st.sampled_from([-1, -2]))) for k in range(nodes)] + draw(st.lists(pair, max_size=4))
    ports = [Port(*draw(pair)) for _ in range(draw(st.integers(1, 4)))]
    if nodes >= 3 and draw(st.booleans()):
        ports.append(Port(0, 1, 2, "a"))
    ohms = np.array([draw(st.floats(1.0, 1e5)) for _ in ends])[:, None]
    ones = np.ones((len(ports), 1))
    share = np.array([[0.99] if p.third is not None else [0.0] for p in ports])
    fixed = np.array([[draw(st.floats(0.0, 12.0))], [0.0]])
    return (
        Topology(nodes, 2, tuple(ends), tuple(ports)),
        Samples(fixed, 1 / ohms, 1e-14 * ones, 0.026 * ones, share=share),
    )


@given(networks())
@settings(max_examples=80, deadline=None)
def test_both_methods_find_the_same(network: tuple[Topology, Samples]) -> None:
    small = solve(*network)
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(net_module, "MOST_WRITTEN_OUT", 0)
        large = solve(*network)
    assert large.volts == pytest.approx(small.volts, rel=1e-6, abs=1e-7)
    assert large.junction_a == pytest.approx(small.junction_a, rel=1e-5, abs=1e-9)

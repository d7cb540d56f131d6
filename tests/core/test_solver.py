"""The engine against closed forms and SciPy's root finder (brentq), which shares no code with it."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from knotplan.core.engine.solver.junction import fit
from knotplan.core.engine.solver.network import Samples, Solution, SolveError, Topology
from knotplan.core.engine.solver.newton import solve
from tests.conftest import examples

RED = ((0.001, 1.75), (0.02, 2.0))


def run(
    topology: Topology, fixed: list[float], ohms: list[float], points: list = (), sink: list[float] = ()
) -> Solution:
    laws = [fit(p) for p in points]
    column = lambda values: np.array(values, float).reshape(len(values), 1)  # noqa: E731
    return solve(
        topology,
        Samples(
            column(fixed),
            1 / column(ohms),
            column([j.is_a for j in laws]),
            column([j.n_vt for j in laws]),
            column(sink) if sink else None,
        ),
    )


def test_voltage_divider_is_exact() -> None:
    found = run(Topology(1, 2, ((-1, 0), (0, -2)), ()), [5.0, 0.0], [10e3, 15e3])
    assert found.volts[0, 0] == pytest.approx(3.0, rel=1e-7)


@given(st.lists(st.floats(1.0, 1e5), min_size=2, max_size=7))
def test_chain_of_resistors_is_a_divider(ohms: list[float]) -> None:
    """Closed form: the current through resistors in series is V over their sum."""
    n = len(ohms) - 1
    ends = ((-1, 0), *((k, k + 1) for k in range(n - 1)), (n - 1, -2))
    found = run(Topology(n, 2, ends, ()), [5.0, 0.0], ohms)
    assert found.resistor_a[:, 0] == pytest.approx(5.0 / sum(ohms), rel=1e-5)


@given(st.floats(1.2, 12.0), st.floats(10.0, 1e5))
@settings(max_examples=60)
def test_led_and_resistor_against_brentq(volts: float, ohm: float) -> None:
    law = fit(RED)
    total = ohm + law.rs_ohm

    def loop(amps: float) -> float:
        return volts - amps * total - law.n_vt * math.log1p(amps / law.is_a)

    expected = brentq(loop, 0.0, volts / total, xtol=1e-18, rtol=1e-14)
    found = run(Topology(1, 2, ((-1, 0),), ((0, -2),)), [volts, 0.0], [total], [RED])
    assert found.junction_a[0, 0] == pytest.approx(expected, rel=1e-6, abs=1e-11)


def test_two_junctions_in_series_share_their_current() -> None:
    """Two alike in series behave as one with twice the emission voltage (closed loop by brentq)."""
    law = fit(RED)
    expected = brentq(lambda i: 5 - i * 220 - 2 * law.n_vt * math.log1p(i / law.is_a), 0, 5 / 220, xtol=1e-16)
    found = run(Topology(2, 2, ((-1, 0),), ((0, 1), (1, -2))), [5.0, 0.0], [220.0], [RED, RED])
    assert found.junction_a[:, 0] == pytest.approx([expected] * 2, rel=1e-7)


@given(st.floats(2.4, 6.0), st.floats(30.0, 2e4))
@settings(max_examples=60)
def test_two_different_junctions_in_series_with_nothing_else_between(volts: float, ohm: float) -> None:
    """An optocoupler's input and an LED: the node between them is touched by
    junctions only (closed loop by brentq)."""
    opto = ((0.0001, 0.98), (0.005, 1.17))
    one, two = fit(opto), fit(RED)

    def loop(amps: float) -> float:
        return volts - amps * ohm - sum(j.n_vt * math.log1p(amps / j.is_a) for j in (one, two))

    expected = brentq(loop, 0.0, volts / ohm, xtol=1e-18, rtol=1e-14)
    found = run(Topology(2, 2, ((-1, 0),), ((0, 1), (1, -2))), [volts, 0.0], [ohm], [opto, RED])
    assert found.junction_a[:, 0] == pytest.approx([expected] * 2, rel=1e-6, abs=1e-12)


def test_two_junctions_in_parallel_halve_it() -> None:
    law = fit(RED)
    expected = brentq(lambda i: 5 - 2 * i * 220 - law.n_vt * math.log1p(i / law.is_a), 0, 5 / 220, xtol=1e-16)
    found = run(Topology(1, 2, ((-1, 0),), ((0, -2), (0, -2))), [5.0, 0.0], [220.0], [RED, RED])
    assert found.junction_a[:, 0] == pytest.approx([expected] * 2, rel=1e-7)


def test_reverse_junction_leaks_its_saturation_current() -> None:
    found = run(Topology(1, 2, ((-1, 0),), ((-2, 0),)), [5.0, 0.0], [1000.0], [RED])
    assert found.junction_a[0, 0] == pytest.approx(-fit(RED).is_a, rel=1e-3)


def test_current_sink_pulls_a_source_down() -> None:
    found = run(Topology(1, 1, ((-1, 0),), (), (0,)), [5.0], [0.12], sink=[0.65])
    assert found.volts[0, 0] == pytest.approx(5.0 - 0.65 * 0.12)


def test_floating_node_has_a_voltage() -> None:
    found = run(Topology(1, 1, ((-1, 0),), ()), [3.3], [1e12])
    assert math.isfinite(found.volts[0, 0])


@given(st.lists(st.floats(50.0, 1e4), min_size=3, max_size=3), st.floats(2.5, 12))
def test_current_law_holds_at_each_node(ohms: list[float], volts: float) -> None:
    """Kirchhoff: what flows into the middle node flows out of it."""
    found = run(Topology(1, 2, ((-1, 0), (0, -2), (0, -2)), ((0, -2),)), [volts, 0.0], ohms, [RED])
    into = found.resistor_a[0, 0]
    out = found.resistor_a[1, 0] + found.resistor_a[2, 0] + found.junction_a[0, 0]
    assert into == pytest.approx(out, rel=1e-6)


@given(st.floats(10, 1e4), st.floats(1.01, 3))
def test_more_resistance_never_more_current(ohm: float, factor: float) -> None:
    one, more = (
        run(Topology(1, 2, ((-1, 0),), ((0, -2),)), [5.0, 0.0], [r], [RED]).junction_a[0, 0]
        for r in (ohm, ohm * factor)
    )
    assert more < one


@st.composite
def networks(draw: st.DrawFn) -> tuple[Topology, Samples]:
    """A few nodes, resistors and junctions at random, some of them hard to settle, in a few samples."""
    nodes, count = draw(st.integers(1, 20)), draw(st.integers(2, 6))
    node = st.integers(-2, nodes - 1)
    ends = st.tuples(node, node).filter(lambda e: e[0] != e[1])
    resistors = tuple(draw(st.lists(ends, min_size=1, max_size=2 * nodes)))
    junctions = tuple(draw(st.lists(ends, min_size=1, max_size=12)))
    random = np.random.default_rng(draw(st.integers(0, 10**6)))
    volts = random.uniform(-12, 12, (2, count))
    volts[0] = 0
    siemens = 1 / 10 ** random.uniform(0, 6, (len(resistors), count))
    is_a = 10 ** random.uniform(-22, -9, (len(junctions), count))
    return (
        Topology(nodes, 2, resistors, junctions),
        Samples(volts, siemens, is_a, np.full_like(is_a, 0.045)),
    )


@pytest.mark.slow
@settings(deadline=None, max_examples=examples(40))
@given(networks())
def test_samples_do_not_see_each_other(network: tuple[Topology, Samples]) -> None:
    """To the last digit, whether they settle soon, late or by another method."""
    topology, samples = network
    try:
        together = solve(topology, samples)
    except SolveError:
        return
    s = samples
    for k in range(s.fixed_v.shape[1]):
        one = (x[:, k : k + 1] for x in (s.fixed_v, s.siemens, s.is_a, s.n_vt))
        alone = solve(topology, Samples(*one))
        for what in ("volts", "resistor_a", "junction_a"):
            assert np.array_equal(getattr(alone, what)[:, 0], getattr(together, what)[:, k]), (what, k)


def test_fit_goes_through_both_points() -> None:
    for points in (RED, ((1e-5, 0.58), (1e-3, 0.72)), ((0.0001, 0.98), (0.005, 1.17))):
        law = fit(points)
        assert law.rs_ohm >= 0
        for amps, volts in points:
            assert law.voltage(amps) == pytest.approx(volts, abs=1e-9)


def test_points_that_do_not_rise_are_refused() -> None:
    with pytest.raises(ValueError, match="rise"):
        fit(((0.02, 2.0), (0.001, 1.75)))

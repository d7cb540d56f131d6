"""Transistors and zener diodes in the engine, against SciPy's root finders and closed
forms, which share no code with it."""

import math
from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq, root

from knotplan.core.engine.solver import newton
from knotplan.core.engine.solver.junction import VT, fit
from knotplan.core.engine.solver.network import Port, Samples, Solution, SolveError, Topology
from knotplan.core.engine.solver.transistor import (
    REVERSE_GAIN,
    Channel,
    channel,
    forward_share,
    reverse_junction,
)

BASE = fit(((0.0001, 0.60), (0.1, 0.82)))
GAIN = 180.0


def run(
    topology: Topology,
    fixed: list[float],
    ohms: list[float],
    laws: list[tuple[float, float, float]],
    shares: list[float] | None = None,
) -> Solution:
    """One sample; each law is (Is, nVt, v0)."""

    def column(values: list[float]) -> np.ndarray:
        return np.array(values, float).reshape(len(values), 1)

    is_a, n_vt, offset = (column([law[k] for law in laws]) for k in range(3))
    return newton.solve(
        topology,
        Samples(
            column(fixed), 1 / column(ohms), is_a, n_vt, None, offset, column(shares) if shares else None
        ),
    )


def bipolar(
    nodes: tuple[int, int, int], kind: str = "npn"
) -> tuple[list[Port], list[tuple[float, float, float]], list[float]]:
    """The ports, laws and shares of a transistor between (base, emitter, collector)."""
    base, emitter, collector = nodes
    back = reverse_junction(BASE, GAIN)
    at = "a" if kind == "npn" else "b"
    ports = []
    for far, third in ((emitter, collector), (collector, emitter)):
        ends = (base, far) if kind == "npn" else (far, base)
        ports.append(Port(*ends, third, at))
    laws = [(j.is_a, j.n_vt, 0.0) for j in (BASE, back)]
    return ports, laws, [forward_share(GAIN), forward_share(1.0)]


def transport(v_be: float, v_bc: float) -> tuple[float, float]:
    """(collector current, base current) in the transport form of the same equations (Gummel and Poon,
    1970, without high-level effects): written from I_S and the two gains, not from shares."""
    i_s = BASE.is_a * GAIN / (1 + GAIN)
    forward, back = i_s * math.expm1(v_be / BASE.n_vt), i_s * math.expm1(v_bc / BASE.n_vt)
    return forward - back - back / 1.0, forward / GAIN + back / 1.0


@given(st.floats(1.5, 12.0), st.floats(200.0, 2e5), st.floats(10.0, 5e3))
@settings(max_examples=60, deadline=None)
def test_npn_switch_against_a_root_finder(volts: float, base_ohm: float, load_ohm: float) -> None:
    """A base resistor and a load, from cut-off to deep saturation: two loop
    equations, solved by SciPy's hybrid method."""
    ports, laws, shares = bipolar((0, -3, 1))
    found = run(
        Topology(2, 3, ((-1, 0), (-2, 1)), tuple(ports)),
        [3.3, volts, 0.0],
        [base_ohm, load_ohm],
        laws,
        shares,
    )

    def loops(x: np.ndarray) -> list[float]:
        collector, base = transport(x[0], x[0] - x[1])
        return [3.3 - base * base_ohm - x[0], volts - collector * load_ohm - x[1]]

    start = [0.65, min(volts, max(0.1, volts - GAIN * (3.3 - 0.65) / base_ohm * load_ohm))]
    expected = root(loops, start, tol=1e-12)
    assert max(map(abs, loops(found.volts[:, 0]))) < 1e-4  # the engine's answer satisfies the loops
    if expected.success and max(map(abs, loops(expected.x))) < 1e-9:
        assert found.volts[:, 0] == pytest.approx(expected.x, abs=1e-5)


def test_saturation_voltage_has_its_closed_form() -> None:
    """V_CE = nVt ln((1/aR + (I_C/I_B)(1 - aR)/aR) / (1 - I_C/(B I_B))), from Ebers and Moll's equations
    (Sedra and Smith, Microelectronic Circuits, the chapter on the saturated transistor)."""
    ports, laws, shares = bipolar((0, -3, 1))
    found = run(
        Topology(2, 3, ((-1, 0), (-2, 1)), tuple(ports)), [5.0, 5.0, 0.0], [4.3e3, 470.0], laws, shares
    )
    base, collector = found.resistor_a[:, 0]
    forced, back = collector / base, forward_share(1.0)
    expected = BASE.n_vt * math.log((1 / back + forced * (1 - back) / back) / (1 - forced / GAIN))
    assert found.volts[1, 0] == pytest.approx(expected, rel=1e-5)
    assert 0.02 < found.volts[1, 0] < 0.3


def test_pnp_is_an_npn_upside_down() -> None:
    n_ports, laws, shares = bipolar((0, -3, 1))
    p_ports, _, _ = bipolar((0, -3, 1), "pnp")
    shape = ((-1, 0), (-2, 1))
    npn = run(Topology(2, 3, shape, tuple(n_ports)), [3.3, 9.0, 0.0], [2.2e3, 330.0], laws, shares)
    pnp = run(Topology(2, 3, shape, tuple(p_ports)), [-3.3, -9.0, 0.0], [2.2e3, 330.0], laws, shares)
    assert pnp.volts == pytest.approx(-npn.volts, abs=1e-9)


def test_collector_current_is_the_gain_times_the_base_current() -> None:
    ports, laws, shares = bipolar((0, -3, 1))
    found = run(
        Topology(2, 3, ((-1, 0), (-2, 1)), tuple(ports)), [3.3, 12.0, 0.0], [1e6, 100.0], laws, shares
    )
    assert found.resistor_a[1, 0] / found.resistor_a[0, 0] == pytest.approx(GAIN, rel=1e-6)


def test_darlington_drops_as_two_transistors_do() -> None:
    """Closed loops by SciPy; and the drop that the catalogue's sink has (0.75 V and 1
    ohm) lies within a tenth of a volt."""
    first, laws1, shares1 = bipolar((0, 1, 2))
    second, laws2, shares2 = bipolar((1, -3, 2))
    load = 5.0 / 0.17
    found = run(
        Topology(3, 3, ((-1, 0), (-2, 2)), (*first, *second)),
        [3.3, 5.0, 0.0],
        [2.7e3, load],
        laws1 + laws2,
        shares1 + shares2,
    )

    def loops(x: np.ndarray) -> list[float]:
        b, m, c = x
        c1, b1 = transport(b - m, b - c)
        c2, b2 = transport(m, m - c)
        return [3.3 - b1 * 2.7e3 - b, b2 - (c1 + b1), 5.0 - (c1 + c2) * load - c]

    assert max(map(abs, loops(found.volts[:, 0]))) < 1e-5
    amps = found.resistor_a[1, 0]
    assert found.volts[2, 0] == pytest.approx(0.75 + 1.0 * amps, abs=0.12)


# --- field-effect transistors -------------------------------------------------------------------


def fet(
    gate: int, source: int, drain: int, law: Channel, kind: str = "n"
) -> tuple[list[Port], list[tuple[float, float, float]]]:
    at = "a" if kind == "n" else "b"
    ports = []
    for far, third in ((source, drain), (drain, source)):
        ends = (gate, far) if kind == "n" else (far, gate)
        ports.append(Port(*ends, third, at, "square"))
    return ports, [(law.is_a, 2 * VT, law.threshold_v)] * 2


@given(st.floats(2.6, 10.0), st.floats(2.0, 24.0), st.floats(1.0, 100.0))
@settings(max_examples=60, deadline=None)
def test_fet_switch_against_the_square_law(gate_v: float, volts: float, load_ohm: float) -> None:
    """Far above its threshold: I = K((V_GS - V_T) v - v^2/2) up to v = V_GS - V_T,
    then constant; the loop is a quadratic."""
    law = channel(((2.5, 0.05), (4.5, 0.03)))
    over, k = gate_v - law.threshold_v, law.k
    ports, laws = fet(-1, -3, 0, law)
    found = run(Topology(1, 3, ((-2, 0),), tuple(ports)), [gate_v, volts, 0.0], [load_ohm], laws, [1.0, 1.0])
    # (volts - v)/R = K(over v - v^2/2)  =>  K/2 v^2 - (K over + 1/R) v + volts/R = 0
    a, b, c = k / 2, -(k * over + 1 / load_ohm), volts / load_ohm
    v = (-b - math.sqrt(b * b - 4 * a * c)) / (2 * a) if b * b > 4 * a * c else math.inf
    expected = v if v < over else volts - load_ohm * k * over**2 / 2
    assert found.volts[0, 0] == pytest.approx(expected, rel=2e-3, abs=1e-4)


def test_on_resistance_is_that_of_the_catalogue() -> None:
    law = channel(((2.5, 0.06), (4.5, 0.028)))
    ports, laws = fet(-1, -3, 0, law)
    for gate_v, ohm in ((2.5, 0.06), (4.5, 0.028)):
        found = run(Topology(1, 3, ((-2, 0),), tuple(ports)), [gate_v, 1.0, 0.0], [1000.0], laws, [1.0, 1.0])
        assert found.volts[0, 0] / found.resistor_a[0, 0] == pytest.approx(ohm, rel=1e-3)
        assert law.on_ohm(gate_v) == pytest.approx(ohm)


def test_p_channel_is_an_n_channel_upside_down_and_a_closed_gate_carries_nothing() -> None:
    law = channel(((2.5, 0.06), (4.5, 0.028)))
    n_ports, laws = fet(-1, -3, 0, law)
    p_ports, _ = fet(-1, -3, 0, law, "p")
    n = run(Topology(1, 3, ((-2, 0),), tuple(n_ports)), [3.3, 12.0, 0.0], [10.0], laws, [1.0, 1.0])
    p = run(Topology(1, 3, ((-2, 0),), tuple(p_ports)), [-3.3, -12.0, 0.0], [10.0], laws, [1.0, 1.0])
    off = run(Topology(1, 3, ((-2, 0),), tuple(n_ports)), [0.0, 12.0, 0.0], [10.0], laws, [1.0, 1.0])
    assert p.volts == pytest.approx(-n.volts, abs=1e-9)
    assert n.resistor_a[0, 0] > 1.1 and abs(off.resistor_a[0, 0]) < 1e-6


# --- zener diodes ---------------------------------------------------------------------------------


@given(st.floats(3.4, 24.0), st.floats(100.0, 1e5))
@settings(max_examples=40, deadline=None)
def test_zener_behind_a_resistor_against_brentq(volts: float, ohm: float) -> None:
    n_vt, v0, at = 0.02, 3.3, 5e-3
    found = run(Topology(1, 2, ((-1, 0),), (Port(0, -2),)), [volts, 0.0], [ohm], [(at, n_vt, v0)])
    expected = brentq(
        lambda v: (volts - v) / ohm - at * (math.exp((v - v0) / n_vt) - math.exp(-v0 / n_vt)),
        0,
        min(volts, v0 + 1),
        xtol=1e-14,
    )
    assert found.volts[0, 0] == pytest.approx(expected, abs=1e-7)


# --- what holds for every network -----------------------------------------------------------------


@given(
    st.floats(2.0, 15.0),
    st.lists(st.floats(50.0, 1e5), min_size=5, max_size=5),
    st.sampled_from(["npn", "pnp"]),
)
@settings(max_examples=60, deadline=None)
def test_current_law_holds_at_each_node_of_a_transistor_stage(
    volts: float, ohms: list[float], kind: str
) -> None:
    """Kirchhoff: base divider, emitter resistor, load, and a resistor from collector to base."""
    ports, laws, shares = bipolar((0, 1, 2), kind)
    ends = ((-1, 0), (0, -2), (1, -2), (-1, 2), (2, 0))
    high = volts if kind == "npn" else -volts
    found = run(Topology(3, 2, ends, tuple(ports)), [high, 0.0], ohms, laws, shares)
    out = [0.0, 0.0, 0.0]
    for (a, b), amps in zip(ends, found.resistor_a[:, 0], strict=True):
        for end, sign in ((a, 1.0), (b, -1.0)):
            if end >= 0:
                out[end] += sign * amps
    for port, amps, share in zip(ports, found.junction_a[:, 0], shares, strict=True):
        assert port.third is not None
        sign = 1.0 if port.at == "a" else -1.0
        at, other = (port.a, port.b) if port.at == "a" else (port.b, port.a)
        out[at] += sign * (1 - share) * amps
        out[port.third] += sign * share * amps
        out[other] -= sign * amps
    assert out == pytest.approx([0.0] * 3, abs=1e-6 * max(1e-3, float(np.abs(found.resistor_a).max())) + 1e-9)


def latch() -> tuple[Topology, list[float], list[float], list[tuple[float, float, float]], list[float]]:
    """Two transistors, each holding the other one off: three operating
    points, one of them no maker ever sees."""
    first, laws1, shares1 = bipolar((0, -2, 1))
    second, laws2, shares2 = bipolar((2, -2, 3))
    ends = ((-1, 1), (-1, 3), (1, 2), (3, 0))
    return (
        Topology(4, 2, ends, (*first, *second)),
        [5.0, 0.0],
        [1e3, 1.2e3, 1e4, 1e4],
        laws1 + laws2,
        shares1 + shares2,
    )


def test_a_latch_settles_somewhere_true() -> None:
    found = run(*latch())
    b1, c1, b2, c2 = found.volts[:, 0]
    i1, _ = transport(b1, b1 - c1)
    i2, _ = transport(b2, b2 - c2)
    assert (5 - c1) / 1e3 == pytest.approx(i1 + (c1 - b2) / 1e4, rel=1e-4)
    assert (5 - c2) / 1.2e3 == pytest.approx(i2 + (c2 - b1) / 1e4, rel=1e-4)


def _unsettled(net: object, *_: object, **__: object) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    samples = net.s.fixed_v.shape[1]  # type: ignore[attr-defined]
    return (np.zeros((net.t.nodes, samples)), np.zeros_like(net.s.n_vt), np.zeros(samples, bool))  # type: ignore[attr-defined]


@pytest.mark.parametrize("without", [("_on_ports",), ("_on_ports", "_from_nothing")])
def test_each_fall_back_finds_the_same_point(
    monkeypatch: pytest.MonkeyPatch, without: tuple[str, ...]
) -> None:
    """What Newton's method on the ports finds is found on the nodes too, and by raising the sources."""
    ports, laws, shares = bipolar((0, -3, 1))
    given_ = Topology(2, 3, ((-1, 0), (-2, 1)), tuple(ports)), [3.3, 9.0, 0.0], [1.2e3, 150.0], laws, shares
    expected = run(*given_)
    for name in without:
        monkeypatch.setattr(newton, name, _unsettled)
    assert run(*given_).volts == pytest.approx(expected.volts, abs=2e-5)


def test_what_does_not_settle_is_named(monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("_on_ports", "_from_nothing", "_stepped"):
        monkeypatch.setattr(newton, name, _unsettled)
    with pytest.raises(SolveError, match="node 0 did not settle") as error:
        run(Topology(1, 2, ((-1, 0),), (Port(0, -2),)), [5.0, 0.0], [220.0], [(1e-12, 0.03, 0.0)])
    assert (error.value.node, error.value.sample) == (0, 0)


def test_laws_that_cannot_be_are_refused() -> None:
    bad: list[Callable[[], object]] = [
        lambda: channel(((2.5, 0.03), (4.5, 0.05))),
        lambda: channel(((4.5, 0.05), (2.5, 0.03))),
    ]
    for make in bad:
        with pytest.raises(ValueError, match="fall"):
            make()
    assert Channel(10.0, 2.0).on_ohm(1.5) == math.inf


def test_the_two_junctions_of_a_transistor_are_reciprocal() -> None:
    """aF IsF = aR IsR with a = b/(1 + b) (Ebers and Moll, Proc. IRE 42, 1954, by hand)."""
    back = reverse_junction(BASE, GAIN)
    assert GAIN / (1 + GAIN) * BASE.is_a == pytest.approx(REVERSE_GAIN / (1 + REVERSE_GAIN) * back.is_a)
    assert back.n_vt == BASE.n_vt


@given(st.floats(1.5, 12.0), st.floats(50.0, 1e5), st.floats(10.0, 5e3), st.floats(1.01, 5.0))
@settings(max_examples=40, deadline=None)
def test_more_base_resistance_never_more_collector_current(
    volts: float, base_ohm: float, load_ohm: float, factor: float
) -> None:
    ports, laws, shares = bipolar((0, -3, 1))
    less, more = (
        run(
            Topology(2, 3, ((-1, 0), (-2, 1)), tuple(ports)), [3.3, volts, 0.0], [ohm, load_ohm], laws, shares
        )
        for ohm in (base_ohm, base_ohm * factor)
    )
    assert more.resistor_a[1, 0] <= less.resistor_a[1, 0] * (1 + 1e-9) + 1e-12


@given(st.floats(1.0, 12.0), st.floats(0.5, 1e3), st.floats(1.01, 5.0))
@settings(max_examples=40, deadline=None)
def test_more_load_resistance_never_more_drain_current(volts: float, load_ohm: float, factor: float) -> None:
    ports, laws = fet(-1, -3, 0, channel(((2.5, 0.06), (4.5, 0.028))))
    less, more = (
        run(Topology(1, 3, ((-2, 0),), tuple(ports)), [3.3, volts, 0.0], [ohm], laws, [1.0, 1.0])
        for ohm in (load_ohm, load_ohm * factor)
    )
    assert more.resistor_a[0, 0] <= less.resistor_a[0, 0] * (1 + 1e-9)

"""Value finders against hand calculations, root finders, integrated
differential equations and exhaustive search."""

import math
from itertools import product

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.optimize import brentq, minimize_scalar

from knotplan.core.engine.solver.junction import Junction
from knotplan.core.engine.solver.network import Samples, Topology
from knotplan.core.engine.solver.newton import solve
from knotplan.core.finders import BY_ID, FINDERS
from knotplan.core.finders.divider import loaded
from knotplan.core.finders.finder import Finder, FinderError, Found
from knotplan.core.finders.reading import quantity
from knotplan.core.finders.words import lines
from knotplan.core.power.ladder import feeds_needed, ladder, lowest, places
from knotplan.core.quantity.series import SERIES, TOLERANCE
from knotplan.exchange.answers.value import answer as for_programs

KNOWN = {
    "led": {"supply": 5.0, "forward": 2.0, "current": 0.01},
    "base": {"load": 0.1},
    "clamp": {"ohm": 69.0},
    "divider": {"volts": 5.0},
    "sensor": {"least": 1e3, "most": 1e5},
    "reading": {"least": 1e3, "most": 1e5},
    "bulk": {"current": 0.5},
    "fuse": {"current": 2.0},
    "cord": {"length": 2.0, "current": 3.0},
    "heat": {"current": 0.25},
}
"""what has to be given"""


def found(finder: str, **given_: float | str) -> Found:
    return BY_ID[finder](KNOWN.get(finder, {}) | given_)


def result(answer: Found, name: str) -> float:
    return next(n.value for n in answer.chosen.results if n.name == name)


# --- all of them ----------------------------------------------------------------------------------


@pytest.mark.parametrize("finder", [f.id for f in FINDERS])
def test_each_says_how_it_is_computed_and_what_its_neighbours_do(finder: str) -> None:
    answer = found(finder)
    assert answer.formula and answer.source and answer.chosen.results and answer.value > 0
    assert not answer.chosen.fault
    for n in answer.chosen.results:
        assert math.isfinite(n.value)
        least = n.name in ("level left by leakage", "lowest voltage of a pixel", "surely low after it opens")
        assert n.limit is None or (n.value >= n.limit if least else n.value <= n.limit * (1 + 1e-9)), n
    if answer.series:
        assert answer.lower and answer.higher
        assert answer.lower.value < answer.value < answer.higher.value
        assert any(
            v == pytest.approx(answer.value / 10 ** math.floor(math.log10(answer.value) + 1e-9), rel=1e-6)
            for v in SERIES[answer.series]
        )
    said = "\n".join(lines(answer))
    assert answer.formula in said and answer.source in said
    tree = msgspec.to_builtins(for_programs(BY_ID[finder], answer, dict(KNOWN.get(finder, {}))))
    assert tree["value"] == answer.value and tree["finder"] == finder


@pytest.mark.parametrize("finder", [f.id for f in FINDERS])
def test_each_lists_everything_that_is_wrong_with_its_inputs(finder: str) -> None:
    numbers = [i for i in BY_ID[finder].inputs if not i.choices]
    bad = {i.name: math.nan for i in numbers} | {"colour": 1.0}
    with pytest.raises(FinderError) as error:
        BY_ID[finder](bad)
    for i in numbers:
        assert i.title in str(error.value)
    assert "'colour' is no input" in str(error.value)


def test_counts_are_whole_numbers() -> None:
    for finder, name in (
        ("led", "in_series"),
        ("converter", "bits"),
        ("pixels", "count"),
        ("heat", "channels"),
    ):
        with pytest.raises(FinderError, match=r"2\.5 is not a whole number"):
            found(finder, **{name: 2.5})


# --- LED ------------------------------------------------------------------------------------------


def test_led_textbook_case() -> None:
    """5 V, 2 V, 10 mA: 300 ohm exactly, 330 in E12; typical current (5 - 2)/330 (Ohm's law by hand)."""
    answer = found("led", supply_tolerance=0.0, forward_spread=0.0)
    assert (answer.value, answer.exact) == (330.0, pytest.approx(300))
    assert answer.marks == ("330R", "orange orange brown silver")
    assert result(answer, "typical current") == pytest.approx(3 / 330)
    assert result(answer, "most current") == pytest.approx(3 / (330 * 0.9))
    assert result(answer, "least current") == pytest.approx(3 / (330 * 1.1))


def test_led_strings() -> None:
    """Three in series on 12 V at 20 mA: (12 - 6)/0.02 = 300; four strings
    behind one: (5 - 2)/0.04 = 75 (by hand)."""
    assert found("led", supply=12.0, current=0.02, in_series=3.0).exact == pytest.approx(300)
    shared = found("led", in_parallel=4.0, resistors="one for all")
    assert shared.exact == pytest.approx(75)
    assert "resistor of its own" in shared.cautions[0]
    assert "take a resistor of 5 W" in found("led", current=0.5).cautions[0]  # 3 V on 6 ohm: 1.5 W
    with pytest.raises(FinderError, match="2 in series do"):
        found("led", in_series=3.0)


def test_uneven_strings_share_as_their_junctions_do() -> None:
    """The share that the caution names, against the engine with two
    junctions 0.2 V apart behind one resistor."""
    said = found("led", in_parallel=2.0, resistors="one for all").cautions[0]
    law = Junction(1e-18, 2 * 0.025693, 0.0)
    one = np.ones((1, 1))
    is_a = law.is_a * np.exp(np.array([[0.1], [-0.1]]) / law.n_vt)
    at = solve(
        Topology(1, 2, ((-1, 0),), ((0, -2), (0, -2))),
        Samples(np.vstack([5 * one, 0 * one]), one / 165, is_a, law.n_vt * np.ones((2, 1))),
    )
    share = at.junction_a[0, 0] / at.junction_a[:, 0].sum()
    assert f"{share * 100:.0f} %" in said


@given(st.floats(3, 24), st.floats(1.5, 2.9), st.floats(1e-3, 0.05), st.sampled_from(list(SERIES)))
def test_led_never_gets_more_than_wished(volts: float, forward: float, wish: float, series: str) -> None:
    answer = found("led", supply=volts, forward=forward, current=wish, series=series)
    assert result(answer, "typical current") <= wish * (1 + 1e-6)
    assert (
        result(answer, "least current") <= result(answer, "typical current") <= result(answer, "most current")
    )


# --- transistors and coils ------------------------------------------------------------------------


def test_base_resistor_by_hand() -> None:
    """5 V, 0.7 V, 100 mA at a forced gain of 10: 4.3 V / 10 mA = 430 ohm; in E12 390 below it."""
    answer = found("base", high=5.0, base_v=0.7, pin_a=0.018)
    assert answer.exact == pytest.approx(430)
    assert answer.value == 390
    assert result(answer, "forced gain") == pytest.approx(0.1 / (4.3 / 390))
    with pytest.raises(FinderError, match=r"no base resistor does: with 470 Ω, gain of 10.9 .* 10.3 are"):
        found("base", high=5.0, base_v=0.7, gain=9.0, series="E3", pin_a=0.018)
    with pytest.raises(FinderError, match=r"more than the pin's.*MOSFET"):
        found("base", high=5.0, load=0.3)


def test_gate_resistor_is_a_capacitor_charged() -> None:
    """10 to 90 % of a charging capacitor take ln 9 = 2.2 time constants (closed form)."""
    answer = found("gate")
    constant = answer.value * 10e-9 / 3.3
    assert result(answer, "time to switch") == pytest.approx(math.log(9) * constant, rel=2e-3)
    assert result(answer, "rush of the pin") == pytest.approx(3.3 / answer.value)
    assert answer.also[0][1] >= 100 * answer.value
    assert "hot" in found("gate", frequency=1e5, charge=100e-9).cautions[0]
    with pytest.raises(FinderError, match="20 mA on average, and the pin gives 12 mA: take a gate driver"):
        found("gate", frequency=2e5, charge=100e-9)


def test_a_clamp_diode_beyond_all_ratings_is_told_of() -> None:
    """Twice 250 V is more than common diodes stand; 20 A is more than they carry."""
    assert any("500 V or more" in x for x in found("clamp", supply=250.0, ohm=1000.0).cautions)
    assert result(found("clamp", supply=250.0, ohm=1000.0), "reverse voltage at least") == 500.0
    with pytest.raises(FinderError, match=r"20 A are more .*None of these diodes") as beyond:
        found("clamp", supply=24.0, ohm=1.2)
    assert "reverse" not in str(beyond.value)


def test_clamped_coil_against_an_integrated_equation() -> None:
    """L di/dt = -(R i + V_D), integrated by SciPy until a fifth and until nothing is left."""
    volts, ohm, henry, drop = 12.0, 160.0, 0.3, 0.8
    answer = found("clamp", supply=volts, ohm=ohm, henry=henry, drop=drop)

    def fell_to(level: float) -> float:
        event = lambda _, i: i[0] - level  # noqa: E731
        event.terminal = True  # type: ignore[attr-defined]
        run = solve_ivp(
            lambda _, i: [-(ohm * i[0] + drop) / henry],
            (0, 1),
            [volts / ohm],
            events=event,
            rtol=1e-9,
            atol=1e-12,
        )
        return float(run.t_events[0][0])

    assert result(answer, "until a relay lets go") == pytest.approx(fell_to(0.2 * volts / ohm), rel=1e-5)
    assert result(answer, "until nothing flows") == pytest.approx(fell_to(0.0), rel=1e-5)
    assert result(answer, "energy") == pytest.approx(0.5 * henry * (volts / ohm) ** 2)


# --- lines and inputs -----------------------------------------------------------------------------


def test_pull_up_bounds_by_hand() -> None:
    """NXP UM10204, 7.1: 300 ns over 0.8473 * 200 pF are 1.77 kohm; (3.3 - 0.4)/3 mA are 967 ohm."""
    answer = found("pull", capacitance=200e-12, rise=300e-9)
    assert result(answer, "largest resistor") == pytest.approx(1770, rel=1e-3)
    assert result(answer, "least resistor") == pytest.approx(2.9 / 0.003)
    assert 967 <= answer.value <= 1770
    with pytest.raises(FinderError, match="no resistor does both"):
        found("pull", capacitance=550e-12, rise=300e-9)


@pytest.mark.parametrize(("pull", "series_ohm"), [(10e3, 1e3), (47e3, 18e3)])
def test_debounce_against_an_integrated_equation(pull: float, series_ohm: float) -> None:
    """C dv/dt at the capacitor, which the pull-up charges and the closed contact empties through the
    series resistor, integrated by SciPy from each rest up to the input's thresholds."""
    supply = 3.3
    answer = found("debounce", pull=pull, series_ohm=series_ohm, supply=supply)
    rest = supply * series_ohm / (pull + series_ohm)

    def crosses(slope, start: float, level: float) -> float:  # type: ignore[no-untyped-def]
        event = lambda _, v: v[0] - level  # noqa: E731
        event.terminal = True  # type: ignore[attr-defined]
        return float(solve_ivp(slope, (0, 1), [start], events=event, rtol=1e-9, atol=1e-12).t_events[0][0])

    weak, strong = answer.value * 0.8, answer.value / 0.8  # capacitors of E6
    holds = crosses(lambda _, v: [(supply - v[0]) / pull / weak], rest, 0.3 * supply)
    opened = crosses(lambda _, v: [(supply - v[0]) / pull / strong], rest, 0.7 * supply)
    closed = crosses(
        lambda _, v: [((supply - v[0]) / pull - v[0] / series_ohm) / answer.value], supply, 0.3 * supply
    )
    assert result(answer, "surely low after it opens") == pytest.approx(holds, rel=1e-4)
    assert result(answer, "surely high after it opens") == pytest.approx(opened, rel=1e-4)
    assert result(answer, "delay when it closes") == pytest.approx(closed, rel=1e-4)
    assert holds >= 0.01
    assert answer.exact * holds / answer.value == pytest.approx(0.01, rel=1e-4)


@pytest.mark.parametrize(
    ("volts", "series", "load"), [(5.0, "E12", 1e6), (12.0, "E24", 50e3), (24.0, "E6", 1e6)]
)
def test_divider_against_exhaustive_search(volts: float, series: str, load: float) -> None:
    """Of all pairs of the series that never exceed the input's limit and keep the source resistance, with
    a lower resistor within a decade below what the source resistance allows, none comes nearer."""
    answer = found("divider", volts=volts, series=series, load=load)
    bottom, body = answer.also[0][1], TOLERANCE[series]
    grid = [m * 10.0**d for d in range(1, 6) for m in SERIES[series]]
    start = 10e3 * volts / (volts - 3.3) / 10
    best = 0.0
    for r1, r2 in product(grid, grid):
        most = max(
            loaded(volts, r1 * (1 + p), r2 * (1 + q), load) for p, q in product((-body, body), repeat=2)
        )
        if start <= r2 <= start * 10 * 1.05 and r1 * r2 / (r1 + r2) <= 10e3 and most <= 3.3:
            best = max(best, loaded(volts, r1, r2, load))
    typical = result(answer, "typical output")
    assert typical == pytest.approx(loaded(volts, answer.value, bottom, load))
    assert typical >= best - 1e-9
    assert result(answer, "most output") <= 3.3


@given(st.floats(10, 1e5), st.floats(1.5, 1e4))
def test_second_resistor_gives_the_greatest_span(least: float, ratio: float) -> None:
    """The maximum of the span, found numerically by SciPy."""
    most = least * ratio
    answer = found("sensor", least=least, most=most)
    best = minimize_scalar(
        lambda x: -(most / (math.exp(x) + most) - least / (math.exp(x) + least)),
        bounds=(math.log(least), math.log(most)),
        method="bounded",
        options={"xatol": 1e-9},
    )
    assert answer.exact == pytest.approx(math.exp(best.x), rel=1e-3)
    chosen = result(answer, "share of the scale in use")
    assert chosen <= -best.fun + 1e-12
    assert chosen >= -best.fun * 0.98


def test_converter_by_hand() -> None:
    """10 bits on 3.3 V: 3.22 mV a step; 0.5 to 2.5 V for -20 to 80 degrees: 50
    degrees a volt, 0.161 degrees a step."""
    answer = found("converter", low=0.5, high=2.5, at_low=-20.0, at_high=80.0, unit="°C")
    assert answer.value == pytest.approx(3.3 / 1024 * 50)
    assert (result(answer, "first code"), result(answer, "last code")) == (155, 775)
    factor, offset = (
        float(x) for x in answer.lines[0].removeprefix("value = ").replace("* code + ", "").split()
    )
    assert factor * 155 + offset == pytest.approx(-20, abs=0.2)
    over = found("converter", high=5.0)
    assert "34 % of the range" in over.cautions[0]  # (5 - 3.3)/5
    assert "too slowly" in found("converter", source=50e3).cautions[0]


@pytest.mark.parametrize("law", ["thermistor", "power law", "straight in the logarithm"])
@pytest.mark.parametrize("place", ["between pin and ground", "between supply and pin"])
def test_reading_against_a_root_finder(law: str, place: str) -> None:
    """The step near the first code, from the quantity at which the divider gives that
    code (brentq), not from the inverse."""
    ends = (1e3, 900.0), (1e5, 3.0)
    answer = found("reading", law=law, place=place, at_least=900.0, at_most=3.0)

    def code(ohm: float) -> float:
        return 1024 * (ohm / (ohm + 1e4) if place == "between pin and ground" else 1e4 / (ohm + 1e4))

    first = int(result(answer, "first code"))
    one, other = (
        quantity(law, brentq(lambda r, k=k: code(r) - (first + k), 900, 1.2e5, xtol=1e-9), ends)
        for k in (0, 1)
    )
    step = max(one / other, other / one) - 1 if law == "power law" else abs(one - other)
    assert answer.chosen.results[0].value == pytest.approx(step, rel=1e-4)


def test_the_programs_lines_of_a_reading_reckon_back() -> None:
    answer = found("reading")
    code = 512
    r = eval(answer.lines[0].removeprefix("r = "), {"code": code})
    t = eval(answer.lines[1].removeprefix("t = ").split("   ")[0], {"r": r, "ln": math.log})
    assert r == pytest.approx(10e3 * 512 / 512)
    assert t == pytest.approx(quantity("thermistor", r, ((1e3, 90.0), (1e5, -20.0))), abs=0.01)


def test_b_equation_of_a_thermistor() -> None:
    """B = ln(R1/R2)/(1/T1 - 1/T2) and R(T) = R1 exp(B(1/T - 1/T1)), the other way round."""
    b = math.log(1e5 / 1e3) / (1 / 253.15 - 1 / 363.15)
    ohm = 1e5 * math.exp(b * (1 / 298.15 - 1 / 253.15))
    assert quantity("thermistor", ohm, ((1e3, 90.0), (1e5, -20.0))) == pytest.approx(25.0)


def test_data_line_is_matched_where_the_clamp_allows_it() -> None:
    matched = found("data", high=1.0)
    assert matched.exact == pytest.approx(70) and abs(result(matched, "reflected at the source")) < 0.06
    answer = found("data")
    assert result(answer, "clamp current without supply") <= 0.01
    assert answer.lower is not None and "clamp" in answer.lower.fault
    assert "buffer" in found("data", length=20.0).cautions[0]


def test_set_current_by_hand() -> None:
    """100 * 3.8 V / 20 mA are 19 kohm; next in E12 is 22 k: 17.3 mA."""
    answer = found("set-current")
    assert answer.exact == pytest.approx(19e3)
    assert result(answer, "current of a light while on") == pytest.approx(380 / 22e3)
    assert found("set-current", current=0.2).cautions


# --- supplies -------------------------------------------------------------------------------------


def test_capacitors_by_hand() -> None:
    """0.5 A for 100 us on 0.3 V less 25 mV: 182 uF, over 0.8: 227 uF, next
    in E3 470; 10 V for a supply of 5 V."""
    answer = found("bulk")
    assert answer.exact == pytest.approx(0.5 * 100e-6 / 0.275 / 0.8)
    assert answer.value == pytest.approx(470e-6)
    assert result(answer, "rating at least") == 10
    assert result(answer, "dip of the supply") <= 0.3
    assert found("decoupling").value == pytest.approx(100e-9)
    assert found("decoupling", current=0.2, time=100e-9, drop=0.05).exact == pytest.approx(0.4e-6 / 0.7)
    with pytest.raises(FinderError, match="own 1 Ω drop 500 mV at once"):
        found("bulk", esr=1.0)


def test_fuse_by_hand() -> None:
    """2 A over 0.75 are 2.67 A: 3.15 A; a cord of 0.25 mm2 bears 4 A, so
    that 3.5 A for ever need another cord."""
    assert found("fuse").value == 3.15
    with pytest.raises(FinderError, match=r"which bears 3\.2 A, melts before it; take a thicker cord"):
        found("fuse", current=3.5)
    assert "slow" in found("fuse", current=1.0, peak=5.0).cautions[0]


def test_cord_by_hand() -> None:
    """4 m there and back, 3 A, 0.15 V: 1.724e-8 * 4 / 0.05 = 1.38 mm2, so 1.5."""
    answer = found("cord")
    assert answer.exact == pytest.approx(1.379, rel=1e-3)
    assert answer.value == 1.5
    assert result(answer, "drop, there and back") == pytest.approx(3 * 1.724e-8 * 4 / 1.5e-6)
    with pytest.raises(FinderError, match="several places"):
        found("cord", length=30.0)


def test_heat_by_hand() -> None:
    """(9 - 5) V * 0.25 A = 1 W, 60 K/W over 30 degrees: 90; 5 V 0.25 A at 88
    %: 0.17 W; 2 A^2 on 30 mohm: 0.12 W."""
    assert (found("heat").value, result(found("heat"), "temperature inside")) == (1.0, 90.0)
    assert found("heat", kind="switching regulator").value == pytest.approx(1.25 * (1 / 0.88 - 1))
    assert found("heat", kind="transistor with a resistance", current=2.0, ohm=0.03).value == pytest.approx(
        0.12
    )
    assert found(
        "heat", kind="transistor with a drop", volts_out=0.9, current=0.1, channels=4.0
    ).value == pytest.approx(0.36)
    hot = found("heat", current=0.6)
    assert "switches off" in hot.cautions[0]
    limit = result(hot, "current allowed")
    assert result(found("heat", current=limit), "temperature inside") == pytest.approx(125.0)


# --- chains ---------------------------------------------------------------------------------------


@given(
    st.integers(2, 60), st.floats(1e-3, 0.06), st.floats(1e-4, 0.05), st.floats(1e-3, 0.5), st.integers(1, 5)
)
def test_ladder_against_a_dense_matrix(count: int, amps: float, step: float, cord: float, feeds: int) -> None:
    """The same nodal equations as a full matrix, solved by LAPACK."""
    at = places(count, feeds)
    matrix, right = np.zeros((count, count)), np.full(count, -amps)
    for k in range(count - 1):
        matrix[k : k + 2, k : k + 2] += np.array([[1, -1], [-1, 1]]) / step
    for k in at:
        matrix[k, k] += 1 / cord
        right[k] += 5.0 / cord
    assert ladder(5.0, count, amps, step, cord, at) == pytest.approx(
        np.linalg.solve(matrix, right), rel=1e-7, abs=1e-9
    )


@given(st.integers(1, 300), st.floats(1e-4, 0.06), st.floats(1e-4, 0.01), st.floats(0, 0.5))
def test_end_fed_chain_has_a_closed_form(count: int, amps: float, step: float, cord: float) -> None:
    """V - I (r_cord N + r N (N - 1)/2): each piece carries what all pixels after it draw."""
    last = 5.0 - amps * (cord * count + step * count * (count - 1) / 2)
    assert ladder(5.0, count, amps, step, cord, (0,))[-1] == pytest.approx(last, rel=1e-9, abs=1e-9)


def test_fewest_feeds() -> None:
    feeds = feeds_needed(5.0, 300, 0.036, 0.0027, 0.03, 4.5)
    assert feeds is not None and feeds > 1
    assert (
        lowest(5.0, 300, 0.036, 0.0027, 0.03, feeds) >= 4.5 > lowest(5.0, 300, 0.036, 0.0027, 0.03, feeds - 1)
    )
    assert feeds_needed(5.0, 10, 0.036, 0.002, 20.0, 4.9) is None


@pytest.mark.parametrize(
    ("given_", "message"),
    [
        ({"least": 2e5}, "least resistance has to be below its greatest"),
        ({"at_least": 20.0, "at_most": 20.0}, "the same at both ends"),
        ({"law": "power law", "at_least": 0.0, "at_most": 100.0}, "a power law needs quantities above 0"),
        ({"law": "thermistor", "at_least": -300.0, "at_most": 20.0}, "nothing is colder"),
        ({"second": 1e9}, "within two steps of the converter"),
    ],
)
def test_a_reading_that_tells_nothing_is_refused(given_: dict[str, float | str], message: str) -> None:
    with pytest.raises(FinderError, match=message):
        found("reading", **given_)


@given(st.data(), st.sampled_from(FINDERS))
def test_no_answer_breaks_its_own_limits_in_silence(data: st.DataObject, finder: Finder) -> None:
    """Whatever is asked: there is an answer that keeps its limits, or one that says what to do about the one
    that it does not keep, or none, with words."""
    given_values: dict[str, float | str] = {}
    for i in finder.inputs:
        if i.choices:
            given_values[i.name] = data.draw(st.sampled_from(i.choices), i.name)
            continue
        usual = i.default if isinstance(i.default, float | int) and i.default else 1.0
        value = min(max(usual * 10 ** data.draw(st.floats(-1.5, 1.5), i.name), i.least), i.most)
        given_values[i.name] = max(1.0, round(value)) if i.whole else value
    try:
        answer = finder(given_values)
    except FinderError as refused:
        assert len(str(refused)) > 10
        return
    assert not answer.chosen.fault
    assert all(math.isfinite(n.value) for n in answer.chosen.results)
    assert all(n.within for n in answer.chosen.results) or answer.cautions

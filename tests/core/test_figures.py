"""Figures that are printed, each against a result of another origin, which its test names."""

import math

import pytest
from scipy.integrate import quad, solve_ivp
from scipy.optimize import brentq

from knotplan.catalog.load import shipped
from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.buses.lines import low_level
from knotplan.core.circuit.copper import SIZES, as_awg, awg_mm2
from knotplan.core.finders import BY_ID
from knotplan.core.finders.finder import Found
from knotplan.core.plan import edits
from knotplan.core.power.battery import life
from knotplan.core.quantity.written import at_most, show
from knotplan.core.text.program import constants
from knotplan.core.timing.pulses import timers
from tests.conftest import lay, look_at


def result(answer: Found, name: str) -> float:
    return next(n.value for n in answer.chosen.results if n.name == name)


def value_of(report, name: str):  # type: ignore[no-untyped-def]
    return next(k.value for k in constants(report) if k.name.endswith(name))


WINDER = lay(
    "bowline-40",
    {"Twelve": "brick-12v", "Steps": "step-driver", "Winder": "bipolar-stepper"},
    {
        "twelve.zero": "p5",
        "steps.vdd": "p2",
        "steps.vmot": "twelve.plus",
        "steps.gnd": "p10",
        "steps.step": "p11",
        "steps.dir": "p12",
        **{f"winder.{lead}": f"steps.{lead}" for lead in ("a1", "a2", "b1", "b2")},
    },
)


@pytest.mark.parametrize("micro", [1, 2, 16, 256])
def test_exported_steps_count_microsteps(micro: int) -> None:
    """By hand: 360 / 1.8 = 200 full steps; at 60 turns a minute one turn lasts a second."""
    plan = edits.set_program_setting(WINDER, "steps", "microsteps", float(micro))
    report = look_at(edits.set_program_setting(plan, "winder", "rpm", 60.0))
    assert value_of(report, "STEPS_PER_TURN") == 200 * micro
    assert value_of(report, "STEP_US") == round(1e6 / (200 * micro))


def test_exported_counts_end_where_the_register_does() -> None:
    """A compare register of n bits holds 2^n - 1 at most."""
    board = shipped().board("clove-22")
    pin = next(n for n, p in board.pins.items() if any(j.unit == "pwm:0" for j in p.jobs("pwm")))
    report = look_at(lay("clove-22", {"Lamp": "rgb-led"}, {"lamp.red": pin, "lamp.common": "w2"}))
    (shared,) = [t for t in timers(report.circuit) if t.unit.instance == "0"]
    assert shared.counter is not None
    assert value_of(report, "STEPS")[-1] <= 2**shared.counter.bits - 1


def test_a_gauge_is_never_thinner_than_the_metric_size_beside_it() -> None:
    """ASTM B258: d = 0.127 mm · 92^((36 - n)/39), the area from that by hand; gauges in trade are even."""
    for mm2 in SIZES:
        n = as_awg(mm2)
        assert n % 2 == 0
        exact = math.pi * (0.127 * 92 ** ((36 - n) / 39)) ** 2 / 4
        assert exact >= mm2 * 0.995 and awg_mm2(n) == pytest.approx(exact, rel=5e-3)
        thinner = math.pi * (0.127 * 92 ** ((36 - n - 2) / 39)) ** 2 / 4
        assert thinner < mm2


def test_metric_sizes_are_those_of_the_standard() -> None:
    """IEC 60228, table 1, from its first size on."""
    assert [s for s in SIZES if s >= 0.5] == [0.5, 0.75, 1, 1.5, 2.5, 4, 6]


@pytest.mark.parametrize(("supply", "low"), [(5.0, 0.4), (3.3, 0.4), (2.01, 0.4), (2.0, 0.4), (1.8, 0.36)])
def test_the_low_level_of_i2c_follows_the_supply(supply: float, low: float) -> None:
    """NXP UM10204 table 10: V_OL1 0.4 V above 2 V, V_OL2 0.2 V_DD at 2 V and below."""
    assert low_level(supply) == pytest.approx(low)
    answer = BY_ID["bus-pull"]({"supply": supply, "capacitance": 50e-12})
    assert result(answer, "least resistor") == pytest.approx((supply - low) / 3e-3)


def test_strings_side_by_side_share_the_source() -> None:
    """By hand: three strings of 10 mA through 10 Ω leave 9 - 0.3 - 4 = 4.7 V to each: 470 Ω."""
    answer = BY_ID["led"](
        {
            "supply": 9.0,
            "forward": 2.0,
            "current": 0.01,
            "in_series": 2.0,
            "in_parallel": 3.0,
            "source_ohm": 10.0,
        }
    )
    assert answer.exact == pytest.approx(470.0) and answer.value == 470.0
    assert result(answer, "typical current") == pytest.approx(5.0 / (470 + 30))


def test_the_power_of_an_led_resistor_is_named_where_a_usual_one_does_not_bear_it() -> None:
    answer = BY_ID["led"]({"supply": 24.0, "forward": 2.0, "current": 0.02})
    watt = result(answer, "power in the resistor")
    assert watt > 0.25 and any("take a resistor of" in c for c in answer.cautions)


@pytest.mark.parametrize(("volts", "ohm", "henry", "drop"), [(5.0, 69.0, 0.25, 0.8), (12.0, 30.0, 0.09, 0.7)])
def test_the_heat_of_a_clamp_is_without_the_winding_s_share(
    volts: float, ohm: float, henry: float, drop: float
) -> None:
    """L di/dt = -R i - V_D integrated by SciPy; the diode takes the integral of V_D i."""
    answer = BY_ID["clamp"]({"supply": volts, "ohm": ohm, "henry": henry, "drop": drop, "frequency": 2.0})
    ended = lambda _, i: i[0]  # noqa: E731
    ended.terminal = True  # type: ignore[attr-defined]
    way = solve_ivp(
        lambda _, i: [(-ohm * i[0] - drop) / henry],
        (0, 1),
        [volts / ohm],
        events=ended,
        dense_output=True,
        rtol=1e-10,
        atol=1e-13,
    )
    gone = float(way.t_events[0][0])
    joule = quad(lambda t: drop * float(way.sol(t)[0]), 0, gone)[0]
    assert result(answer, "until nothing flows") == pytest.approx(gone, rel=1e-5)
    assert result(answer, "of that in the diode") == pytest.approx(joule, rel=1e-4)
    assert result(answer, "heat of the diode") == pytest.approx(2 * joule, rel=1e-4)


def test_no_rush_is_invented_where_nothing_limits_it() -> None:
    answer = BY_ID["debounce"]({"series_ohm": 0.0})
    assert "rush through the contact" not in [n.name for n in answer.chosen.results]
    assert any("rush" in c for c in answer.cautions)


def test_the_first_code_of_a_reading_is_the_one_that_is_read() -> None:
    """A converter cuts off: 1 kΩ below 10 kΩ is 1024/11 = 93.09, which is read as 93."""
    answer = BY_ID["reading"]({"least": 1e3, "most": 100e3})
    assert (result(answer, "first code"), result(answer, "last code")) == (93, 930)


def test_a_gate_s_pull_down_is_what_its_formula_says() -> None:
    """By hand: 0.3 V / 10 µA = 30 kΩ, so 27 kΩ of E12."""
    answer = BY_ID["gate"]({"leak": 10e-6})
    assert answer.also[0][1] == 27e3


@pytest.mark.parametrize("amps", [0.1, 0.3, 0.5])
def test_a_converter_draws_at_the_voltage_that_its_cell_still_has(amps: float) -> None:
    """V (V_0 - V)/R = P/eta solved by SciPy, R being the cell's and the cords' resistance."""
    count = round(amps / 0.036)
    plan = lay(
        "bowline-40",
        {
            "Cell": "single-cell",
            "Boost": "boost-converter",
            "Quay": ("pixel-strip", {"count": float(count), "feeds": 1.0}),
        },
        {
            "cell.minus": "p5",
            "boost.gnd": "p10",
            "boost.in": "cell.plus",
            "quay.vdd": "boost.out",
            "quay.gnd": "p17",
            "quay.din": "p25",
        },
    )
    report = look_at(plan)
    nodes = {n.id: n for root in report.power for n in root.walk()}
    cell, boost = nodes["cell"], nodes["boost"]
    source, made = shipped().part("single-cell", {}).source, shipped().part("boost-converter", {}).source
    assert source is not None and made is not None and made.efficiency is not None
    watt = made.volts.typ * boost.total.worst_a / made.efficiency
    cord_drop = boost.drop_v
    ohm = source.source_ohm + cord_drop / boost.drawn.worst_a
    volts = brentq(lambda v: v * (source.volts.min - v) / ohm - watt, source.volts.min / 2, source.volts.min)
    assert cell.total.worst_a == pytest.approx(watt / volts, rel=1e-4)


def test_hours_behind_a_converter_are_energy_over_power() -> None:
    """9.2 Wh, of which 0.8 is used, over the power that the cell gives: what the load takes over the
    efficiency, and what the cell's own resistance eats (by hand)."""
    plan = lay(
        "bowline-40",
        {"Cell": "single-cell", "Boost": "boost-converter", "Ring": "pixel-ring"},
        {
            "cell.minus": "p5",
            "boost.gnd": "p10",
            "boost.in": "cell.plus",
            "ring.vdd": "boost.out",
            "ring.gnd": "p17",
            "ring.din": "p25",
        },
    )
    report = look_at(plan)
    root = next(r for r in report.power if r.id == "cell")
    ring = next(n for n in root.walk() if n.part == "ring")
    watt = 5.0 * ring.total.usual_a / 0.85
    ohm = 0.12 + root.children[0].drop_v / root.children[0].drawn.worst_a
    volts = brentq(lambda v: v * (3.7 - v) / ohm - watt, 1.85, 3.7)
    hours = life(report.circuit, root).hours
    assert hours == pytest.approx(9.2 * 0.8 / (3.7 * watt / volts), rel=1e-3)


def test_numbers_are_written_as_people_write_them() -> None:
    assert show(1.0, "%", 2) == "100 %" and show(0.999, "%", 2) == "100 %" and show(12.0, "%") == "1200 %"
    assert show(45.0, "% r.h.") == "45 % r.h."
    assert at_most(81.97) == 81 and at_most(0.1) == 0.1


def test_a_chain_that_is_far_too_long_is_left_with_nothing_and_not_with_less() -> None:
    plan = lay(
        "bowline-40",
        {"Brick": "brick-5v", "Quay": ("pixel-strip", {"count": 900.0})},
        {"brick.zero": "p5", "quay.vdd": "brick.plus", "quay.gnd": "brick.zero", "quay.din": "p25"},
    )
    dim = next(f for f in look_at(plan).findings if f.rule == "chain-dim")
    assert dim.severity == "stop" and "hardly anything left" in dim.message
    assert "-" not in dim.message and dim.numbers[0].value == 0


def test_the_i2c_buses_of_the_boards_say_their_low_level() -> None:
    report = look_at(
        lay(
            "bowline-40",
            {"Air": "i2c-thermometer"},
            {"air.vcc": "p2", "air.gnd": "p5", "air.sda": "p14", "air.scl": "p22"},
        )
    )
    section = i2c_buses(report.circuit)[0].sections[0]
    assert section.volts is not None and section.weakest is not None
    assert section.least_ohm == pytest.approx((section.volts.max - 0.4) / section.weakest.amps)

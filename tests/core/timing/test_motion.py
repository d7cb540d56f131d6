"""Servos, steppers, relays, pixels, captures and grids: by hand, by integers, and by moving a rotor."""

import cmath
import math
import random
from fractions import Fraction
from itertools import permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.catalog.board.units import Counter
from knotplan.catalog.load import shipped
from knotplan.catalog.part.facts import CurrentSet, Grid, RadioChannel, Relay, Servo, Stepper
from knotplan.core.check.analysis import analyse
from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.timing import capture, grid, pixels, relay, servo, stepper
from knotplan.core.timing.pulses import reach
from knotplan.examples import example
from tests.conftest import lay, look_at

GEARED = Stepper(11.25, (8910, 567424), start_stop_hz=500, most_hz=1000, ramp_hz_per_s=1000)


def test_the_gear_is_the_fraction_of_its_tooth_counts() -> None:
    """32·22·26·31 driven over 9·11·9·10 driving, counted by hand; the well-known 63.68 to 1."""
    assert Fraction(32 * 22 * 26 * 31, 9 * 11 * 9 * 10) == Fraction(567424, 8910)
    facts = shipped().part("geared-stepper", {}).facts.stepper
    assert facts is not None and facts.gear_teeth == (9 * 11 * 9 * 10, 32 * 22 * 26 * 31)
    assert stepper.steps_per_turn(facts) == Fraction(32) * Fraction(567424, 8910) == Fraction(825344, 405)
    assert stepper.steps_per_turn(facts, "half") == 2 * stepper.steps_per_turn(facts)
    assert stepper.steps_per_turn(Stepper(1.8)) == 200 and stepper.steps_per_turn(Stepper(0.9), "half") == 800


def test_the_error_of_a_round_count_adds_up() -> None:
    """2048 steps instead of 2037.886: 10.1136 steps or 1.7866° too far each turn;
    2038 is a step off after 8.8 turns."""
    r = stepper.rounding(GEARED, "full", 2048)
    assert (
        r.degrees_per_turn
        == pytest.approx((2048 / (825344 / 405) - 1) * 360)
        == pytest.approx(1.7866, abs=1e-3)
    )
    nearest = stepper.rounding(GEARED, "full")
    assert nearest.whole == 2038 and nearest.turns_to_one_step == pytest.approx(1 / (2038 - 825344 / 405))
    assert stepper.rounding(Stepper(1.8), "full").turns_to_one_step == math.inf


def test_speeds_and_ramps_by_hand() -> None:
    """20 turns a minute: 20 · 2037.886 / 60 = 679.3 steps/s; 179.3 above the
    start-stop rate, at 1000 steps/s² 179 ms."""
    assert stepper.step_hz(GEARED, "full", 20) == pytest.approx(679.295, abs=1e-2)
    assert stepper.step_hz(GEARED, "half", 20) == pytest.approx(2 * 679.295, abs=2e-2)
    assert stepper.ramp_s(GEARED, 20) == pytest.approx(0.1793, abs=1e-3) and stepper.ramp_s(GEARED, 10) == 0.0
    assert stepper.rpm_at(GEARED, 500) == pytest.approx(14.721, abs=1e-3)
    assert stepper.full_hz(GEARED, stepper.usual_rpm(GEARED)) <= 500


@pytest.mark.parametrize("mode", stepper.MODES)
def test_sequences_go_round_once_and_differ_by_one_switching_at_a_time(mode: stepper.Mode) -> None:
    rows = stepper.SEQUENCES[mode]
    assert len(set(rows)) == len(rows) == (8 if mode == "half" else 4)
    for a, b in zip(rows, (*rows[1:], rows[0]), strict=True):
        assert sum(x != y for x, y in zip(a, b, strict=True)) == (1 if mode == "half" else 2)
    on = sum(map(sum, rows)) / len(rows)
    assert on == stepper.COILS_ON[mode]
    assert stepper.turn((0, 1, 2, 3), mode) == stepper.Turn(360, "turns")


def rotor(order: tuple[int, ...], mode: stepper.Mode, seed: int) -> float:
    """Electrical degrees that a damped rotor turns in ten cycles: it follows the torque of the field, T =
    |B| sin(field − rotor), in small steps, and a load pushes it a little to one side or the other before
    each. Independent of the way by which `turn` adds angles up."""
    push = random.Random(seed)
    at, whole = 0.3, 0.0
    for row in stepper.SEQUENCES[mode] * 10:
        field = sum(cmath.exp(1j * math.pi / 2 * order[k]) for k, on in enumerate(row) if on)
        at += push.choice((-0.15, 0.15))
        for _ in range(400):
            move = 0.05 * abs(field) * math.sin(cmath.phase(field) - at) if abs(field) > 1e-9 else 0.0
            at += move
            whole += move
    return math.degrees(whole)


@pytest.mark.parametrize("mode", stepper.MODES)
@pytest.mark.parametrize("order", list(permutations(range(4))))
def test_mixed_coil_lists_do_what_a_rotor_does(order: tuple[int, ...], mode: stepper.Mode) -> None:
    does, turned = stepper.turn(order, mode).does, [rotor(order, mode, seed) for seed in range(5)]
    if does == "turns":
        assert turned == [pytest.approx(3600, abs=360)] * 5
    elif does == "turns backwards":
        assert turned == [pytest.approx(-3600, abs=360)] * 5
    else:
        assert all(abs(x) < 3240 for x in turned), "it goes to and fro, wherever the load pushes it"


def test_a_stepper_is_found_through_its_driver() -> None:
    c = Circuit(example("rules/coil-order.bad", shipped()), shipped())
    w = stepper.wired(c, "dial")
    assert w is not None and [t.lead for t in stepper.input_ties(c, w)] == [
        "drive.in1",
        "drive.in3",
        "drive.in2",
        "drive.in4",
    ]
    assert w.natural == (0, 2, 1, 3)
    kite = Circuit(example("kite-winder", shipped()), shipped())
    assert stepper.driver_of(kite, "left-line") == "left-driver"
    assert stepper.wired(kite, "left-line") is None


# --- servos -----------------------------------------------------------------------------------------


def test_from_angle_to_pulse_to_count_by_hand() -> None:
    """600 to 2300 µs over 170°: 90° is 600 + 1700·90/170 = 1500 µs; on a hub at 50.029
    Hz that is 307 counts, 0.49° a count."""
    s = Servo(0.02, 0.0006, 0.0023, 170)
    t = reach(Counter(25e6, least=4, most=256, bits=12, full=True), 50.0)
    assert servo.pulse(s, 90) == pytest.approx(0.0015) and t.count(servo.pulse(s, 90)) == 307
    assert servo.finest(s, t) == pytest.approx(170 * t.tick_s / 0.0017) == pytest.approx(0.488, abs=1e-3)
    rows = servo.table(s, t)
    assert (rows[0].at, rows[-1].at, rows[0].count, rows[-1].count) == (0, 170, 123, 471)
    assert all(abs(r.made_s - r.pulse_s) <= t.tick_s / 2 + 1e-12 for r in rows)
    turning = Servo(0.02, 0.0013, 0.0017, 0)
    assert (
        servo.pulse(turning, 0.0) == pytest.approx(0.0015)
        and servo.says(turning, -0.5) == "50 % of full speed backwards"
    )


def test_calibrated_ends_replace_those_of_the_catalogue() -> None:
    measured = {"one_end": 0.00055, "other_end": 0.0024, "degrees": 180.0}
    plan = edits.set_params(example("harbour-light", shipped()), "flag", measured)
    facts = Circuit(plan, shipped()).parts["flag"].facts.servo
    assert facts is not None and (facts.least_s, facts.most_s, facts.degrees) == (0.00055, 0.0024, 180.0)


# --- relays, pixels, captures, grids ---------------------------------------------------------------------


@pytest.mark.parametrize(
    ("on", "off", "said"),
    [
        (0.2, 0.2, ""),
        (0.005, 1.0, "10 ms to close"),
        (1.0, 0.002, "5 ms to open"),
        (0.05, 0.2, "switched every 50 ms"),
    ],
)
def test_what_a_relay_does_not_follow(on: float, off: float, said: str) -> None:
    made = relay.Cycle(on, off, Relay(0.01, 0.005, 0.1, 250, 10, 1e5))
    assert said in made.fault and bool(said) == bool(made.fault)
    assert made.shortest_s == 0.2 and made.hours == pytest.approx(1e5 * (on + off) / 3600)


def test_a_frame_by_hand() -> None:
    """60 pixels of 24 bits at 1.25 µs and a gap of 280 µs: 1.8 ms + 0.28 ms; 180 bytes."""
    made = pixels.Chain("", (), 60, 24, 1.25e-6, 280e-6, 0.036)
    assert made.frame_s == pytest.approx(2.08e-3) and made.bytes == 180
    longest = made.longest_by_time(30)
    assert pixels.Chain("", (), longest, 24, 1.25e-6, 280e-6, 0.036).most_hz >= 30
    assert pixels.Chain("", (), longest + 1, 24, 1.25e-6, 280e-6, 0.036).most_hz < 30
    assert made.longest_by_memory(2048) == 512 and made.longest_by_memory(0) is None


def test_a_chain_over_several_parts_counts_as_one_and_its_supply_bounds_it() -> None:
    report = analyse(example("badge-wall", shipped()), shipped())
    chain = pixels.chains(report.circuit)[0]
    assert chain.parts == tuple(f"badge-{k}" for k in range(1, 6)) and chain.count == 5
    most = pixels.longest_by_supply(report.power, "badge-1", chain.full_a)
    assert most is not None and most[0] >= 1 and most[1]


@pytest.mark.parametrize("cell", ["500 mAh", "1200 mAh", "2500 mAh"])
def test_the_longest_chain_behind_a_converter_is_the_last_that_no_limit_forbids(cell: str) -> None:
    """Tried out: with so many pixels every supply above has something
    left, with one more one of them has not."""
    ties = {
        "boost.in": "cell.plus",
        "boost.gnd": "cell.minus",
        "strip.vdd": "boost.out",
        "strip.gnd": "boost.gnd",
        "strip.din": "p5",
        "cell.minus": "p34",
    }

    def fed(count: int) -> Report:
        return look_at(
            lay(
                "splice-24",
                {
                    "Cell": ("single-cell", {"milliampere_hours": cell}),
                    "Boost": "boost-converter",
                    "Strip": ("pixel-strip", {"count": float(count)}),
                },
                ties,
            )
        )

    def holds(report: Report) -> bool:
        return all(
            n.margin_a >= -1e-9 for root in report.power for n in root.walk() if n.margin_a is not None
        )

    start = fed(8)
    most = pixels.longest_by_supply(start.power, "strip", pixels.chains(start.circuit)[0].full_a)
    assert most is not None and holds(fed(most[0])) and not holds(fed(most[0] + 1))
    assert most[1] == ("Boost" if cell == "2500 mAh" else "Cell")


def test_capture_ticks_and_levels() -> None:
    """A frame of 22 ms has to fit 16 bits: 16 MHz / 8 counts 44000, undivided it would be 352000."""
    assert capture.capturing(Counter(16e6, steps=(1, 8, 64, 256, 1024), bits=16), 0.022) == (8.0, 0.5e-6)
    assert capture.levels(RadioChannel(0.001, 0.0015, 0.002, 0.022)) == pytest.approx((0.00125, 0.00175))


def test_a_timer_that_counts_longer_than_the_pulse_measures_it_beside_what_it_makes() -> None:
    """At 400 Hz the count goes on for 2.5 ms, a channel's pulse ends after 2 ms; at 1 kHz it does not."""
    plan = example("rules/capture-shared.bad", shipped())
    slower = edits.set_hertz(plan, "lamp.anode", 400.0)
    told = [[f.rule for f in look_at(p).findings if f.rule == "capture-shared"] for p in (plan, slower)]
    assert told == [["capture-shared"], []]


@given(
    st.integers(500, 1400),
    st.integers(1600, 2500),
    st.integers(-1000, 1000),
    st.integers(-1000, 1000),
    st.integers(0, 3000),
)
def test_mapping_keeps_its_ends_and_its_range(least: int, most: int, low: int, high: int, value: int) -> None:
    m = capture.Mapping(least, most, low, high)
    assert m.at(least) == low and m.at(most) == high
    exact = low + (min(max(value, least), most) - least) * (high - low) / (most - least)
    assert abs(m.at(value) - exact) < 1 and min(low, high) <= m.at(value) <= max(low, high)


def test_every_light_of_a_sign_is_one_bit_of_one_module_however_it_lies() -> None:
    """Three modules, each turned otherwise: a permutation of all 192
    lights, and a turn of the module by hand."""
    sign = grid.Sign(("a", "b", "c"), tuple(Grid(8, 8, 800, turned) for turned in grid.TURNS[:3]))
    lights = {sign.light(x, y) for x in range(24) for y in range(8)}
    assert len(lights) == 192 and {x.module for x in lights} == {0, 1, 2}
    assert sign.light(0, 0) == grid.Light(0, 0, 7) and sign.light(7, 0) == grid.Light(0, 0, 0)
    # turned a quarter clockwise, what was its lower left corner is seen at the upper left
    assert grid.turned(Grid(8, 8, 800, "a quarter turn"), 0, 0) == (0, 7)
    assert grid.turned(Grid(8, 8, 800, "a half turn"), 0, 0) == (7, 7)
    assert grid.turned(Grid(8, 8, 800, "three quarters"), 0, 0) == (7, 0)
    assert sign.words(0, 0) == [(0, 0), (0, 0), (1, 0x80)], "those for the farthest module go out first"
    with pytest.raises(ValueError, match="outside 24 × 8"):
        sign.light(24, 0)


def test_rows_and_currents_of_a_grid_by_hand() -> None:
    """800 scans of 8 rows: 156.25 µs each. 100 · 3.8 V / 10 kΩ = 38 mA while lit, an eighth on average."""
    assert grid.row_s(Grid(8, 8, 800)) == pytest.approx(156.25e-6)
    assert grid.light_a(CurrentSet("r", 3.8, 100, 9500, 0.04), 10e3) == pytest.approx((0.038, 0.00475))

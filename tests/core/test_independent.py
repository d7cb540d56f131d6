"""Whole plans against a second way to the same numbers, which shares no code with the engine.

A junction behind a resistance has a closed form in Lambert's W function (Banwell and Jayakumar, Electronics
Letters 36, 2000): I = n Vt / R * W(Is R / (n Vt) * exp((V + Is R) / (n Vt))) - Is. Circuits with more than
one node are solved by SciPy's fsolve from Kirchhoff's current law written out by hand.
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import fsolve
from scipy.special import lambertw

from knotplan.catalog.load import shipped
from knotplan.catalog.part.elements import Led
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.leds import led_of
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.led import choose, lit, resistor_place
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullUp, SeriesResistor
from knotplan.examples import example
from tests.conftest import lay, look_at

VT = 1.380649e-23 * 298.15 / 1.602176634e-19
"""kT/q at 25 degC, from the SI's defining constants"""


def curve(points) -> tuple[float, float, float]:
    """(Is, n Vt, Rs) through two points, derived again: n = 2 unless that makes Rs negative."""
    (i1, v1), (i2, v2) = points
    n_vt = min(2 * VT, (v2 - v1) / math.log(i2 / i1))
    rs = (v2 - v1 - n_vt * math.log(i2 / i1)) / (i2 - i1)
    return i1 / (math.exp((v1 - i1 * rs) / n_vt) - 1), n_vt, rs


def closed_form(volts: float, ohms: float, points, shift: float = 0.0) -> float:
    """Current of a junction, `shift` volts further along its axis, behind `ohms` on `volts`."""
    is_a, n_vt, rs = curve(points)
    is_a *= math.exp(-shift / n_vt)
    total = ohms + rs
    scale = is_a * total / n_vt
    return float((n_vt / total * lambertw(scale * np.exp((volts + is_a * total) / n_vt)).real) - is_a)


@given(st.floats(100, 1e4), st.sampled_from(["red", "amber", "green", "blue", "warm white"]))
@settings(max_examples=40, deadline=None)
def test_an_led_on_a_pin_of_the_5_v_board(ohm: float, colour: str) -> None:
    plan = lay(
        "clove-22",
        {"lamp": ("led", {"colour": colour})},
        {"lamp.anode": "e6", "lamp.cathode": "e2"},
        {"lamp.anode": [SeriesResistor(ohm)]},
    )
    reading = lit(look_at(plan).points.junctions[of_part("lamp", "junction")])
    led = shipped().part("led", {"colour": colour}).elements["junction"]
    assert reading.typ == pytest.approx(closed_form(5.0, ohm + 30, led.points), rel=1e-3)


@pytest.mark.parametrize("part_id", ["lamp", "red-pier-light", "green-pier-light"])
def test_the_demo_s_leds_at_their_centre_and_anywhere_within_their_tolerances(part_id: str) -> None:
    """A thousand specimens drawn at random all lie within least and most, and some come near to both."""
    report = look_at(example("harbour-light", shipped()))
    c = report.circuit
    name, led = led_of(c, part_id)
    assert isinstance(led, Led)
    tie, at = resistor_place(c, part_id)
    bead, driver = tie.beads[at], c.board.drivers["io"]
    rail = c.board.rails[driver.rail].volts
    reading = lit(report.points.junctions[of_part(part_id, name)])
    assert reading.typ == pytest.approx(
        closed_form(rail.typ, bead.ohm + driver.high_ohm.typ, led.points), rel=2e-3
    )
    draw = np.random.default_rng(7)
    found = [
        closed_form(
            draw.uniform(rail.min, rail.max),
            bead.ohm * draw.uniform(1 - bead.tolerance, 1 + bead.tolerance)
            + draw.uniform(driver.high_ohm.min, driver.high_ohm.max),
            led.points,
            draw.uniform(-led.spread_v, led.spread_v),
        )
        for _ in range(1000)
    ]
    assert reading.min * (1 - 5e-3) <= min(found) and max(found) <= reading.max * (1 + 5e-3)
    spread = reading.max - reading.min
    assert min(found) < reading.min + 0.25 * spread and max(found) > reading.max - 0.25 * spread


def test_the_chosen_resistor_is_the_first_of_its_series_that_keeps_to_the_wish() -> None:
    """Walking down the series by hand from large values: the choice is the
    last that does not exceed the wish."""
    for colour, wish in (("red", 0.004), ("amber", 0.007), ("green", 0.001), ("warm white", 0.002)):
        plan = lay(
            "bowline-40",
            {"lamp": ("led", {"colour": colour, "wish": wish})},
            {"lamp.anode": "p11", "lamp.cathode": "p17"},
        )
        points = shipped().part("led", {"colour": colour}).elements["junction"].points
        e12 = [m * d for d in (1, 10, 100, 1000) for m in (10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82)]
        fitting = [r for r in e12 if closed_form(3.3, r + 42, points) <= wish]
        assert choose(Circuit(plan, shipped()), shipped(), "lamp").best.ohm == min(fitting), colour


def relay_input_at_power_on(vcc: float, down_ohm: float, pull: float | None) -> float:
    """Current through the transistor input: VCC - 10 k - junction - IN, with the pin's pull-down and
    perhaps a pull-up from the logic's rail. Two nodes, by Kirchhoff's current law."""
    is_a, n_vt, rs = curve(((1e-5, 0.58), (1e-3, 0.72)))

    def junction(volts: float) -> float:
        return (
            closed_form(volts, 0.0, ((1e-5, 0.58), (1e-3, 0.72)))
            if rs
            else is_a * math.expm1(min(volts / n_vt, 80))
        )

    def balance(v):
        n, pin = v
        through = junction(n - pin)
        up = (3.3 - pin) / pull if pull else 0.0
        return [(vcc - n) / 10e3 - through, through + up - pin / down_ohm]

    n, _pin = fsolve(balance, [vcc - 0.5, vcc - 1.2], xtol=1e-13)
    return (vcc - n) / 10e3


@pytest.mark.parametrize("pull", [None, 10e3, 4700.0])
def test_what_a_relay_input_draws_at_power_on(pull: float | None) -> None:
    """L11 is pulled down by 50 k; the module's input side hangs on 5 V."""
    beads = {"horn.in1": [PullUp(pull, rail="board.p2")]} if pull else {}
    plan = lay(
        "bowline-40",
        {"horn": ("relay-module", {"input": "transistor"})},
        {"horn.vcc": "p1", "horn.in1": "p15", "horn.gnd": "p17", "horn.coil": "p3"},
        beads,
    )
    found = [
        r for r in look_at(plan).points.junctions[of_part("horn", "opto1")] if r.case.moment == "power-on"
    ]
    assert found[0].typ == pytest.approx(relay_input_at_power_on(5.0, 50e3, pull), rel=3e-3)


def test_a_stalled_servo_pulls_the_rail_by_ohm_s_law() -> None:
    """4.75 V behind 0.12 ohm, 650 mA and what signals draw: 4.672 V."""
    plan = lay(
        "bowline-40", {"flag": "micro-servo"}, {"flag.power": "p1", "flag.ground": "p5", "flag.signal": "p18"}
    )
    finding = next(f for f in look_at(plan).findings if f.rule == "jerky-load-on-board")
    assert finding.numbers[-1].value == pytest.approx(4.75 - 0.12 * 0.65, abs=2e-4)


@given(st.floats(1e3, 1e6))
@settings(max_examples=25, deadline=None)
def test_pull_and_series_resistor_are_a_divider_while_the_button_is_pressed(series: float) -> None:
    """Pressed: 3.3 V - pull - (pin) - series - contact (0.1 ohm) - ground;
    the pin leaks 1 uA at 3.3 V (3.3 M)."""
    plan = lay(
        "bowline-40",
        {"door": "push-button"},
        {"door.contact": "p12", "door.common": "p28"},
        {"door.contact": [SeriesResistor(series)]},
        {"door.contact": "up"},
    )
    pressed = [
        r
        for r in look_at(plan).points.volts["board.p12"]
        if r.case.moment == "running" and r.case.contact("door", "contact") == "closed"
    ]
    below = 1 / (1 / (series + 0.1) + 1 / 3.3e6)
    assert pressed[0].typ == pytest.approx(3.3 * below / (below + 50e3), rel=2e-3)


def test_an_edit_anywhere_else_leaves_every_number_of_a_net_as_it_was() -> None:
    plan = example("harbour-light", shipped())
    before = look_at(plan).points.junctions[of_part("lamp", "junction")]
    after = look_at(edits.tie(edits.recolour(plan, "door.contact", "blue"), "door.contact", "board.p8"))
    assert after.points.junctions[of_part("lamp", "junction")] == before

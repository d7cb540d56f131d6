"""SPI, UART and single lines: figures by hand, and what stands where."""

import math

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.buses.numbers import called, number_of
from knotplan.core.buses.single import single_lines
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.uart import EDGE, GOOD, good_rates, links
from knotplan.core.check.analysis import analyse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.drawing.buses import line_picture, spi_picture, uart_picture
from knotplan.core.drawing.palette import DARK
from knotplan.core.drawing.shapes import Text
from knotplan.core.plan.document import PlacedPart, Plan
from knotplan.core.text.buses import overview
from knotplan.examples import example
from tests.core.buses.benches import bench


def rule_plan(name: str) -> Circuit:
    return Circuit(example(f"rules/{name}", shipped()), shipped())


def test_practical_and_arithmetic_limits_of_eight_bits_without_parity() -> None:
    """The last bit is looked at 9.5 bits after the start's edge: half a bit in 9.5 is 5.3 %."""
    assert EDGE <= 0.5 / 9.5 < 0.053 and GOOD == 0.02


@pytest.mark.parametrize(
    ("board", "baud", "error"),
    [
        ("clove-60", 115200, 0.0212),
        ("clove-60", 9600, 0.0016),
        ("clove-60", 57600, 0.0212 - 0.0424 + 0.0130),
    ],
)
def test_uart_rates_by_hand(board: str, baud: float, error: float) -> None:
    """16 MHz / (8 · n): n = 17 for 115200 gives 117647; n = 208 for 9600 gives
    9615; n = 35 for 57600 gives 57143."""
    made = {115200: 16e6 / 8 / 17, 9600: 16e6 / 8 / 208, 57600: 16e6 / 8 / 35}[int(baud)]
    plan = example("rules/uart-rate.bad", shipped())
    asked = tuple(
        PlacedPart(p.id, p.part, p.name, p.params, settings={"baud": baud}) if p.id == "place" else p
        for p in plan.parts
    )
    link = links(Circuit(Plan(plan.board, parts=asked, ties=plan.ties), shipped()))[0]
    assert link.reached is not None and link.reached.hz == pytest.approx(made)
    assert link.reached.error == pytest.approx(error, abs=2e-3)
    assert link.error == pytest.approx(abs(link.reached.error) + 0.003 + 0.005)
    assert link.bits == 10 and link.bytes_per_s == baud / 10


def test_only_rates_that_both_ends_keep_are_offered() -> None:
    link = links(rule_plan("uart-rate.bad"))[0]
    rates = good_rates(rule_plan("uart-rate.bad"), link)
    assert 9600 in rates and 115200 not in rates and all(r <= 115200 for r in rates)


def test_a_chain_stands_in_order_behind_one_select() -> None:
    c = rule_plan("spi-modes.bad")
    bus = controllers(c)[0]
    assert (
        bus.modes == ()
        and {d.part for d in bus.devices} == {"oven", "row"}
        and bus.title == "SPI controller 0"
    )
    grids = example("rules/spi-modes.good", shipped())
    bus = controllers(Circuit(grids, shipped()))[0]
    assert bus.modes == (0,) and [s.bits for s in bus.selects] == [8, 24]


def test_the_clock_is_the_dividers_step_below_what_the_slowest_bears() -> None:
    """125 MHz by even divisors: 94 gives 1.3298 MHz, 92 would give 1.3587, more than 1.35."""
    bus = controllers(rule_plan("spi-clock.good"))[0]
    assert bus.reached is not None and bus.reached.divisor == 94 and bus.hz == pytest.approx(125e6 / 94)
    assert bus.limited_by == "Scales"


def test_a_long_cord_slows_the_clock_down() -> None:
    plan = example("rules/data-held.good", shipped())
    long = Plan(
        plan.board,
        parts=plan.parts,
        ties=tuple(type(t)(t.id, t.lead, t.to, length_m=30.0) for t in plan.ties),
    )
    near, far = (
        next(k for k in controllers(Circuit(p, shipped())) if k.devices[0].part == "adc")
        for p in (plan, long)
    )
    assert far.most_hz < near.most_hz and "cord" in far.limited_by
    driver = shipped().board("splice-24").drivers["io"]
    farad = 30 * 50e-12 + 10e-12 * 2
    assert far.most_hz == pytest.approx(0.5 / (2 * 30 * 5e-9 + 200e-9 + 2.2 * driver.high_ohm.max * farad))


def test_what_a_program_drives_is_slow_and_said() -> None:
    bus = controllers(rule_plan("spi-by-program.bad"))[0]
    assert bus.software and bus.hz == 200e3 and bus.reached is None and "program" in bus.limited_by


@pytest.mark.parametrize(
    ("name", "idle"),
    [
        ("select-unheld.bad", "selected at power-on"),
        ("select-unheld.good", "held off until the program runs"),
    ],
)
def test_what_holds_a_select_at_power_on(name: str, idle: str) -> None:
    assert idle in [s.idle for s in controllers(rule_plan(name))[0].selects]


def test_one_wire_by_hand() -> None:
    """40 m of cord at 50 pF/m, 30 pF in the part and 10 pF at the pin, behind 4.7 kΩ and 5 %."""
    found = single_lines(rule_plan("line-slow.bad"))[0]
    assert found.farad == pytest.approx(40 * 50e-12 + 40e-12) and found.metres == 40
    assert found.rise_s == pytest.approx(4700 * 1.05 * found.farad * math.log(1 / 0.3))
    assert (
        found.most_ohm == pytest.approx(9e-6 / (found.farad * math.log(1 / 0.3)))
        and found.feeding_ohm is None
    )
    starved = single_lines(rule_plan("line-starved.bad"))[0]
    assert starved.parasitic == ("soil",) and starved.feeding_ohm == pytest.approx((3.2 - 3.0) / 1.5e-3)
    assert starved.timed


def test_buses_are_numbered_as_the_system_counts_them() -> None:
    c = bench("capstan-34", [])
    assert number_of(c, UnitId("board", "i2c", "0")) == 7 and number_of(c, UnitId("board", "i2c", "1")) == 1
    said = " ".join(called(c, UnitId("board", "spi", "0")).lines)
    assert "/dev/spidev0.0" in said and "group spi" in said and "Off until switched on" in said
    switched = Circuit(Plan("capstan-34", set_up=("spi",)), shipped())
    assert "Off" not in " ".join(called(switched, UnitId("board", "spi", "0")).lines)
    assert called(bench("splice-24", []), UnitId("board", "i2c", "0")).lines == []


@pytest.mark.parametrize("name", ["spi-modes.bad", "uart-rate.bad", "uart-crossed.bad", "line-starved.bad"])
def test_pictures_name_everybody(name: str) -> None:
    c = rule_plan(name)
    pictures = [
        *(spi_picture(c, k, DARK) for k in controllers(c)),
        *(uart_picture(c, x, DARK) for x in links(c)),
        *(line_picture(c, x, DARK) for x in single_lines(c)),
    ]
    said = " ".join(s.text for p in pictures for s in p.shapes if isinstance(s, Text))
    parts = {d.part for k in controllers(c) for d in k.devices} | {x.part for x in links(c)}
    assert pictures and all(c.placed[p].name in said for p in parts)


def test_the_list_of_buses_says_what_is_wrong_with_which() -> None:
    report = analyse(example("harbour-light-draft", shipped()), shipped())
    entries = overview(report)
    assert [(e.title, e.worst) for e in entries] == [("I2C bus 1", "stop"), ("I2C bus 0", "")]
    assert [e.kind for e in overview(analyse(example("mist-bench", shipped()), shipped()))] == [
        "line",
        "line",
    ]

"""Lines as wires: the standard's own figures, hand calculation, and the engine where it has the same."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.board.units import Divider
from knotplan.core.buses.i2c import i2c_buses, slowest
from knotplan.core.buses.lines import MODES, RISES, Section, mode_for, sections
from knotplan.core.buses.rates import at_most, nearest
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.beads import LevelShifter, PullUp, SeriesResistor
from tests.core.buses.benches import bench, on_bus, placed


def line(c: Circuit, role: str = "sda", at: int = 0) -> Section:
    bus = next(b for b in i2c_buses(c) if b.devices)
    return [s for s in sections(c, bus.bus) if s.role == role][at]


def test_modes_have_the_limits_of_the_standard() -> None:
    """UM10204 table 10 (I_OL at 0.4 V) and table 11 (clock, rise time, capacitive load)."""
    assert [(m.hz, m.rise_s, m.farad, m.sinks_a) for m in MODES] == [
        (100e3, 1000e-9, 400e-12, 3e-3),
        (400e3, 300e-9, 400e-12, 3e-3),
        (1e6, 120e-9, 550e-12, 20e-3),
    ]
    assert mode_for(100e3).title == "Standard mode" and mode_for(100001).title == "Fast mode"


@pytest.mark.parametrize(
    ("farad", "rise", "ohm"), [(400e-12, 1000e-9, 2951), (200e-12, 300e-9, 1770), (100e-12, 120e-9, 1416)]
)
def test_largest_pull_up_by_the_formula_of_the_standard(farad: float, rise: float, ohm: float) -> None:
    """R_p(max) = t_r / (0.8473 · C_b), UM10204 clause 7.1, worked out by hand."""
    assert rise / (RISES * farad) == pytest.approx(ohm, abs=1)


def test_the_rise_factor_is_that_of_an_exponential() -> None:
    """From 0.3 to 0.7 of the supply: ln(0.7) − ln(0.3)."""
    assert pytest.approx(math.log(0.7 / 0.3), abs=5e-5) == RISES


def test_all_pull_ups_act_in_parallel_those_of_board_and_modules() -> None:
    """By hand: 1.8 kΩ fitted, 4.7 kΩ and 10 kΩ on modules."""
    c = bench("bowline-40", [placed("face", "oled-display"), placed("water", "i2c-thermometer")])
    s = line(c)
    assert s.ohm is not None and s.ohm.typ == pytest.approx(1 / (1 / 1800 + 1 / 4700 + 1 / 10000))
    assert sorted(p.what for p in s.pulls) == ["fitted on the board", "on Face", "on Water"]
    assert s.farad == pytest.approx(3 * 10e-12 + 2 * 0.2 * 50e-12)
    assert s.rise is not None and s.rise.typ == pytest.approx(RISES * s.ohm.typ * s.farad)


def test_pulls_taken_off_and_cords_lengthened_count() -> None:
    part = placed("water", "i2c-thermometer", pulls="taken off")
    bare = bench("splice-24", [part])
    assert line(bare).ohm is None and line(bare).rise is None and line(bare).volts is None
    pull = PullUp(2200.0, rail="board.p32")
    long = bench("splice-24", [part], on_bus("splice-24", part, length_m=2.0, lay="shielded", beads=(pull,)))
    s = line(long)
    assert s.farad == pytest.approx(20e-12 + 2 * 100e-12)
    assert s.ohm is not None and s.ohm.typ == pytest.approx(2200)
    assert s.more_metres(mode_for(100e3)) == pytest.approx(
        (min(400e-12, 1e-6 / (RISES * s.ohm.max)) - s.farad) / 50e-12
    )


def test_least_resistor_is_what_the_weakest_driver_pulls_to_0_4_volts() -> None:
    """R_p(min) = (V_DD − V_OL) / I_OL: at 3.4 V and 3 mA it is 1 kΩ."""
    s = line(bench("splice-24", [placed("water", "i2c-thermometer")]))
    assert s.weakest is not None and s.weakest.amps == 3e-3
    assert s.least_ohm == pytest.approx((3.4 - 0.4) / 3e-3)
    assert s.low_v(s.weakest) < 0.4 < s.volts.min  # type: ignore[union-attr]


def test_a_line_pulled_to_two_rails_stands_between_them() -> None:
    """Against the engine: the same net, with nobody driving it."""
    from knotplan.core.engine.operating_points import operating_points

    part = placed("face", "oled-display")
    ties = on_bus("bowline-40", part)
    ties[0] = type(ties[0])("face.vcc", "face.vcc", "board.p1")
    c = bench("bowline-40", [part], ties)
    s = line(c)
    reading = next(r for r in operating_points(c).volts[c.nets.of("board.p14")] if r.case.moment == "running")
    assert s.volts is not None and s.volts.typ == pytest.approx(reading.typ, abs=2e-3)


def test_a_level_shifter_parts_a_line_and_a_resistor_does_not() -> None:
    part = placed("face", "oled-display", pulls="taken off")
    shifted = on_bus("bowline-40", part, beads=(LevelShifter("mosfet", "board.p1", "board.p2"),))
    c = bench("bowline-40", [part], shifted)
    board, device = line(c, at=0), line(c, at=1)
    assert [p.what for p in device.pulls] == ["in the level shifter"] and device.volts.typ == 5.0  # type: ignore[union-attr]
    assert len(board.pulls) == 2 and board.volts.typ == pytest.approx(3.3) and device.devices == ("face",)  # type: ignore[union-attr]
    c = bench("bowline-40", [part], on_bus("bowline-40", part, beads=(SeriesResistor(100.0),)))
    assert len(sections(c, next(b for b in i2c_buses(c) if b.devices).bus)) == 2, "one section for each line"


def test_the_slowest_device_rules_the_bus_also_from_behind_a_switch() -> None:
    switch, slow = placed("branches", "bus-switch"), placed("text", "character-display")
    ties = on_bus("splice-24", switch) + on_bus("splice-24", slow, "branches.sd0", "branches.sc0")
    c = bench("splice-24", [switch, slow], ties)
    trunk = next(b for b in i2c_buses(c) if b.devices)
    found = slowest(c, trunk)
    assert found is not None and found.part == "text"


# --- rates of dividers -------------------------------------------------------------------------------


DIVIDERS = (
    Divider(16e6, most=4096, times=8),
    Divider(48e6, most=255, finest=1 / 64, times=16),
    Divider(16e6, steps=(2, 4, 8, 16, 32, 64, 128)),
)


@given(st.floats(1e3, 1e6), st.sampled_from(DIVIDERS))
@settings(deadline=None)
def test_the_nearest_rate_is_the_best_of_all(hz: float, d: Divider) -> None:
    """Against trying every divisor there is."""
    every = d.steps or [d.least + k * d.finest for k in range(int((d.most - d.least) / d.finest) + 1)]
    best = min(abs(math.log(d.hz / (d.times * x) / hz)) for x in every)
    found = nearest(d, hz)
    assert abs(math.log(found.hz / hz)) == pytest.approx(best, abs=1e-12)
    able = [d.hz / (d.times * x) for x in every if d.hz / (d.times * x) <= hz * (1 + 1e-9)]
    assert at_most(d, hz).hz == pytest.approx(max(able) if able else d.hz / (d.times * max(every)))

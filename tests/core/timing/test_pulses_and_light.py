"""Timers against trying every divisor; lightness against the published formula and table values."""

import math
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.board.units import Counter
from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.core.timing import lightness
from knotplan.core.timing.pulses import phase_of, reach, timer_of, timers
from knotplan.examples import example

COUNTERS = (
    Counter(16e6, steps=(1, 8, 64, 256, 1024), bits=8),
    Counter(16e6, steps=(1, 8, 64, 256, 1024), bits=16),
    Counter(125e6, least=1, most=255.9375, finest=0.0625, bits=16),
    Counter(25e6, least=4, most=256, bits=12, full=True),
    Counter(72e6, most=65536, bits=16),
    Counter(16e6, steps=(1, 8, 64), bits=8, full=True),
)


@given(st.sampled_from(COUNTERS), st.floats(20, 50e3))
@settings(max_examples=200, deadline=None)
def test_a_counter_is_set_as_well_as_it_can_be(counter: Counter, hz: float) -> None:
    t = reach(counter, hz)
    assert 2 <= t.counts <= 2**counter.bits
    assert t.hz == pytest.approx(counter.hz / (t.divisor * t.counts))
    count = int((counter.most - counter.least) / counter.finest) + 1
    every = counter.steps or [counter.least + k * counter.finest for k in range(count)]
    assert any(abs(t.divisor - d) < 1e-9 for d in every)
    if counter.full:
        best = min(abs(math.log(counter.hz / (d * 2**counter.bits) / hz)) for d in every)
        assert abs(math.log(t.hz / hz)) == pytest.approx(best, abs=1e-12)
    elif counter.hz / (max(every) * hz) <= 2**counter.bits:
        finer = [d for d in every if d < t.divisor - 1e-9]
        assert all(counter.hz / (d * hz) > 2**counter.bits for d in finer), (
            "the smallest divisor with which a period fits"
        )
        assert abs(t.off) <= 0.5 / t.counts * 1.01


def test_the_hubs_prescaler_by_the_formula_of_its_kind() -> None:
    """prescale = round(f_osc / (2^n · f)) − 1, within the part's limits, which bound f at both ends."""
    hub = shipped().part("pwm-hub", {}).peripherals["pwm:0"]
    for hz in (24, 50, 60, 200, 1000, 1526):
        t = reach(hub.counter, hz)
        assert t.written == min(255, max(3, round(25e6 / (4096 * hz)) - 1))
    assert hub.least_hz == pytest.approx(25e6 / 4096 / 256, abs=0.5) and hub.most_hz == pytest.approx(
        25e6 / 4096 / 4, abs=0.5
    )


def test_counts_are_reckoned_with_the_frequency_that_is_reached() -> None:
    """1.5 ms at 50.029 Hz of 4096 counts: 307.38; with the 50 Hz that were asked for it would be 307.2."""
    t = reach(shipped().part("pwm-hub", {}).peripherals["pwm:0"].counter, 50.0)
    assert t.count(0.0015) == round(0.0015 * (25e6 / 4096 / 122) * 4096) == 307
    assert t.count(1.0) == 4095 and t.count(-1.0) == 0  # the register ends there


def test_what_shares_a_timer_is_found_and_a_wished_frequency_counts() -> None:
    plan = example("harbour-light", shipped())
    c = Circuit(plan, shipped())
    found = {s.title: [u.lead for u in s.uses] for s in timers(c)}
    assert found == {"pulse pair A": ["lamp.anode"], "pulse pair B": ["flag.signal"]}
    faster = Circuit(edits.set_hertz(plan, plan.tie_of("lamp.anode").id, 500.0), shipped())
    assert timer_of(faster, "lamp.anode").timer.hz == pytest.approx(500.0)
    mixed = example("rules/timer-shared.bad", shipped())
    shared = next(s for s in timers(Circuit(mixed, shipped())) if len(s.uses) > 1)
    assert len({u.hz for u in shared.uses}) == 2


def test_a_hubs_frames_begin_together_or_one_after_another() -> None:
    plan = example("organ-shutters", shipped())
    spread = Circuit(edits.set_param(plan, "rank-01", "stagger", "one after another"), shipped())
    shared = timer_of(spread, "shutter-01-05.signal")
    assert phase_of(spread, shared, "shutter-01-05.signal") == pytest.approx(4 / 16 / shared.timer.hz)
    together = Circuit(plan, shipped())
    assert phase_of(together, timer_of(together, "shutter-01-05.signal"), "shutter-01-05.signal") == 0.0


# --- brightness -------------------------------------------------------------------------------------

CIE_1976 = {
    0: 0.0,
    1: 0.001107,
    5: 0.005535,
    8: 0.008856,
    10: 0.011260,
    20: 0.029891,
    50: 0.184187,
    75: 0.482781,
    90: 0.763034,
    100: 1.0,
}
"""L* to Y/Yn: Y/Yn = ((L* + 16)/116)^3 above 8, L*/903.3 below (CIE 15, 8.2.1.1), worked out to six places"""


@pytest.mark.parametrize(("level", "share"), CIE_1976.items())
def test_lightness_is_that_of_the_standard(level: float, share: float) -> None:
    assert lightness.luminance(level) == pytest.approx(share, abs=2e-6)
    assert lightness.lightness(share) == pytest.approx(level, abs=2e-2)


@given(st.integers(2, 256), st.integers(1, 65535), st.sampled_from(lightness.LAWS))
def test_tables_rise_strictly_from_dark_to_full(levels: int, most: int, law: lightness.Law) -> None:
    if levels > most + 1:
        with pytest.raises(lightness.TableError, match="do not fit"):
            lightness.table(levels, most, law)
        return
    made = lightness.table(levels, most, law)
    assert len(made) == levels and made[0] == 0 and all(b > a for a, b in pairwise(made))
    assert made[-1] == most


def test_a_fine_table_follows_the_law_and_a_coarse_one_stays_near() -> None:
    fine = lightness.table(101, 65535)
    assert all(abs(n / 65535 - lightness.luminance(k)) <= 0.5 / 65535 + 1e-12 for k, n in enumerate(fine))
    assert lightness.table(9, 255, "doubling") == (0, 2, 4, 8, 16, 32, 64, 128, 255)
    assert lightness.table(3, 2) == (0, 1, 2)
    with pytest.raises(lightness.TableError, match="at least 2"):
        lightness.table(1, 255)


def test_an_empty_bench_has_no_timers() -> None:
    assert timers(Circuit(Plan("bowline-40"), shipped())) == []

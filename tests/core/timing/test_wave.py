"""Waves: against plain enumeration, and what repeats is never computed as a whole."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.core.timing.span import panned, tick_words, ticks, zoomed
from knotplan.core.timing.wave import BUSY, Mark, Wave, bits_wave, pulses, steady


@st.composite
def waves(draw) -> Wave:
    """Periodic ones with up to six edges at whole microseconds, shifted."""
    period = draw(st.integers(2, 50))
    at = sorted(draw(st.sets(st.integers(0, period - 1), min_size=1, max_size=6)))
    levels = [draw(st.integers(0, 1)) for _ in at]
    return Wave(period * 1e-6, [t * 1e-6 for t in at], levels, draw(st.integers(0, 20)) * 1e-6)


def by_hand(w: Wave, start: float, end: float) -> list[tuple[float, int]]:
    """Every edge, found by going through all periods."""
    made = []
    k = int((start - w.phase_s) // w.period_s) - 1
    while k * w.period_s + w.phase_s < end:
        made += [
            (k * w.period_s + w.phase_s + t, int(level)) for t, level in zip(w.times, w.levels, strict=True)
        ]
        k += 1
    return [(t, level) for t, level in made if start - 1e-12 <= t < end - 1e-12]


@given(waves(), st.integers(0, 60), st.integers(1, 120))
@settings(max_examples=150)
def test_edges_are_those_of_every_period(w: Wave, start: int, length: int) -> None:
    a, b = start * 1e-6 - 0.25e-6, (start + length) * 1e-6 - 0.25e-6
    times, levels = w.edges(a, b)
    found, wanted = list(zip(times.tolist(), levels.tolist(), strict=True)), by_hand(w, a, b)
    assert len(found) == len(wanted) == w.count(a, b)
    assert all(abs(x[0] - y[0]) < 1e-12 and x[1] == y[1] for x, y in zip(found, wanted, strict=True))


@given(waves(), st.integers(0, 400))
def test_the_level_is_that_after_the_last_edge(w: Wave, at: int) -> None:
    moment = at * 0.5e-6 + 0.13e-6
    before = by_hand(w, -3 * w.period_s, moment)
    assert w.level(moment) == (before[-1][1] if before else int(w.levels[-1]))


@given(waves(), st.integers(0, 50), st.integers(50, 400))
@settings(max_examples=100)
def test_what_is_seen_agrees_with_the_levels_wherever_it_is_not_busy(
    w: Wave, start: int, length: int
) -> None:
    a, b = start * 1e-6 - 0.25e-6, (start + length) * 1e-6 - 0.25e-6
    seen = w.seen(a, b, 3e-6)
    assert seen.times[0] == a and (np.diff(seen.times) > -1e-15).all()
    for k, state in enumerate(seen.states.tolist()):
        end = seen.times[k + 1] if k + 1 < seen.count else b
        middle = (seen.times[k] + end) / 2
        if state != BUSY and end - seen.times[k] > 1e-9:
            assert w.level(middle) == state


def test_a_busy_wave_never_has_more_pieces_than_fit() -> None:
    """A million edges in sight are one piece; forty bursts are forty."""
    quick = pulses(1e-6, 0.4e-6)
    assert quick.count(0.0, 1.0) == 2_000_000
    assert quick.seen(0.0, 1.0, 1e-3).states.tolist() == [BUSY]
    burst = Wave(0.025, [k * 1e-6 for k in range(2000)], [1, 0] * 1000)
    seen = burst.seen(0.0, 1.0, 1e-3)
    assert seen.count <= 2 * 40 + 1 and seen.states.tolist().count(BUSY) == 40


def test_a_stretch_of_nanoseconds_touches_few_edges_however_long_ago_it_began() -> None:
    w = pulses(1.25e-6, 0.4e-6)
    times, _ = w.edges(5000.0, 5000.0 + 10e-6)
    assert len(times) == 16
    with pytest.raises(ValueError, match="too many to look at"):
        w.edges(0.0, 10_000.0)


def test_waves_that_cannot_be_are_refused() -> None:
    for period, times, levels in (
        (1.0, [0.5, 0.2], [1, 0]),
        (1.0, [0.5], [1, 0]),
        (1.0, [1.5], [1]),
        (1.0, [-0.1], [1]),
    ):
        with pytest.raises(ValueError):
            Wave(period, times, levels)


def test_a_wave_without_a_period_happens_once() -> None:
    w = Wave(0.0, [0.1, 0.3], [1, 0])
    assert [w.level(t) for t in (0.0, 0.2, 0.4, 99.0)] == [0, 1, 0, 0]
    assert w.count(0.0, 1e6) == 2 and steady(1).level(3.0) == 1 and steady(0).count(0, 9) == 0


def test_bits_and_marks() -> None:
    w = bits_wave([0, 1, 1, 0, 1], 1e-3, 10e-3, rest=1, marks=(Mark(0.0, 5e-3, "x"),))
    assert [w.level(k * 1e-3 + 0.5e-3) for k in range(10)] == [0, 1, 1, 0, 1, 1, 1, 1, 1, 1]
    assert [m.start_s for m in w.words(0.0, 0.03, 1e-3)] == pytest.approx([0.0, 0.01, 0.02])
    assert list(w.words(0.0, 0.03, 6e-3)) == [], "what is too short to be read is not said"


def test_zooming_keeps_the_moment_and_ends_somewhere() -> None:
    a, b = zoomed(0.0, 1.0, 0.1, 0.3)
    assert (0.3 - a) / (b - a) == pytest.approx(0.3) and b - a == pytest.approx(0.1)
    for _ in range(200):
        a, b = zoomed(a, b, 0.5, 0.3)
    assert b - a == pytest.approx(20e-9)
    assert zoomed(0.0, 1.0, 1e9, 0.0)[1] == 1000.0 and panned(0.0, 1.0, -5) == (0.0, 1.0)


@given(st.floats(0, 100), st.floats(-8, 2))
def test_ticks_are_round_and_lie_inside(start: float, power: float) -> None:
    length = 10.0**power
    found = ticks(start, start + length)
    assert 3 <= len(found) <= 11
    assert all(start - 1e-9 * length <= t <= start + length * (1 + 1e-9) + 1e-9 * start for t in found)
    assert len(set(tick_words(found, found[1] - found[0]))) == len(found), "no two have the same words"


def test_a_steady_wave_has_no_edges_and_waves_of_too_many_are_refused() -> None:
    times, levels = steady(1).edges(0.0, 10.0)
    assert len(times) == len(levels) == 0 and steady(1).level(5.0) == 1
    with pytest.raises(ValueError, match="edges are too many"):
        pulses(1e-9, 0.5e-9).edges(0.0, 1.0)


def test_words_of_a_wave_that_does_not_repeat() -> None:
    """Two marks, once: those too short to be read, and those outside, are left out."""
    w = Wave(0.0, [1.0, 2.0], [1, 0], rest=0, marks=(Mark(1.0, 2.0, "on"), Mark(3.0, 3.1, "blip")))
    assert [m.text for m in w.words(0.0, 10.0, 0.5)] == ["on"]
    assert [m.text for m in w.words(0.0, 10.0, 0.01)] == ["on", "blip"]
    assert list(w.words(2.5, 2.9, 0.01)) == []

"""Waves: levels over time that repeat. One period is kept; everything else is reckoned from it."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
BUSY = 2
"""a stretch with more edges than can be told apart"""
MOST_EDGES = 2_000_000


class Mark(Struct, frozen=True):
    """What a stretch of a wave means: a byte, a step, a pixel."""

    start_s: float
    end_s: float
    text: str


class Seen(Struct, frozen=True):
    """A wave as it can be drawn: from `times[k]` on it is in `states[k]` (0 low, 1 high, 2 busy)."""

    times: Floats
    states: Ints

    @property
    def count(self) -> int:
        """How many edges it has, in a period or in all."""
        return len(self.times)


class Wave:
    """Levels over one period that repeat for ever, shifted by `phase_s`; without a period it happens once.

    `times` (s) rise within [0, period); from `times[k]` on the level is `levels[k]`. Before the first edge of
    a wave that happens once it is `rest`.
    """

    def __init__(
        self,
        period_s: float,
        times: Sequence[float] | Floats,
        levels: Sequence[int] | Ints,
        phase_s: float = 0.0,
        rest: int = 0,
        marks: tuple[Mark, ...] = (),
    ):
        self.period_s, self.phase_s, self.rest, self.marks = period_s, phase_s, rest, marks
        self.times: Floats = np.asarray(times, float)
        self.levels: Ints = np.asarray(levels, np.int64)
        if len(self.times) != len(self.levels):
            raise ValueError(f"{len(self.times)} times and {len(self.levels)} levels")
        if len(self.times) and not (self.times[0] >= 0 and (np.diff(self.times) > 0).all()):
            raise ValueError("the times of a wave have to rise from 0 on")
        if period_s and len(self.times) and self.times[-1] >= period_s:
            raise ValueError(f"an edge at {self.times[-1]:g} s lies beyond the period of {period_s:g} s")
        self._starts = [m.start_s for m in marks]

    # --- at one moment --------------------------------------------------------------------------------

    def level(self, at_s: float) -> int:
        """The level at a moment."""
        if not len(self.times):
            return self.rest
        return self._at(self.times, self.levels, at_s)

    def _at(self, times: Floats, states: Ints, at_s: float) -> int:
        here = at_s - self.phase_s
        if self.period_s:  # an edge that falls on this moment counts, whatever the last digit says
            here = (here + self.period_s * 1e-12) % self.period_s
        k = int(np.searchsorted(times, here, "right")) - 1
        return int(states[k]) if k >= 0 or self.period_s else self.rest

    # --- over a stretch -------------------------------------------------------------------------------

    def count(self, start_s: float, end_s: float) -> int:
        """How many edges lie in [start, end), without making them."""

        def below(at: float) -> int:
            here = at - self.phase_s
            if not self.period_s:
                return int(np.searchsorted(self.times, here, "left"))
            turns = int(np.floor(here / self.period_s))
            return turns * len(self.times) + int(
                np.searchsorted(self.times, here - turns * self.period_s, "left")
            )

        return max(0, below(end_s) - below(start_s)) if len(self.times) else 0

    def edges(self, start_s: float, end_s: float) -> tuple[Floats, Ints]:
        """(times, levels) of every edge in [start, end); raises ValueError
        where there are more than `MOST_EDGES`."""
        count = self.count(start_s, end_s)
        if count > MOST_EDGES:
            raise ValueError(f"{count} edges are too many to look at; the limit is {MOST_EDGES}")
        return self._spread(self.times, self.levels, start_s, end_s)

    def _spread(self, times: Floats, levels: Ints, start_s: float, end_s: float) -> tuple[Floats, Ints]:
        """One period's changes laid out over a stretch; only as many periods as lie in it."""
        if not len(times):
            return times, levels
        if not self.period_s:
            whole, states = times + self.phase_s, levels
        else:
            first = int(np.floor((start_s - self.phase_s) / self.period_s))
            last = int(np.floor((end_s - self.phase_s) / self.period_s))
            turns = np.arange(first, last + 1) * self.period_s + self.phase_s
            whole = (turns[:, None] + times[None, :]).ravel()
            states = np.tile(levels, len(turns))
        inside = slice(
            int(np.searchsorted(whole, start_s, "left")), int(np.searchsorted(whole, end_s, "left"))
        )
        return whole[inside], states[inside]

    def seen(self, start_s: float, end_s: float, finest_s: float) -> Seen:
        """The wave as it can be drawn where nothing shorter than `finest_s` can be told apart.

        Edges that lie closer together than that become one busy stretch: so there are never more pieces
        than fit the picture, however many edges there are."""
        at_start = np.array([start_s]), np.array([self.level(start_s)], np.int64)
        if not len(self.times):
            return Seen(*at_start)
        if self.period_s and self.period_s < 2 * finest_s and len(set(self.levels.tolist())) > 1:
            return Seen(at_start[0], np.array([BUSY], np.int64))
        times, states = self._merged(finest_s)
        found, levels = self._spread(times, states, start_s, end_s)
        if len(found) and found[0] == start_s:
            return Seen(found, levels)
        return Seen(
            np.concatenate([at_start[0], found]), np.concatenate([[self._at(times, states, start_s)], levels])
        )

    def _merged(self, finest_s: float) -> tuple[Floats, Ints]:
        """One period with everything closer than `finest_s` put into busy stretches."""
        times, levels = self.times, self.levels
        if len(times) < 3:
            return times, levels
        near = np.diff(times) < finest_s
        if not near.any():
            return times, levels
        begins = np.concatenate([[True], ~near])
        first = np.flatnonzero(begins)
        last = np.append(first[1:], len(times)) - 1
        several = last > first
        moments = np.concatenate([times[first], times[last][several]])
        states = np.concatenate([np.where(several, BUSY, levels[first]), levels[last][several]])
        order = np.argsort(moments, kind="stable")
        return moments[order], states[order]

    def words(self, start_s: float, end_s: float, least_s: float) -> Iterator[Mark]:
        """What the stretches mean that lie in [start, end) and are at least `least_s` long."""
        if not self.marks or not any(m.end_s - m.start_s >= least_s for m in self.marks):
            return
        turns = [0]
        if self.period_s:
            turns = list(
                range(
                    int(np.floor((start_s - self.phase_s) / self.period_s)),
                    int(np.floor((end_s - self.phase_s) / self.period_s)) + 1,
                )
            )
        for turn in turns:
            shift = turn * self.period_s + self.phase_s
            low = max(0, bisect_right(self._starts, start_s - shift) - 1)
            for m in self.marks[low : bisect_left(self._starts, end_s - shift)]:
                if m.end_s - m.start_s >= least_s and m.end_s + shift > start_s:
                    yield Mark(m.start_s + shift, m.end_s + shift, m.text)


def steady(level: int) -> Wave:
    """A level that never changes."""
    return Wave(0.0, [], [], rest=level)


def pulses(period_s: float, high_s: float, phase_s: float = 0.0, inverted: bool = False) -> Wave:
    """One pulse a period; `inverted` for outputs that are active low.

    >>> pulses(0.02, 0.0015).level(0.001), pulses(0.02, 0.0015).level(0.002)
    (1, 0)
    """
    if high_s <= 0 or high_s >= period_s:
        return steady(int((high_s > 0) != inverted))
    return Wave(period_s, [0.0, high_s], [0, 1] if inverted else [1, 0], phase_s)


def changing(
    levels: Sequence[tuple[float, int]], period_s: float, rest: int, marks: tuple[Mark, ...] = ()
) -> Wave:
    """A line that rests at a level and is set to others at some moments; only real changes are kept."""
    times, kept, now = [], [], rest
    for at, level in levels:
        if level != now:
            times.append(at)
            kept.append(level)
            now = level
    return Wave(period_s, times, kept, rest=rest, marks=marks)


def bits_wave(
    bits: Sequence[int], bit_s: float, period_s: float, rest: int = 1, marks: tuple[Mark, ...] = ()
) -> Wave:
    """Bits one after another on a line that rests at a level, then again after `period_s`."""
    back = [(len(bits) * bit_s, rest)]
    return changing([(k * bit_s, bit) for k, bit in enumerate(bits)] + back, period_s, rest, marks)

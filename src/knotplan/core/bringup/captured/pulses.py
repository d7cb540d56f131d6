"""What a trace does again and again: period, how long it is high, how much that varies, and what is no pulse
but a disturbance."""

import numpy as np
from msgspec import Struct

from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.timing.wave import Floats

GLITCH = 0.05
"""of the usual length of its kind: a shorter one is a disturbance"""
MOST_GLITCHES = 0.2
"""a larger share of short ones is no disturbance, but how it is"""
FEW = 4
TICKS, FAR_SHORTER = 3, 0.01
"""a level of so many ticks of the instrument, shorter than this share of the usual one, is none"""
MOST = 200_000
"""pulses that are looked at"""


class Pulses(Struct, frozen=True):
    """All times in s; 0 where there are not enough edges."""

    count: int
    """rises, without disturbances"""
    period_s: float
    high_s: float
    low_s: float
    period_spread_s: float
    """from the tenth to the ninetieth in a hundred"""
    glitches: int

    @property
    def duty(self) -> float:
        """The share of the time for which it is high."""
        return self.high_s / self.period_s if self.period_s else 0.0


def without_glitches(trace: Trace) -> tuple[Trace, int]:
    """The trace without levels that are far shorter than the usual ones of their kind, where such are rare,
    and without those that last a few ticks of the instrument only, where all others last far longer. Also:
    how many those are."""
    times, levels = trace.times[: 2 * MOST], trace.levels[: 2 * MOST]
    if len(times) < 2:
        return trace, 0
    lasts = np.diff(times)  # the last level has no end
    usual = float(np.median(lasts)) if len(lasts) > FEW else trace.seconds
    short = (lasts <= TICKS * trace.tick_s) & (lasts < FAR_SHORTER * usual)
    for level in (0, 1):
        mine = levels[:-1] == level
        if mine.sum() > FEW:
            short |= mine & (lasts < GLITCH * np.median(lasts[mine]))
    number = int(short.sum())
    if not number or (number > MOST_GLITCHES * len(times) and len(times) > 2 * FEW):
        return trace, 0
    gone = np.append(short, False)
    gone[1:] |= short  # the edge that ends it
    kept_times, kept_levels = times[~gone], levels[~gone]
    before = (
        np.concatenate([np.array([trace.rest], np.int8), kept_levels[:-1]])
        if len(kept_levels)
        else kept_levels
    )
    real = kept_levels != before
    return (
        Trace(
            trace.name,
            kept_times[real],
            kept_levels[real],
            trace.start_s,
            trace.end_s,
            trace.rest,
            trace.tick_s,
        ),
        number,
    )


def pulses_of(trace: Trace) -> Pulses:
    """What a trace does again and again."""
    clean, glitches = without_glitches(trace)
    rises, falls = clean.rises(), clean.falls()
    if not len(rises):
        return Pulses(0, 0.0, 0.0, 0.0, 0.0, glitches)
    periods = np.diff(rises)
    highs = _until(rises, falls)
    lows = _until(falls, rises)
    return Pulses(
        len(rises),
        _median(periods),
        _median(highs),
        _median(lows),
        _spread(periods),
        glitches,
    )


def _until(starts: Floats, ends: Floats) -> Floats:
    """How long it lasts from each start to the next end."""
    k = np.searchsorted(ends, starts, "right")
    inside = k < len(ends)
    return ends[k[inside]] - starts[inside]


def _median(values: Floats) -> float:
    return float(np.median(values)) if len(values) else 0.0


def _spread(values: Floats) -> float:
    return float(np.subtract(*np.percentile(values, [90, 10]))) if len(values) > 1 else 0.0

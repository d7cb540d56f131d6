"""Stretches of time to look at: a usual one for some lanes, and steps of zooming."""

from collections.abc import Sequence
from math import ceil, floor, log10

from knotplan.core.timing.lanes import Lane

LEAST_S, MOST_S = 20e-9, 1000.0
FEW_CHANGES = 200_000
USUAL_S = 0.05


def usual_span(lanes: Sequence[Lane], most_changes: int = FEW_CHANGES) -> float:
    """Two periods of the slowest lane, or less where that would be too many changes, s."""
    span = 2 * max((lane.wave.period_s for lane in lanes), default=0.0) or USUAL_S
    span = min(span, 4.0)
    while span > 1e-4 and sum(lane.wave.count(0.0, span) for lane in lanes) > most_changes:
        span /= 2
    return span


def zoomed(start_s: float, end_s: float, factor: float, at_s: float) -> tuple[float, float]:
    """A stretch `factor` times as long that keeps one moment where it is; never before 0.

    >>> zoomed(0.0, 1.0, 0.5, 0.5)
    (0.25, 0.75)
    """
    length = min(max((end_s - start_s) * factor, LEAST_S), MOST_S)
    share = (at_s - start_s) / (end_s - start_s)
    start = max(0.0, at_s - share * length)
    return start, start + length


def panned(start_s: float, end_s: float, by: float) -> tuple[float, float]:
    """The same length, `by` of it further on; never before 0."""
    length = end_s - start_s
    start = max(0.0, start_s + by * length)
    return start, start + length


def next_edge(lane: Lane, at_s: float, forwards: bool) -> float | None:
    """The next change of a lane after a moment, or the last before it; nothing where there is none near."""
    reach = lane.wave.period_s or 10.0
    margin = max(1e-12, abs(at_s) * 1e-12)
    if forwards:
        times, _ = lane.wave.edges(at_s + margin, at_s + 2 * reach)
        return float(times[0]) if len(times) else None
    times, _ = lane.wave.edges(max(0.0, at_s - 2 * reach), at_s - margin)
    return float(times[-1]) if len(times) else None


def ticks(start_s: float, end_s: float, most: int = 8) -> list[float]:
    """Round moments in a stretch: 1, 2 or 5 times a power of ten apart."""
    raw = (end_s - start_s) / most
    base = 10.0 ** floor(log10(raw))
    step = next(m * base for m in (1, 2, 5, 10) if m * base >= raw * (1 - 1e-9))
    first = ceil(start_s / step - 1e-9)
    return [k * step for k in range(first, floor(end_s / step + 1e-9) + 1)]


UNITS = ((1.0, "s"), (1e-3, "ms"), (1e-6, "µs"), (1e-9, "ns"))


def tick_words(values: Sequence[float], step_s: float) -> list[str]:
    """Moments as text, in the unit that suits their distance.

    >>> tick_words([0.0, 0.0005, 0.001], 0.0005)
    ['0', '500 µs', '1000 µs']
    """
    unit, name = next(((u, n) for u, n in UNITS if step_s >= u * (1 - 1e-9)), UNITS[-1])
    return [f"{v:.15g} {name}" if v else "0" for v in (round(x / unit, 6) for x in values)]

"""One channel of a capture. Its edges are kept as they are: what a picture shows is found by looking for the
borders of its pixels among the times, which takes no longer for a hundred million edges than for ten."""

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from knotplan.core.timing.wave import BUSY, Floats, Ints, Seen

Levels = NDArray[np.int8]
UNKNOWN = 3
"""the level of what a dump calls x or z"""


class Trace(Struct, frozen=True, eq=False):
    """Levels over time: from `times[k]` (s, rising) on it is `levels[k]`: 0, 1, or 3 where nobody knows."""

    name: str
    times: Floats
    levels: Levels
    start_s: float
    end_s: float
    rest: int = 0
    """the level before the first edge"""
    tick_s: float = 0.0
    """how finely the instrument looked, s; 0 where nobody knows"""

    @property
    def count(self) -> int:
        """How many edges it has."""
        return len(self.times)

    @property
    def seconds(self) -> float:
        """How long it was looked at."""
        return self.end_s - self.start_s

    def level(self, at_s: float) -> int:
        """The level at a moment."""
        k = int(np.searchsorted(self.times, at_s, "right")) - 1
        return int(self.levels[k]) if k >= 0 else self.rest

    def rises(self) -> Floats:
        """When it goes high, s."""
        return self.times[self._turns(1)]

    def falls(self) -> Floats:
        """When it goes low, s."""
        return self.times[self._turns(0)]

    def _turns(self, level: int) -> NDArray[np.bool_]:
        before = (
            np.concatenate([np.array([self.rest], np.int8), self.levels[:-1]]) if self.count else self.levels
        )
        found: NDArray[np.bool_] = (self.levels == level) & (before != level)
        return found

    def shifted(self, by_s: float) -> "Trace":
        """The same, later."""
        return Trace(
            self.name,
            self.times + by_s,
            self.levels,
            self.start_s + by_s,
            self.end_s + by_s,
            self.rest,
            self.tick_s,
        )

    def within(self, start_s: float, end_s: float) -> "Trace":
        """A piece of it, [start, end)."""
        a, b = (int(np.searchsorted(self.times, x, "left")) for x in (start_s, end_s))
        start, end = max(start_s, self.start_s), min(end_s, self.end_s)
        return Trace(
            self.name,
            self.times[a:b],
            self.levels[a:b],
            start,
            end,
            self.level(np.nextafter(start, -np.inf)),
            self.tick_s,
        )

    def seen(self, start_s: float, end_s: float, pieces: int) -> Seen:
        """As it can be drawn in so many pixels: never more than three states a pixel, whatever lies in it."""
        borders = np.linspace(start_s, end_s, pieces + 1)
        first = np.searchsorted(self.times, borders, "left")
        counts = np.diff(first)
        at: list[Floats] = [np.array([start_s])]
        states: list[Ints] = [np.array([self.level(start_s)], np.int64)]
        single = np.flatnonzero(counts == 1)
        at.append(self.times[first[single]])
        states.append(self.levels[first[single]].astype(np.int64))
        busy = np.flatnonzero(counts > 1)
        at += [borders[busy], borders[busy + 1]]
        last = first[busy + 1] - 1
        states += [np.full(len(busy), BUSY, np.int64), self.levels[last].astype(np.int64)]
        moments, levels = np.concatenate(at), np.concatenate(states)
        order = np.lexsort((_ranked(at), moments))
        moments, levels = moments[order], levels[order]
        changes = np.concatenate([[True], levels[1:] != levels[:-1]])
        return Seen(moments[changes], levels[changes])


def _ranked(at: list[Floats]) -> Ints:
    """Of several at one moment: the beginning, the end of a busy pixel, an edge, the beginning of the next
    busy one."""
    ranks = (0, 2, 3, 1)
    return np.concatenate([np.full(len(x), rank, np.int64) for x, rank in zip(at, ranks, strict=True)])


def trace_of(name: str, edges: list[tuple[float, int]], start_s: float, end_s: float, rest: int = 0) -> Trace:
    """A trace from a few edges.

    >>> trace_of("x", [(0.1, 1), (0.2, 0)], 0.0, 1.0).rises().tolist()
    [0.1]
    """
    times = np.array([t for t, _ in edges], float)
    levels = np.array([v for _, v in edges], np.int8)
    return Trace(name, times, levels, start_s, end_s, rest)

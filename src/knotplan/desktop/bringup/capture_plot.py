"""Captured channels with what was planned of them on one axis: planned thin, captured thick. Where a channel
is not as planned, what differs is underlined."""

from typing import Any

import numpy as np
import pyqtgraph as pg

from knotplan.core.bringup.captured.compare import GROUPS, Matched
from knotplan.core.bringup.captured.trace import UNKNOWN, Trace
from knotplan.core.drawing.palette import Palette
from knotplan.core.timing.lanes import Lane
from knotplan.core.timing.wave import BUSY, Floats, Ints, Seen
from knotplan.desktop.lettering import px
from knotplan.desktop.panels.two_lines import ROW
from knotplan.desktop.timing.lanes_plot import HIGH, LOW, LanesPlot, steps_of

THICK, THIN = 4.0, 1.3
LOOK = 64
"""edges among which a rise is looked for"""
UNDER = 35.0
"""where differences are underlined, from the top of a row, pixels"""


class CapturePlot(LanesPlot):
    """Zoom, stretches and cursors are those of the Timing view."""

    def __init__(self, palette: Palette):
        super().__init__(palette)
        self.channels: list[Matched] = []
        self.channel = -1
        self.setAccessibleName("Waves, planned and captured")

    def show_channels(self, channels: list[Matched], chosen: int) -> None:
        self.channels, self.channel = channels, chosen
        self.lanes = channels
        self.chosen = channels[chosen] if 0 <= chosen < len(channels) else None
        self.redraw()

    def _draw(self, m: Any, top: float) -> None:
        p = self.p
        chosen = m is self.chosen
        self._put(
            pg.PlotCurveItem(
                [self.start_s, self.end_s], [top + px(ROW) - 0.5] * 2, pen=pg.mkPen(p.edge, width=0.8)
            )
        )
        pieces = max(50, int(self.plot.viewport().width()))
        seen = m.trace.seen(self.start_s, self.end_s, pieces)
        planned = self._planned(m)
        self._wave(seen, top, p.active if chosen else p.faint, px(THICK))
        if planned is not None:
            self._wave(planned, top, p.ink, px(THIN))
            if any(d.gravity == "differs" for d in m.differences):
                self._underlined(seen, planned, top, m.trace.end_s)

    def _wave(self, seen: Seen, top: float, tone: str, width: float) -> None:
        busy = np.flatnonzero(np.isin(seen.states, (BUSY, UNKNOWN)))
        ends = np.append(seen.times[1:], self.end_s)
        if len(busy):
            self._put(
                pg.BarGraphItem(
                    x0=seen.times[busy],
                    x1=np.maximum(ends[busy], seen.times[busy] + self.per_pixel),
                    y0=top + px(HIGH),
                    y1=top + px(LOW),
                    pen=pg.mkPen(tone, width=min(width, 1.6)),
                    brush=pg.mkBrush(self.p.active_soft if width > px(2) else "#00000000"),
                )
            )
        x, y = steps_of(seen, self.end_s, top)
        self._put(pg.PlotCurveItem(x, y, pen=pg.mkPen(tone, width=width), connect="finite"))

    # --- what was planned ------------------------------------------------------------------------------

    def shift_s(self, m: Matched) -> float:
        """By how much the plan's wave is laid later: its first rise upon the first captured one in sight."""
        leader = self._leader(m)
        if leader.lane is None:
            return 0.0
        rise = _rise_after(leader.trace, self.start_s)
        return rise - _first_rise(leader.lane) if rise is not None else 0.0

    def _leader(self, m: Matched) -> Matched:
        """Lanes that only mean something together are laid by the first of them."""
        for other in self.channels:
            lane, mine = other.lane, m.lane
            if (
                lane is not None
                and mine is not None
                and lane.kind == mine.kind
                and lane.kind in GROUPS
                and lane.part == mine.part
            ):
                return other
        return m

    def _planned(self, m: Matched) -> Seen | None:
        if m.lane is None:
            return None
        shift = self.shift_s(m)
        start = self.start_s
        if m.trace.count and start < m.trace.times[0]:  # before the first edge nothing was captured
            start = min(float(m.trace.times[0]), self.end_s)
        seen = m.lane.wave.seen(start - shift, self.end_s - shift, 2 * self.per_pixel)
        return Seen(seen.times + shift, seen.states)

    def _underlined(self, seen: Seen, planned: Seen, top: float, end_s: float) -> None:
        """Pixels at which the two have different levels."""
        borders = np.arange(self.start_s, self.end_s, self.per_pixel)
        borders = borders[(borders >= planned.times[0]) & (borders < end_s)]
        one, two = _states(seen, borders), _states(planned, borders)
        differ = (one != two) & (one != BUSY) & (two != BUSY)
        if not differ.any():
            return
        starts = borders[differ]
        self._put(
            pg.BarGraphItem(
                x0=starts,
                x1=starts + self.per_pixel,
                y0=top + px(UNDER),
                y1=top + px(UNDER + 4),
                pen=pg.mkPen(self.p.stop, width=0),
                brush=pg.mkBrush(self.p.stop),
            )
        )

    # --- words and edges ----------------------------------------------------------------------------

    def words(self) -> str:
        if not self.channels:
            return "no channel"
        m = self.channels[self.channel] if 0 <= self.channel < len(self.channels) else None
        about = (
            "" if m is None else f"; {m.trace.name}" + (f" is {m.lane.title}" if m.lane else " is no lane")
        )
        return f"{len(self.channels)} channels{about}"

    def _next_edge(self, at_s: float, forwards: bool) -> float | None:
        m = self.channels[self.channel] if 0 <= self.channel < len(self.channels) else None
        if m is None:
            return None
        times = m.trace.times
        k = int(np.searchsorted(times, at_s, "right" if forwards else "left")) - (not forwards)
        return float(times[k]) if 0 <= k < len(times) else None


def _rise_after(trace: Trace, at_s: float) -> float | None:
    """The first rise from a moment on, or the last one before it; only the edges around it are looked at."""
    k = int(np.searchsorted(trace.times, at_s))
    near = slice(max(0, k - LOOK), k + LOOK)
    times = trace.times[near][trace.levels[near] == 1]
    later = times[times >= at_s]
    if len(later):
        return float(later[0])
    return float(times[-1]) if len(times) else None


def _first_rise(lane: Lane) -> float:
    span = lane.wave.period_s or 1.0
    times, levels = lane.wave.edges(0.0, span)
    rises = times[levels == 1]
    return float(rises[0]) if len(rises) else 0.0


def _states(seen: Seen, at: Floats) -> Ints:
    k = np.maximum(0, np.searchsorted(seen.times, at, "right") - 1)
    found: Ints = seen.states[k]
    return found

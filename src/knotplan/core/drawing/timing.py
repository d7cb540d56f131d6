"""Lanes as a picture for paper: names on the left, waves on a common time axis."""

from collections.abc import Sequence

from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Curve, Picture, Shape, Text, shortened, text_width
from knotplan.core.timing.lanes import Lane
from knotplan.core.timing.span import tick_words, ticks
from knotplan.core.timing.wave import BUSY, Seen

NAMES, WIDE, ROW, HEAD, FOOT, MARGIN = 210.0, 1180.0, 44.0, 46.0, 34.0, 20.0
HIGH, LOW = 10.0, 32.0
"""of a row, from its top"""


def line(x1: float, y1: float, x2: float, y2: float, stroke: str, width: float) -> Curve:
    """A straight line as a curve."""
    return Curve((x1, y1), ((x1, y1, x2, y2, x2, y2),), stroke, width)


def waves_picture(lanes: Sequence[Lane], start_s: float, end_s: float, title: str, p: Palette) -> Picture:
    """Some lanes over a stretch of time."""
    plot = WIDE - NAMES - 2 * MARGIN
    left, bottom = MARGIN + NAMES, HEAD + ROW * len(lanes)
    shapes: list[Shape] = [Text(MARGIN, 30, title, 18, p.ink, True)]
    marks = ticks(start_s, end_s)
    step = marks[1] - marks[0] if len(marks) > 1 else end_s - start_s
    for at, words in zip(marks, tick_words(marks, step), strict=True):
        x = left + (at - start_s) / (end_s - start_s) * plot
        shapes += [
            line(x, HEAD, x, bottom, p.edge, 1),
            Text(x, bottom + 18, words, 11, p.faint, anchor="middle"),
        ]
    for k, lane in enumerate(lanes):
        top = HEAD + ROW * k
        shapes += [
            Text(MARGIN, top + 20, shortened(lane.title, 13, NAMES - 12, True), 13, p.ink, True),
            Text(MARGIN, top + 35, shortened(lane.about, 10.5, NAMES - 12), 10.5, p.faint),
        ]
        seen = lane.wave.seen(start_s, end_s, (end_s - start_s) / plot * 1.5)
        shapes += drawn(seen, start_s, end_s, left, top, plot, p)
        for m in lane.wave.words(start_s, end_s, 26 * (end_s - start_s) / plot):
            a, b = (
                left + (max(start_s, min(end_s, t)) - start_s) / (end_s - start_s) * plot
                for t in (m.start_s, m.end_s)
            )
            if text_width(m.text, 10) < b - a - 4:
                shapes.append(Text((a + b) / 2, top + ROW - 2, m.text, 10, p.care_text, anchor="middle"))
    return Picture(0, 0, WIDE, bottom + FOOT, p.card, tuple(shapes))


def drawn(
    seen: Seen, start_s: float, end_s: float, left: float, top: float, plot: float, p: Palette
) -> list[Shape]:
    """One wave: level lines with upright edges, and bands where it is too busy to be told apart."""
    scale = plot / (end_s - start_s)
    shapes: list[Shape] = []
    times, states = [*seen.times.tolist(), end_s], seen.states.tolist()
    before: float | None = None
    for k, state in enumerate(states):
        a, b = left + (times[k] - start_s) * scale, left + (times[k + 1] - start_s) * scale
        if state == BUSY:
            shapes.append(Box(a, top + HIGH, max(b - a, 1.0), LOW - HIGH, 0, p.active_soft, p.active, 0.8))
            before = None
            continue
        y = top + (HIGH if state else LOW)
        if before is not None and before != y:
            shapes.append(line(a, before, a, y, p.active, 1.6))
        shapes.append(line(a, y, b, y, p.active, 1.6))
        before = y
    return shapes

"""Beads on cords: each where it covers neither a card nor the board nor another bead."""

from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Shape, Text, text_width
from knotplan.core.plan.document import Tie, split
from knotplan.core.text.beads import bead_words

SIZE, HIGH, PAD = 11.0, 19.0, 7.0
"""of a bead: its text, its height, and from its text to its ends"""
CLEAR = 3.0
"""kept free round a bead"""
PLACES = (0.5, 0.42, 0.58, 0.34, 0.66, 0.26, 0.74, 0.18, 0.82, 0.12, 0.88, 0.06, 0.94)
"""along a cord, from the one that is liked best"""

Point = tuple[float, float]
Rect = tuple[float, float, float, float]
"""x, y, w, h"""


def wide(bead: str) -> float:
    """The width of a bead that says this."""
    return text_width(bead, SIZE, True) + 2 * PAD


def bead_room(circuit: Circuit, lying: bool) -> tuple[float, float]:
    """How far the beads of one cord reach from card to board, and from card to card: their width beside a
    board, their height above and below it."""
    reach = {True: 0.0, False: 0.0}
    for tie in circuit.plan.ties:
        if tie.beads:
            between = split(tie.to)[0] in circuit.parts
            own = HIGH * len(tie.beads) if lying else max(wide(bead_words(b)) for b in tie.beads)
            reach[between] = max(reach[between], own)
    return reach[False], reach[True]


def bead_box(x: float, y: float, text: str) -> Rect:
    """The room of a bead in the middle of which is (x, y)."""
    w = wide(text)
    return x - w / 2, y - HIGH / 2, w, HIGH


def place_beads(
    bench: Bench, ways: Sequence[tuple[Tie, list[Point]]]
) -> dict[str, tuple[tuple[float, float, str], ...]]:
    """{tie: middles and words of its beads}, for ties with the points along their cords.

    Several beads of one cord stand one below another, in their order.
    """
    taken = [_grown((c.x, c.y, c.w, c.h), CLEAR + 4) for c in bench.cards]
    taken.append(_grown(bench.board, CLEAR))
    placed = {}
    for tie, points in ways:
        if not tie.beads:
            continue
        words = [bead_words(b) for b in tie.beads]
        w, h = max(wide(text) for text in words), HIGH * len(words)
        x, y = _best(points, w, h, taken)
        taken.append(_grown((x - w / 2, y - h / 2, w, h), CLEAR))
        placed[tie.id] = tuple((x, y - h / 2 + HIGH * (k + 0.5), text) for k, text in enumerate(words))
    return placed


def _best(points: list[Point], w: float, h: float, taken: list[Rect]) -> Point:
    """The first place along a cord where nothing is covered, else that where the least is."""
    lengths = [0.0]
    for (ax, ay), (bx, by) in pairwise(points):
        lengths.append(lengths[-1] + ((bx - ax) ** 2 + (by - ay) ** 2) ** 0.5)
    best, least = points[0], float("inf")
    for share in PLACES:
        x, y = _at(points, lengths, share * lengths[-1])
        covered = sum(overlap((x - w / 2, y - h / 2, w, h), other) for other in taken)
        if covered < least:
            best, least = (x, y), covered
        if not covered:
            break
    return best


def _at(points: list[Point], lengths: list[float], here: float) -> Point:
    for (a, b), (before, after) in zip(pairwise(points), pairwise(lengths), strict=True):
        if after >= here:
            share = (here - before) / (after - before) if after > before else 0.0
            return a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1])
    return points[-1]


def _grown(rect: Rect, by: float) -> Rect:
    return rect[0] - by, rect[1] - by, rect[2] + 2 * by, rect[3] + 2 * by


def overlap(a: Rect, b: Rect) -> float:
    """The area that two rectangles share."""
    across = min(a[0] + a[2], b[0] + b[2]) - max(a[0], b[0])
    down = min(a[1] + a[3], b[1] + b[3]) - max(a[1], b[1])
    return across * down if across > 0 and down > 0 else 0.0


def bead_shapes(
    beads: Iterable[tuple[float, float, str]], p: Palette, proposed: bool = False
) -> Iterator[Shape]:
    """Beads as drawn; those that are only proposed in the colour of what is active."""
    ink = p.active if proposed else p.ink
    for x, y, text in beads:
        w = wide(text)
        fill = p.active_soft if proposed else p.card
        yield Box(x - w / 2, y - HIGH / 2 + 0.5, w, HIGH - 1, HIGH / 2, fill, ink, 1.4)
        yield Text(x, y + 4, text, SIZE, ink, True, "middle")

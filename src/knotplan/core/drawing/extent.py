"""How far a shape reaches, so that what lies elsewhere need not be painted again."""

from collections.abc import Iterable

from knotplan.core.drawing.shapes import Arc, Box, Curve, Disc, Polygon, Shape, Text, text_width

Rect = tuple[float, float, float, float]
"""x, y, w, h"""
LETTERS = 0.35
"""letters may be so much wider than they are counted, and reach so far round their line, in their size"""


def extent(shape: Shape) -> Rect:
    """A box that holds all that is painted of a shape, perhaps with a little more."""
    match shape:
        case Box(x, y, w, h):
            return _grown(x, y, x + w, y + h, shape.width)
        case Disc(x, y, r) | Arc(x, y, r):
            return _grown(x - r, y - r, x + r, y + r, shape.width)
        case Polygon(points):
            return _round(points, shape.width)
        case Curve(start, pieces):  # a curve stays within its control points
            ends = (end for a, b, c, d, e, f in pieces for end in ((a, b), (c, d), (e, f)))
            return _round((start, *ends), shape.width)
        case Text():
            return _of_text(shape)


def _of_text(text: Text) -> Rect:
    wide = text_width(text.text, text.size, text.bold) * (1 + LETTERS)
    if text.angle:  # whichever way it is turned
        return _grown(text.x, text.y, text.x, text.y, wide + text.size)
    left = {"start": 0.0, "middle": wide / 2, "end": wide}[text.anchor]
    x, beyond = text.x - left, text.size * LETTERS
    return _grown(x, text.y - text.size, x + wide, text.y, beyond)


def _round(points: Iterable[tuple[float, float]], width: float) -> Rect:
    xs, ys = zip(*points, strict=True)
    return _grown(min(xs), min(ys), max(xs), max(ys), width)


def _grown(left: float, top: float, right: float, bottom: float, by: float) -> Rect:
    return left - by, top - by, right - left + 2 * by, bottom - top + 2 * by


def meet(one: Rect, other: Rect) -> bool:
    """Two boxes have something in common."""
    return (
        one[0] < other[0] + other[2]
        and other[0] < one[0] + one[2]
        and one[1] < other[1] + other[3]
        and other[1] < one[1] + one[3]
    )

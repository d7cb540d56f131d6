"""Small marks whose shape says what their colour says."""

import math

from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Curve, Disc, Polygon, Shape, Text


def octagon(x: float, y: float, r: float, fill: str) -> Polygon:
    """The mark of a stop, around a middle."""
    turns = [math.pi / 8 + k * math.pi / 4 for k in range(8)]
    return Polygon(tuple((x + r * math.cos(t), y + r * math.sin(t)) for t in turns), fill)


def triangle(x: float, y: float, r: float, fill: str, *, down: bool = False) -> Polygon:
    """The mark of a care, around a middle."""
    s = -1 if down else 1
    return Polygon(((x, y - s * r), (x + r, y + s * r * 0.75), (x - r, y + s * r * 0.75)), fill)


def severity(x: float, y: float, level: str, p: Palette, r: float = 9) -> tuple[Shape, ...]:
    """Octagon for stop, triangle for care, open ring for what is to be done, disc for note."""
    if level == "stop":
        return (
            octagon(x, y, r, p.stop),
            Box(x - 1.2, y - 5, 2.4, 6.2, 1, p.card),
            Disc(x, y + 4, 1.4, p.card),
        )
    if level == "care":
        return (
            triangle(x, y, r, p.care)._replace(stroke=p.care_text, width=1),
            Box(x - 1.1, y - 3.4, 2.2, 5, 1, "#1f2529"),
            Disc(x, y + 3.9, 1.3, "#1f2529"),
        )
    if level == "to-do":
        return (Disc(x, y, r * 0.75, "", p.faint, 2),)
    return Disc(x, y, r * 0.85, p.active), Text(x, y + 4, "i", 11, p.card, True, "middle")


def cross(x: float, y: float, r: float, stroke: str, width: float = 1.6) -> tuple[Curve, Curve]:
    """The mark of what cannot be, around a middle."""

    def line(x1: float, y1: float, x2: float, y2: float) -> Curve:
        return Curve((x1, y1), ((x1, y1, x2, y2, x2, y2),), stroke, width)

    return line(x - r, y - r, x + r, y + r), line(x - r, y + r, x + r, y - r)

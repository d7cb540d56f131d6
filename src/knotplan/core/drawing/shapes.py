"""What a picture is made of. Lengths are in points of the picture, y downwards; angles in degrees."""

from functools import lru_cache
from typing import Literal, NamedTuple

from knotplan.core.drawing.letters import BOLD, REGULAR

Anchor = Literal["start", "middle", "end"]


class Box(NamedTuple):
    """A rectangle, rounded by `radius`."""

    x: float
    y: float
    w: float
    h: float
    radius: float = 0
    fill: str = ""
    stroke: str = ""
    width: float = 1


class Disc(NamedTuple):
    """A circle; with `dash` its line is dashed."""

    x: float
    y: float
    r: float
    fill: str = ""
    stroke: str = ""
    width: float = 1
    dash: bool = False


class Arc(NamedTuple):
    """Part of a circle, clockwise from the top, `share` of the whole way round."""

    x: float
    y: float
    r: float
    share: float
    stroke: str
    width: float


class Polygon(NamedTuple):
    """A closed outline, filled."""

    points: tuple[tuple[float, float], ...]
    fill: str = ""
    stroke: str = ""
    width: float = 1


class Curve(NamedTuple):
    """A line through cubic pieces: a start, then triples of (control, control, end)."""

    start: tuple[float, float]
    pieces: tuple[tuple[float, float, float, float, float, float], ...]
    stroke: str
    width: float
    dash: bool = False


class Text(NamedTuple):
    """One line of text on its baseline."""

    x: float
    y: float
    text: str
    size: float
    fill: str
    bold: bool = False
    anchor: Anchor = "start"
    angle: float = 0


Shape = Box | Disc | Arc | Polygon | Curve | Text


def moved(shape: Shape, dx: float, dy: float) -> Shape:
    """The same shape somewhere else."""
    if not dx and not dy:
        return shape
    match shape:
        case Polygon(points=points):
            return shape._replace(points=tuple((x + dx, y + dy) for x, y in points))
        case Curve(start=(x, y), pieces=pieces):
            there = tuple((p[0] + dx, p[1] + dy, p[2] + dx, p[3] + dy, p[4] + dx, p[5] + dy) for p in pieces)
            return shape._replace(start=(x + dx, y + dy), pieces=there)
        case _:
            return shape._replace(x=shape.x + dx, y=shape.y + dy)


@lru_cache(4096)
def text_width(text: str, size: float, bold: bool = False) -> float:
    """How wide a line is in the interface font (kerning apart); letters that it lacks count as wide ones."""
    widths = BOLD if bold else REGULAR
    return sum(widths.get(c, 1000) for c in text) * size / 1000


@lru_cache(4096)
def shortened(text: str, size: float, room: float, bold: bool = False) -> str:
    """The text, with an ellipsis where it does not fit."""
    if text_width(text, size, bold) <= room:
        return text
    widths = BOLD if bold else REGULAR
    left = room * 1000 / size - widths.get("…", 1000)
    fit = 0
    for letter in text:
        left -= widths.get(letter, 1000)
        if left < 0:
            break
        fit += 1
    return text[:fit].rstrip() + "…"


class Picture(NamedTuple):
    """Shapes in the order of painting, and the box that they fill."""

    x: float
    y: float
    w: float
    h: float
    ground: str
    shapes: tuple[Shape, ...]

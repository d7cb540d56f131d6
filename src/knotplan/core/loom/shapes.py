"""What a picture is made of. Lengths are in points of the picture, y downwards; angles in degrees."""

from functools import lru_cache
from typing import Literal, NamedTuple

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


@lru_cache(4096)
def text_width(text: str, size: float, bold: bool = False) -> float:
    """About how wide a text is; the interface font's letters are 0.55 of its size on average."""
    narrow = sum(c in "iljftr.,:;|!'()[] 1I" for c in text)
    wide = sum(c in "mwMWΩ@%—" for c in text)
    return (len(text) * 0.585 - narrow * 0.24 + wide * 0.25) * size * (1.05 if bold else 1.0)


@lru_cache(4096)
def shortened(text: str, size: float, room: float, bold: bool = False) -> str:
    """The text, with an ellipsis where it does not fit."""
    if text_width(text, size, bold) <= room:
        return text
    while text and text_width(text + "…", size, bold) > room:
        text = text[:-1]
    return text.rstrip() + "…"


class Picture(NamedTuple):
    """Shapes in the order of painting, and the box that they fill."""

    x: float
    y: float
    w: float
    h: float
    ground: str
    shapes: tuple[Shape, ...]

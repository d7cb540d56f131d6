"""The bare board as shapes: its outline and mark, its contacts with their names, its sockets."""

from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.function import ANY
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.derived import derived
from knotplan.core.drawing.loom.board_place import LABEL, PIN_R, PITCHES, BoardPlace, PinSpot, board_place
from knotplan.core.drawing.marks import triangle
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Curve, Disc, Polygon, Shape, Text, text_width
from knotplan.core.plan.document import Turn, split

MARK = 11.0
"""size of what the marked end is called"""
BREAK, ZIGZAG = 5.0, (9.0, 2.2)
"""width of a break line; length and height of one of its teeth"""


class Lying(NamedTuple):
    """How a board lies and by what names its pins are called."""

    scheme: str
    turned: Turn
    flipped: bool
    pitch: float = PITCHES[0]
    shortened: bool = False
    """empty parts of its face are left out"""


@derived
def board_shapes(
    board: Board, lying: Lying, live_rails: tuple[str, ...], socket: str, p: Palette
) -> tuple[Shape, ...]:
    """The board without anything tied to it; `socket` is the one that feeds it."""
    place = board_place(board, *lying)
    x, y, w, h = place.box
    shapes: list[Shape] = [
        Box(x + 2, y + 3, w, h, 10, "#00000022"),
        Box(x, y, w, h, 10, p.board, p.board_edge, 1.5),
    ]
    for line in place.breaks:
        shapes += _break_line(*line, p)
    shapes += _marked_end(board, lying, place, p)
    for contact, spot in place.pins.items():
        name = split(contact)[1]
        pin = board.pins.get(name)
        if pin is None:
            shapes += _socket(board, name, name == socket, spot, p)
            continue
        shapes += _copper(board, pin, spot, lying.pitch / 2.54, p)
        shapes += contact_shapes(board, pin, pin.rail in live_rails, spot.x, spot.y, p)
        ink = p.board_text if pin.kind == "io" else p.board_faint
        shapes.append(
            Text(
                spot.label_x,
                spot.label_y,
                board.name(name, lying.scheme),
                LABEL,
                ink,
                pin.kind != "io",
                spot.label_anchor,
                spot.label_angle,
            )
        )
    return tuple(shapes)


def _marked_end(board: Board, lying: Lying, place: BoardPlace, p: Palette) -> Iterator[Shape]:
    """The notch, and what the end is called; a break line does not run through the words."""
    x, y, w, h = place.box
    mx, my = {0: (0.0, y), 90: (x + w, 0.0), 180: (0.0, y + h), 270: (x, 0.0)}[lying.turned]
    yield Disc(mx, my, 9, p.cloth)
    text = f"{board.outline.mark}{' (from below)' if lying.flipped else ''}"
    long = text_width(text, MARK) + 10
    if place.upright:
        at = my + (20 if lying.turned == 0 else -13)
        yield Box(-long / 2, at - 13, long, 18, 2, p.board)
        yield Text(0, at, text, MARK, p.board_faint, False, "middle")
    else:
        at = mx + (-12 if lying.turned == 90 else 20)
        yield Box(at - 13, -long / 2, 18, long, 2, p.board)
        yield Text(at, 0, text, MARK, p.board_faint, False, "middle", -90)


def _break_line(x1: float, y1: float, x2: float, y2: float, p: Palette) -> Iterator[Shape]:
    """Across the board where an empty part of it is left out: two zigzags with the ground between them."""
    upright = x1 == x2
    length = abs(y2 - y1) if upright else abs(x2 - x1)
    steps = max(2, round(length / ZIGZAG[0]))
    edges = []
    for aside in (-BREAK / 2, BREAK / 2):
        edge = []
        for k in range(steps + 1):
            along, out = length * (k / steps - 0.5), aside + (ZIGZAG[1] if k % 2 else -ZIGZAG[1])
            edge.append((x1 + out, along) if upright else (along, y1 + out))
        edges.append(edge)
    yield Polygon((*edges[0], *reversed(edges[1])), p.cloth)
    for edge in edges:
        yield Curve(edge[0], tuple((*a, *b, *b) for a, b in pairwise(edge)), p.board_edge, 1.2)


def _copper(board: Board, pin: Pin, spot: PinSpot, scale: float, p: Palette) -> Iterator[Shape]:
    """The bare copper of a pad, from its contact to the board's edge; `scale` in points for a millimetre."""
    if board.headers[pin.header].contact == "post":
        return
    half = max(PIN_R + 1, pin.wide_mm * scale / 2) - 1
    dx, dy = spot.exit_x - spot.x, spot.exit_y - spot.y
    x, y = min(spot.x, spot.exit_x), min(spot.y, spot.exit_y)
    if dx:
        yield Box(x - (PIN_R if dx > 0 else 0), y - half, abs(dx) + PIN_R, 2 * half, 2, p.copper)
    else:
        yield Box(x - half, y - (PIN_R if dy > 0 else 0), 2 * half, abs(dy) + PIN_R, 2, p.copper)


def contact_shapes(board: Board, pin: Pin, live: bool, x: float, y: float, p: Palette) -> Iterator[Shape]:
    """A contact of the board: square for supply, triangle for ground, round for signals."""
    r = PIN_R
    if pin.kind == "supply":
        rail = board.rails.get(pin.rail)  # a board that is being described may not have it yet
        low = rail is not None and rail.volts.typ < 4.5
        fill = p.supply_low if low else p.supply
        yield Box(x - r, y - r, 2 * r, 2 * r, 2, fill if live else p.board, "#000000", 1)
        yield Disc(x, y, 3.2, p.pin_hole)
    elif pin.kind == "ground":
        yield triangle(x, y + 1, r + 1, p.ground, down=True)
    elif pin.kind == "io":
        yield Disc(x, y, r, p.pin_timed if is_special(pin) else p.pin, p.board_edge, 1)
        yield Disc(x, y, 3.4, p.pin_hole)
        if pin.reserved:
            yield triangle(x + r + 1, y - r + 1, 4.6, p.care)
    else:
        yield Polygon(((x, y - r), (x + r, y), (x, y + r), (x - r, y)), p.board_faint, p.board_edge)


def is_special(pin: Pin) -> bool:
    """Pulses or measures by a unit of its own; where any pin can be led to one, only measuring is special."""
    return any(job.instance != ANY for job in (*pin.jobs("pwm"), *pin.jobs("adc")))


def _socket(board: Board, name: str, feeds: bool, spot: PinSpot, p: Palette) -> Iterator[Shape]:
    title = board.sockets[name].title.replace(" power", "").replace(" socket", "").replace(" jack", "")
    w, h = (46.0, 19.0) if not spot.out[0] else (19.0, 46.0)
    yield Box(spot.x - w / 2, spot.y - h / 2, w, h, 4, "#9aa3ab" if feeds else "#737c84", p.board_edge, 1.2)
    yield Text(
        spot.x + (4 if spot.out[0] else 0),
        spot.y + (0 if spot.out[0] else 4),
        title,
        11,
        "#0c1016",
        True,
        "middle",
        -90 if spot.out[0] else 0,
    )

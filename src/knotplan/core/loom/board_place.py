"""Where a board's contacts lie: true to its headers, turned and flipped as on the bench.

Points; the board's centre is the origin, y goes down. One pitch of a header (2.54 mm) is 29 points.
"""

from functools import lru_cache

from msgspec import Struct

from knotplan.catalog.boards import Board
from knotplan.core.loom.shapes import text_width
from knotplan.core.plan import BOARD, Turn

SCALE = 29 / 2.54
"""points for a millimetre"""
LABEL = 13.0
PIN_R = 9.0


class PinSpot(Struct, frozen=True):
    """A contact of the board: its centre, where its cord leaves, and its label."""

    contact: str
    x: float
    y: float
    exit_x: float
    exit_y: float
    out: tuple[float, float]
    """direction in which its cord leaves"""
    label_x: float
    label_y: float
    label_anchor: str
    label_angle: float


class BoardPlace(Struct, frozen=True):
    """A board as it lies."""

    box: tuple[float, float, float, float]
    """x, y, w, h"""
    upright: bool
    """the header's rows run down the page"""
    pins: dict[str, PinSpot]


def _turned(x: float, y: float, turned: Turn, flipped: bool) -> tuple[float, float]:
    """A place on the board, seen flipped and turned clockwise."""
    x = -x if flipped else x
    return {0: (x, y), 90: (-y, x), 180: (-x, -y), 270: (y, -x)}[turned]


@lru_cache(16)
def board_place(board: Board, scheme: str, turned: Turn, flipped: bool) -> BoardPlace:
    """The board with its pins named by a scheme; wide enough for the longest of the names."""
    upright = turned in (0, 180)
    w, h = board.outline.width_mm * SCALE, board.outline.height_mm * SCALE
    raw = _places(board, w, h)
    w += _widened(board, scheme, w, raw)
    spots = {}
    for pin_id, (x0, y0) in raw.items():
        x, y = _turned(x0, y0, turned, flipped)
        side = _turned(1 if x0 > 0 else -1, 0, turned, flipped)
        edge = (side[0] * (w / 2), y) if upright else (x, side[1] * (w / 2))
        spots[f"{BOARD}.{pin_id}"] = _spot(f"{BOARD}.{pin_id}", x, y, edge, side, _label_inside(board, pin_id))
    for k, (socket, spec) in enumerate(board.sockets.items()):
        out = -1 if spec.side == "top" else 1
        x, y = _turned((k - (len(board.sockets) - 1) / 2) * 74, out * (h / 2), turned, flipped)
        spots[f"{BOARD}.{socket}"] = PinSpot(f"{BOARD}.{socket}", x, y, x, y, _turned(0, out, turned, flipped), x, y,
                                             "middle", 0)  # fmt: skip
    bw, bh = (w, h) if upright else (h, w)
    return BoardPlace((-bw / 2, -bh / 2, bw, bh), upright, spots)


def _places(board: Board, w: float, h: float) -> dict[str, tuple[float, float]]:
    """The pins of the board seen from above, its mark at the top."""
    found = {}
    for pin_id, pin in board.pins.items():
        header = board.headers[pin.header]
        found[pin_id] = ((header.x_mm + (pin.col - 1) * header.column_gap_mm) * SCALE - w / 2,
                         (header.y_mm + (pin.row - 1) * header.pitch_mm) * SCALE - h / 2)  # fmt: skip
    return found


def _widened(board: Board, scheme: str, w: float, raw: dict[str, tuple[float, float]]) -> float:
    """How much wider the board has to be drawn for the names beside its pins."""
    longest = max(text_width(board.name(p, scheme), LABEL) for p in board.pins) + PIN_R + 19
    room = min((w / 2 - abs(x) for p, (x, _) in raw.items() if not _label_inside(board, p)), default=longest)
    return 2 * max(0.0, longest - room)


def _label_inside(board: Board, pin_id: str) -> bool:
    """Single columns lie at the edge, so their labels stand on the board's inner side."""
    return board.headers[board.pins[pin_id].header].columns == 1


def _spot(contact: str, x: float, y: float, edge: tuple[float, float], side: tuple[float, float],
          inside: bool) -> PinSpot:  # fmt: skip
    away = -1 if inside else 1
    dx, dy = side[0] * away, side[1] * away
    gap = PIN_R + 8
    if dx:
        return PinSpot(contact, x, y, *edge, side, x + dx * gap, y + 4.6, "start" if dx > 0 else "end", 0.0)
    # along a lying header names stand upright beside their pins
    return PinSpot(contact, x, y, *edge, side, x + 4.6, y + dy * gap, "start" if dy < 0 else "end", -90.0)

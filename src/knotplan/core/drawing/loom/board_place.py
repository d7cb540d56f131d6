"""Where a board's contacts lie: true to its headers, turned and flipped as on the bench.

Points; the board's centre is the origin, y goes down. One pitch of a header (2.54 mm) is 29 points.
"""

from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.header import Header
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.derived import derived
from knotplan.core.drawing.shapes import text_width
from knotplan.core.plan.document import BOARD, Turn

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
    label_anchor: Literal["start", "middle", "end"]
    label_angle: float
    behind: bool = False
    """another row of its header lies between it and the edge over which its cord leaves"""


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


class _Lie(Struct, frozen=True):
    """A pin on the board seen from above, its mark at the top."""

    x: float
    y: float
    out: tuple[float, float]
    """towards the edge over which its cord leaves"""
    behind: bool
    """another row of the same header lies between it and that edge"""
    inside: bool
    """its name stands on the side away from that edge"""


@derived
def board_place(board: Board, scheme: str, turned: Turn, flipped: bool) -> BoardPlace:
    """The board with its pins named by a scheme; large enough for the longest of the names."""
    upright = turned in (0, 180)
    raw, w, h = _places(board, scheme)
    spots = {}
    for pin_id, lie in raw.items():
        x, y = _turned(lie.x, lie.y, turned, flipped)
        side = _turned(*lie.out, turned, flipped)
        bw, bh = (w, h) if upright else (h, w)
        # what lies behind another row is come at between the columns
        beside = 14.5 if lie.behind else 0
        edge = (side[0] * (bw / 2), y) if side[0] else (x + beside, side[1] * (bh / 2))
        spots[f"{BOARD}.{pin_id}"] = _spot(f"{BOARD}.{pin_id}", x, y, edge, side, lie)
    for socket, (x0, y0, out) in _sockets(board, h).items():
        x, y = _turned(x0, y0, turned, flipped)
        spots[f"{BOARD}.{socket}"] = PinSpot(
            f"{BOARD}.{socket}", x, y, x, y, _turned(0, out, turned, flipped), x, y, "middle", 0
        )
    bw, bh = (w, h) if upright else (h, w)
    return BoardPlace((-bw / 2, -bh / 2, bw, bh), upright, spots)


def _sockets(board: Board, h: float) -> dict[str, tuple[float, float, int]]:
    """The sockets along the two ends; those at the marked end leave the middle to the mark."""
    sockets = {}
    for end in ("top", "bottom"):
        names = [n for n, s in board.sockets.items() if s.side == end]
        for k, name in enumerate(names):
            out = -1 if end == "top" else 1
            shift = 37 if end == "top" and len(names) % 2 else 0
            sockets[name] = ((k - (len(names) - 1) / 2) * 74 + shift, out * (h / 2), out)
    return sockets


def _places(board: Board, scheme: str) -> tuple[dict[str, _Lie], float, float]:
    """The pins from above around the board's middle, and its width and height with room for their names."""
    w, h = board.outline.width_mm * SCALE, board.outline.height_mm * SCALE
    lies = {}
    for pin_id, pin in board.pins.items():
        header = board.headers[pin.header]
        x = (header.x_mm + (pin.col - 1) * header.column_gap_mm) * SCALE - w / 2
        y = (header.y_mm + (pin.row - 1) * header.pitch_mm) * SCALE - h / 2
        if pin.x_mm is not None:
            x, y = (pin.x_mm * SCALE - w / 2, y) if header.across else (x, pin.x_mm * SCALE - h / 2)
        lies[pin_id] = _lie(header, pin, x, y, w, h)
    return _with_room(board, scheme, lies, w, h)


def _lie(header: Header, pin: Pin, x: float, y: float, w: float, h: float) -> _Lie:
    """Over which edge a pin's cord leaves: a header's outermost rows each over their own side where it
    lies in the middle of the board, all over the nearer one where it lies at its edge."""
    if header.across:
        middle = (header.y_mm + (header.rows - 1) / 2 * header.pitch_mm) * SCALE - h / 2
        rank, ranks, here, room = pin.row, header.rows, y - middle, h
    else:
        middle = (header.x_mm + (header.columns - 1) / 2 * header.column_gap_mm) * SCALE - w / 2
        rank, ranks, here, room = pin.col, header.columns, x - middle, w
    central = abs(middle) < 0.12 * room and ranks > 1
    side = here if central else middle
    sign = 1.0 if side > 0 or (side == 0 and here > 0) else -1.0
    outermost = rank == (ranks if sign > 0 else 1)
    behind = not central and not outermost
    inside = ranks == 1 or behind
    return _Lie(x, y, (0.0, sign) if header.across else (sign, 0.0), behind, inside)


def _with_room(
    board: Board, scheme: str, lies: dict[str, _Lie], w: float, h: float
) -> tuple[dict[str, _Lie], float, float]:
    """Names that stand outside need room to the edge, those inside need room to the middle."""
    reach = {p: text_width(board.name(p, scheme), LABEL) + PIN_R + 19 for p in board.pins}
    across = [p for p in lies if lies[p].out[0] and not lies[p].inside]
    inner = [p for p in lies if lies[p].out[0] and lies[p].inside]
    over = max((reach[p] - abs(lies[p].x) for p in inner), default=0.0)
    apart = (
        max(0.0, over - 6) if len({lies[p].out for p in inner}) > 1 else 0.0
    )  # only where two sides face each other
    wider = max(0.0, max((reach[p] - (w / 2 - abs(lies[p].x)) for p in across), default=0.0))
    ends = [p for p in lies if lies[p].out[1] and not lies[p].inside]
    taller = max(0.0, max((reach[p] - (h / 2 - abs(lies[p].y)) for p in ends), default=0.0))
    moved = {p: replace(lie, x=lie.x + lie.out[0] * apart) for p, lie in lies.items()} if apart else lies
    return moved, w + 2 * (wider + apart), h + 2 * taller


def _spot(
    contact: str, x: float, y: float, edge: tuple[float, float], side: tuple[float, float], lie: _Lie
) -> PinSpot:
    away = -1 if lie.inside else 1
    dx, dy = side[0] * away, side[1] * away
    gap = PIN_R + 8
    if dx:
        return PinSpot(
            contact, x, y, *edge, side, x + dx * gap, y + 4.6, "start" if dx > 0 else "end", 0.0, lie.behind
        )
    # along a lying header names stand upright beside their pins
    return PinSpot(
        contact, x, y, *edge, side, x + 4.6, y + dy * gap, "start" if dy < 0 else "end", -90.0, lie.behind
    )

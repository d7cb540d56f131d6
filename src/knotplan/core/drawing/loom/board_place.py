"""Where a board's contacts lie: true to its headers, turned and flipped as on the bench.

Points; the board's centre is the origin, y goes down. The scale is given by the points for one usual
pitch of a header (2.54 mm): pins keep their places among each other, and the names beside them one size.
Where room is short, an empty part of the board's face is drawn shorter, with a break line across it.
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

PITCHES = (29.0, 25.0, 22.0, 20.0)
"""points for 2.54 mm, from a roomy bench to a narrow one"""
LABEL = 12.0
PIN_R = 7.5
BROKEN, WORTH = 46.0, 40.0
"""what a break line leaves of an empty face; what it has to save"""
BOARD_EDGE = 12.0
"""from the outermost thing on a board to its edge"""
SOCKET_APART = 74.0


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
    socket: bool = False
    """its name stands on it"""


class BoardPlace(Struct, frozen=True):
    """A board as it lies."""

    box: tuple[float, float, float, float]
    """x, y, w, h"""
    upright: bool
    """the header's rows run down the page"""
    pins: dict[str, PinSpot]
    lying: bool
    """most of its cords leave over the upper or lower edge"""
    breaks: tuple[tuple[float, float, float, float], ...] = ()
    """lines (x, y, x, y) across the board at which an empty part of it is left out"""


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


class _Face(Struct, frozen=True):
    """The board from above around its middle, its mark at the top."""

    lies: dict[str, _Lie]
    w: float
    h: float
    breaks_x: tuple[float, ...] = ()
    """where an upright break line runs"""
    breaks_y: tuple[float, ...] = ()


@derived
def board_place(
    board: Board,
    scheme: str,
    turned: Turn,
    flipped: bool,
    pitch: float = PITCHES[0],
    shortened: bool = False,
) -> BoardPlace:
    """The board with its pins named by a scheme; large enough for the longest of the names."""
    upright = turned in (0, 180)
    face = _places(board, scheme, pitch / 2.54)
    face = _with_breaks(board, scheme, face) if shortened else face
    w, h = face.w, face.h
    bw, bh = (w, h) if upright else (h, w)
    spots = {}
    for pin_id, lie in face.lies.items():
        x, y = _turned(lie.x, lie.y, turned, flipped)
        side = _turned(*lie.out, turned, flipped)
        # what lies behind another row is come at between the columns
        beside = pitch / 2 if lie.behind else 0
        edge = (side[0] * (bw / 2), y) if side[0] else (x + beside, side[1] * (bh / 2))
        spots[f"{BOARD}.{pin_id}"] = _spot(f"{BOARD}.{pin_id}", x, y, edge, side, lie)
    lying = 2 * sum(bool(spot.out[1]) for spot in spots.values()) > len(spots)
    for socket, (x0, y0, out) in _sockets(board, h).items():
        x, y = _turned(x0, y0, turned, flipped)
        spots[f"{BOARD}.{socket}"] = PinSpot(
            f"{BOARD}.{socket}", x, y, x, y, _turned(0, out, turned, flipped), x, y, "middle", 0, socket=True
        )
    breaks = [
        *((x, -h / 2, x, h / 2) for x in face.breaks_x),
        *((-w / 2, y, w / 2, y) for y in face.breaks_y),
    ]
    across = tuple(
        (*_turned(x1, y1, turned, flipped), *_turned(x2, y2, turned, flipped)) for x1, y1, x2, y2 in breaks
    )
    return BoardPlace((-bw / 2, -bh / 2, bw, bh), upright, spots, lying, across)


def _sockets(board: Board, h: float) -> dict[str, tuple[float, float, int]]:
    """The sockets along the two ends; those at the marked end leave the middle to the mark."""
    sockets = {}
    for end in ("top", "bottom"):
        names = [n for n, s in board.sockets.items() if s.side == end]
        for k, name in enumerate(names):
            out = -1 if end == "top" else 1
            shift = SOCKET_APART / 2 if end == "top" and len(names) % 2 else 0
            sockets[name] = ((k - (len(names) - 1) / 2) * SOCKET_APART + shift, out * (h / 2), out)
    return sockets


def _places(board: Board, scheme: str, scale: float) -> _Face:
    """The pins, and the board's width and height with room for their names; `scale` in points for a
    millimetre."""
    w, h = board.outline.width_mm * scale, board.outline.height_mm * scale
    lies = {}
    for pin_id, pin in board.pins.items():
        header = board.headers[pin.header]
        x, y = (mm * scale - half for mm, half in zip(board.spot(pin_id), (w / 2, h / 2), strict=True))
        lies[pin_id] = _lie(header, pin, x, y, w, h, scale)
    return _with_room(board, scheme, lies, w, h)


# --- break lines ----------------------------------------------------------------------------------


def _with_breaks(board: Board, scheme: str, face: _Face) -> _Face:
    """The face with its empty parts drawn shorter."""
    across, down = _taken(board, scheme, face)
    cut_x, cut_y = _cuts(across, face.w), _cuts(down, face.h)
    least = _ends_wide(board)  # what stands at the ends keeps its room
    while cut_x and face.w - sum(saved for _, saved in cut_x) < least:
        at, saved = cut_x.pop()
        saved -= least - (face.w - saved - sum(s for _, s in cut_x))
        if saved > WORTH:
            cut_x.append((at, saved))
            break
    lies = {
        pin: replace(lie, x=_shifted(lie.x, cut_x), y=_shifted(lie.y, cut_y))
        for pin, lie in face.lies.items()
    }
    return _Face(
        lies,
        face.w - sum(saved for _, saved in cut_x),
        face.h - sum(saved for _, saved in cut_y),
        tuple(_shifted(at, cut_x, inside=True) for at, _ in cut_x),
        tuple(_shifted(at, cut_y, inside=True) for at, _ in cut_y),
    )


Spans = list[tuple[float, float]]


def _taken(board: Board, scheme: str, face: _Face) -> tuple[Spans, Spans]:
    """What is taken of the face, across and down: headers with the names of their pins, and the ends."""
    across: Spans = [(-face.w / 2, -face.w / 2 + BOARD_EDGE), (face.w / 2 - BOARD_EDGE, face.w / 2)]
    down: Spans = [(-face.h / 2, -face.h / 2 + 34), (face.h / 2 - 24, face.h / 2)]
    for name, header in board.headers.items():
        mine = [p for p, pin in board.pins.items() if pin.header == name]
        xs, ys = [face.lies[p].x for p in mine], [face.lies[p].y for p in mine]
        room = max((text_width(board.name(p, scheme), LABEL) for p in mine), default=0.0) + PIN_R + 14
        if header.across:
            across.append((min(xs) - PIN_R, max(xs) + PIN_R))
            down.append((min(ys) - room, max(ys) + room))
        else:
            across.append((min(xs) - room, max(xs) + room))
            down.append((min(ys) - PIN_R, max(ys) + PIN_R))
    return across, down


def _cuts(taken: Spans, whole: float) -> list[tuple[float, float]]:
    """(middle, length) of what is left out of each gap that is long enough."""
    cuts, end = [], -whole / 2
    for first, last in sorted(taken):
        if first - end > BROKEN + WORTH:
            cuts.append(((first + end) / 2, first - end - BROKEN))
        end = max(end, last)
    return cuts


def _shifted(at: float, cuts: list[tuple[float, float]], inside: bool = False) -> float:
    """A place after the cuts, the board's middle in the middle again; `inside` for a cut's own middle."""
    whole = sum(saved for _, saved in cuts) / 2
    before = sum(saved for middle, saved in cuts if middle < at)
    own = next((saved for middle, saved in cuts if inside and middle == at), 0.0) / 2
    return at - before - own + whole


def _ends_wide(board: Board) -> float:
    """How wide the ends have to be for their sockets."""
    return max(
        (SOCKET_APART * sum(s.side == end for s in board.sockets.values()) for end in ("top", "bottom")),
        default=0.0,
    )


def _lie(header: Header, pin: Pin, x: float, y: float, w: float, h: float, scale: float) -> _Lie:
    """Over which edge a pin's cord leaves: a header's outermost rows each over their own side where it
    lies in the middle of the board, all over the nearer one where it lies at its edge."""
    if header.across:
        middle = (header.y_mm + (header.rows - 1) / 2 * header.pitch_mm) * scale - h / 2
        rank, ranks, here, room = pin.row, header.rows, y - middle, h
    else:
        middle = (header.x_mm + (header.columns - 1) / 2 * header.column_gap_mm) * scale - w / 2
        rank, ranks, here, room = pin.col, header.columns, x - middle, w
    central = abs(middle) < 0.12 * room and ranks > 1
    side = here if central else middle
    sign = 1.0 if side > 0 or (side == 0 and here > 0) else -1.0
    outermost = rank == (ranks if sign > 0 else 1)
    behind = not central and not outermost
    inside = ranks == 1 or behind
    return _Lie(x, y, (0.0, sign) if header.across else (sign, 0.0), behind, inside)


def _with_room(board: Board, scheme: str, lies: dict[str, _Lie], w: float, h: float) -> _Face:
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
    return _Face(moved, w + 2 * (wider + apart), h + 2 * taller)


def _spot(
    contact: str, x: float, y: float, edge: tuple[float, float], side: tuple[float, float], lie: _Lie
) -> PinSpot:
    away = -1 if lie.inside else 1
    dx, dy = side[0] * away, side[1] * away
    gap = PIN_R + 8
    if dx:
        return PinSpot(
            contact, x, y, *edge, side, x + dx * gap, y + 4.3, "start" if dx > 0 else "end", 0.0, lie.behind
        )
    # along a lying header names stand upright beside their pins
    return PinSpot(
        contact, x, y, *edge, side, x + 4.3, y + dy * gap, "start" if dy < 0 else "end", -90.0, lie.behind
    )

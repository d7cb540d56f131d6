"""Where everything lies: the board turned as on the bench, the parts on both sides of it.

Pure geometry in points, as in `board_place`.
"""


from msgspec import Struct

from knotplan.catalog.needs import Feed, Gives, Ground, Supply
from knotplan.core.circuit import Circuit
from knotplan.core.loom.board_place import PinSpot, board_place
from knotplan.core.plan import split

CARD_W, HEAD_H, LEAD_H, FOOT_H, CARD_GAP = 236.0, 47.0, 22.0, 7.0, 14.0
WIDE = 380.0
"""a board wider than this moves aside when one of its columns is empty"""
ASPECT = 1.47
"""width to height of the place where a bench is usually shown"""
ALLEY_LEAST, ALLEY_MOST, ALLEY_LYING = 118.0, 190.0, 92.0
"""width of the space for cords between cards and board; a lying board's cords leave at its long edges"""


class LeadSpot(Struct, frozen=True):
    """A lead at the edge of its card."""

    contact: str
    x: float
    y: float


class Card(Struct, frozen=True):
    """A part."""

    part: str
    side: str
    x: float
    y: float
    w: float
    h: float
    leads: tuple[LeadSpot, ...]


class Bench(Struct, frozen=True):
    """Everything placed."""

    board: tuple[float, float, float, float]
    """x, y, w, h"""
    upright: bool
    """the header's rows run down the page"""
    alley: float
    """width of the space for cords"""
    pins: dict[str, PinSpot]
    cards: tuple[Card, ...]
    leads: dict[str, LeadSpot]

    def bounds(self) -> tuple[float, float, float, float]:
        """x, y, w, h of everything."""
        _, by, bw, bh = self.board
        half = bw / 2 + self.alley + CARD_W  # both columns, so that the board stays where it is
        if bw > WIDE and self.cards:  # a wide board needs the room of a column that is empty
            half = bw / 2 + 20
        left = min([-half, *(c.x for c in self.cards)])
        right = max([half, *(c.x + c.w for c in self.cards)])
        # cords that leave over the upper or lower edge pass beside it, one within another
        beyond = 30 + 0.1 * bw
        ways = {s.out[1] for s in self.pins.values() if s.label_angle}
        top = min([by - (beyond if -1.0 in ways else 0.0), *(c.y for c in self.cards)])
        bottom = max([by + bh + (beyond if 1.0 in ways else 0.0), *(c.y + c.h for c in self.cards)])
        return left, top, right - left, bottom - top

    def card(self, part: str) -> Card:
        return next(c for c in self.cards if c.part == part)


# --- the parts --------------------------------------------------------------------------------


def is_stub(circuit: Circuit, lead: str) -> bool:
    """Supply and ground ties are short tagged stubs; signals keep their cords."""
    tie = circuit.tie_of(lead)
    if tie is None:
        return False
    pin = circuit.pin(tie.to)
    if pin is not None:
        return pin.kind != "io"
    other = circuit.lead(tie.to)
    return other is None or isinstance(other.needs[0], Supply | Ground | Gives | Feed)


def _pull(circuit: Circuit, spots: dict[str, PinSpot], part: str) -> list[PinSpot]:
    """The pins that a part is drawn to: those of its signals, else all it is tied to."""
    ties = [t for t in circuit.plan.ties if split(t.lead)[0] == part and t.to in spots]
    signals = [spots[t.to] for t in ties if not is_stub(circuit, t.lead)]
    return signals or [spots[t.to] for t in ties]


def card_height(leads: int) -> float:
    """How tall the card of a part with so many leads is."""
    return HEAD_H + LEAD_H * leads + FOOT_H


def lead_at(number: int) -> float:
    """How far below its card's upper edge a lead lies."""
    return HEAD_H + LEAD_H * (number + 0.5)


def _height(circuit: Circuit, part: str) -> float:
    return card_height(len(circuit.parts[part].leads))


def _key(spot: PinSpot, side: str, upright: bool, half: float) -> float:
    """Where, from top to bottom, a pin's cord comes round to a side of the board."""
    if upright:
        return spot.y
    along = (half + (spot.x if side == "left" else -spot.x)) / (2 * half)  # 0 near, 1 far
    return spot.out[1] * (60 + 170 * along)


def _sides(circuit: Circuit, spots: dict[str, PinSpot]) -> dict[str, list[str]]:
    """Parts by side: where most of their pins lie, the rest where there is room."""
    columns: dict[str, list[str]] = {"left": [], "right": []}
    filled = {"left": 0.0, "right": 0.0}

    def put(part: str, side: str) -> None:
        columns[side].append(part)
        filled[side] += _height(circuit, part) + CARD_GAP

    loose = []
    for part, placed in circuit.placed.items():
        lean = sum((s.out[0] or s.x / 300) for s in _pull(circuit, spots, part))
        if placed.side:
            put(part, placed.side)
        elif abs(lean) > 0.2:
            put(part, "right" if lean > 0 else "left")
        else:
            loose.append(part)
    for part in loose:
        put(part, "left" if filled["left"] <= filled["right"] else "right")
    return columns


def crossings(keys: list[list[float]]) -> int:
    """How many pairs of cords cross, given each part's pins (as keys) in the order of its leads."""
    flat = [k for part in keys for k in part]
    return sum(a > b for i, a in enumerate(flat) for b in flat[i + 1 :])


def _ordered(parts: list[str], keys: dict[str, list[float]]) -> list[str]:
    """Parts from top to bottom: by their pins' middle, then neighbours exchanged while that helps."""

    def middle(p: str) -> float:
        return sum(keys[p]) / len(keys[p]) if keys[p] else 1e6

    order = sorted(parts, key=middle)
    best = crossings([keys[p] for p in order])
    improved = True
    while improved and best:
        improved = False
        for i in range(len(order) - 1):
            tried = [*order[:i], order[i + 1], order[i], *order[i + 2 :]]
            count = crossings([keys[p] for p in tried])
            if count < best:
                order, best, improved = tried, count, True
    return order


def _spread(wanted: list[float], heights: list[float]) -> list[float]:
    """Top edges nearest to wanted centres without overlap, in the given order (isotonic regression).

    >>> _spread([0.0, 0.0], [100.0, 100.0])
    [-107.0, 7.0]
    """
    tops, offset = [], 0.0
    for centre, h in zip(wanted, heights, strict=True):
        tops.append(centre - h / 2 - offset)
        offset += h + CARD_GAP
    blocks: list[list[float]] = []  # each block keeps the values that have to share one place
    for t in tops:
        blocks.append([t])
        while len(blocks) > 1 and sum(blocks[-2]) / len(blocks[-2]) > sum(blocks[-1]) / len(blocks[-1]):
            last = blocks.pop()
            blocks[-1] += last
    level = [sum(b) / len(b) for b in blocks for _ in b]
    placed, offset = [], 0.0
    for value, h in zip(level, heights, strict=True):
        placed.append(value + offset)
        offset += h + CARD_GAP
    return placed


def _alley(board: tuple[float, float, float, float], upright: bool) -> float:
    """As wide as the usual window leaves it beside the board at full height."""
    if not upright:
        return ALLEY_LYING
    return min(ALLEY_MOST, max(ALLEY_LEAST, (board[3] * ASPECT - board[2]) / 2 - CARD_W))


def lay_out(circuit: Circuit) -> Bench:
    """The bench of a circuit."""
    plan = circuit.plan
    place = board_place(circuit.board, circuit.scheme, plan.turned, plan.flipped)
    board, spots, upright = place.box, place.pins, place.upright
    half = board[2] / 2
    alley = _alley(board, upright)
    cards: list[Card] = []
    for side, parts in _sides(circuit, spots).items():
        keys = {p: [_key(spots[t.to], side, upright, half) for lead in circuit.parts[p].leads
                    for t in circuit.ties_at.get(f"{p}.{lead}", ())
                    if t.lead == f"{p}.{lead}" and t.to in spots and not is_stub(circuit, t.lead)]
                for p in parts}  # fmt: skip
        order = _ordered(parts, keys)
        heights = [_height(circuit, p) for p in order]
        middle = [sum(keys[p]) / len(keys[p]) if keys[p] else 0.0 for p in order]
        for i, p in enumerate(order):  # parts without signals lie below those with
            if not keys[p]:
                middle[i] = max([middle[j] for j in range(i)], default=0.0)
        tops = _centred(_spread(middle, heights), heights, board)
        x = -half - alley - CARD_W if side == "left" else half + alley
        for p, y, h in zip(order, tops, heights, strict=True):
            face = x + CARD_W if side == "left" else x
            own = tuple(LeadSpot(f"{p}.{name}", face, y + lead_at(k))
                          for k, name in enumerate(circuit.parts[p].leads))  # fmt: skip
            cards.append(Card(p, side, x, y, CARD_W, h, own))
    leads = {spot.contact: spot for card in cards for spot in card.leads}
    return Bench(board, upright, alley, spots, tuple(cards), leads)


def _centred(tops: list[float], heights: list[float], board: tuple[float, float, float, float]) -> list[float]:
    """A column pushed back within the board's height, where it fits there."""
    if not tops:
        return tops
    first, last = tops[0], tops[-1] + heights[-1]
    low, high = board[1], board[1] + board[3]
    middle = (low + high) / 2 - (first + last) / 2
    shift = middle if last - first > high - low else max(0.0, low - first) + min(0.0, high - last)
    return [t + shift for t in tops]

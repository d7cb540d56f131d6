"""Where everything lies: the board turned as on the bench, the parts on both sides of it.

Pure geometry in points, as in `board_place`.
"""

from msgspec import Struct

from knotplan.catalog.derived import derived
from knotplan.catalog.part.needs import Feed, Gives, Ground, Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.board_place import BoardPlace, PinSpot, board_place
from knotplan.core.drawing.loom.order import kept, ordered
from knotplan.core.drawing.loom.tree import Tree, showing, tree_of
from knotplan.core.plan.document import Tie, split

CARD_W, HEAD_H, LEAD_H, FOOT_H, CARD_GAP = 236.0, 47.0, 22.0, 7.0, 14.0
MORE_H = 24.0
"""the line at the lower end of a card that says what it does not show"""
HUB_GAP, LANE_GAP = 72.0, 44.0
"""between a hub and what hangs on it; between columns of cards that stand one behind another"""
LOOP = 44.0
"""how far the cord of a daisy chain goes round outside"""
TALLEST = 1700.0
"""a column taller than this is broken into several"""
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
    out: float = 1.0
    """the way its cord leaves: 1 to the right, -1 to the left"""


class Card(Struct, frozen=True):
    """A part."""

    part: str
    side: str
    x: float
    y: float
    w: float
    h: float
    leads: tuple[LeadSpot, ...]
    foot: bool = False
    """there is a line at its lower end that folds and unfolds it"""

    def on_foot(self, x: float, y: float) -> bool:
        """A place on the line that folds and unfolds it."""
        return (
            self.foot and self.x <= x <= self.x + self.w and self.y + self.h - MORE_H <= y <= self.y + self.h
        )


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
    by_part: dict[str, Card]
    leads: dict[str, LeadSpot]
    """those that are shown"""
    inside: dict[str, str] = {}
    """parts that are folded into a hub's card"""
    order: dict[str, tuple[str, ...]] = {}
    """cards by side, from top to bottom"""
    ends: dict[str, tuple[float, ...]] = {}
    """where each card's cords end: what its place depends on"""
    loops: frozenset[str] = frozenset()
    """sides on which the cords of a daisy chain go round outside"""
    nudged: frozenset[str] = frozenset()
    """parts that the maker has put on a side"""

    def bounds(self) -> tuple[float, float, float, float]:
        """x, y, w, h of everything."""
        _, by, bw, bh = self.board
        half = bw / 2 + self.alley + CARD_W  # both columns, so that the board stays where it is
        if bw > WIDE and self.cards:  # a wide board needs the room of a column that is empty
            half = bw / 2 + 20
        left = min([-half, *(c.x - (LOOP if "left" in self.loops else 0) for c in self.cards)])
        right = max([half, *(c.x + c.w + (LOOP if "right" in self.loops else 0) for c in self.cards)])
        # cords that leave over the upper or lower edge pass beside it, one within another
        beyond = 30 + 0.1 * bw
        ways = {s.out[1] for s in self.pins.values() if s.label_angle}
        top = min([by - (beyond if -1.0 in ways else 0.0), *(c.y for c in self.cards)])
        bottom = max([by + bh + (beyond if 1.0 in ways else 0.0), *(c.y + c.h for c in self.cards)])
        return left, top, right - left, bottom - top

    def card(self, part: str) -> Card:
        """The card of a part, or of the hub into which it is folded; raises KeyError."""
        return self.by_part[self.inside.get(part, part)]

    def spot(self, contact: str) -> LeadSpot | None:
        """Where a lead is shown; where it is not, the lower end of its card."""
        spot = self.leads.get(contact)
        owner = split(contact)[0]
        card = self.by_part.get(self.inside.get(owner, owner))
        if spot is not None or card is None:
            return spot
        inner = card.side == "left"
        return LeadSpot(
            contact,
            card.x + card.w if inner else card.x,
            card.y + card.h - MORE_H / 2,
            1.0 if inner else -1.0,
        )


# --- the parts --------------------------------------------------------------------------------


def is_stub(circuit: Circuit, lead: str) -> bool:
    """Supply and ground ties are short tagged stubs; signals keep their cords."""
    tie = circuit.ties.of(lead)
    if tie is None:
        return False
    pin = circuit.contacts.pin(tie.to)
    if pin is not None:
        return pin.kind not in ("io", "contact")
    other = circuit.contacts.lead(tie.to)
    return other is None or isinstance(other.needs[0], Supply | Ground | Gives | Feed)


def _pull(circuit: Circuit, spots: dict[str, PinSpot], parts: tuple[str, ...]) -> list[PinSpot]:
    """The pins that a part and all that hangs on it are drawn to: those of
    signals, else all they are tied to."""
    ties = [t for part in parts for t in _ties_of(circuit).get(part, ()) if t.to in spots]
    signals = [spots[t.to] for t in ties if not is_stub(circuit, t.lead)]
    return signals or [spots[t.to] for t in ties]


@derived
def _ties_of(circuit: Circuit) -> dict[str, list[Tie]]:
    """The ties of each part's leads."""
    ties: dict[str, list[Tie]] = {}
    for tie in circuit.plan.ties:
        ties.setdefault(split(tie.lead)[0], []).append(tie)
    return ties


def card_height(rows: int, foot: bool = False) -> float:
    """How tall the card of a part with so many rows of leads is."""
    return HEAD_H + LEAD_H * rows + (MORE_H if foot else FOOT_H)


def lead_at(number: int) -> float:
    """How far below its card's upper edge a lead lies."""
    return HEAD_H + LEAD_H * (number + 0.5)


def _height(circuit: Circuit, part: str) -> float:
    shown = showing(circuit, part)
    return card_height(len(shown.rows), shown.foot)


def _key(spot: PinSpot, side: str, upright: bool, half: float) -> float:
    """Where, from top to bottom, a pin's cord comes round to a side of the board."""
    if upright:
        return spot.y
    along = (half + (spot.x if side == "left" else -spot.x)) / (2 * half)  # 0 near, 1 far
    return spot.out[1] * (60 + 170 * along)


class _Block(Struct):
    """A card with everything that hangs on it beside it."""

    part: str
    height: float
    """of all of it"""
    card: float
    below: list["_Block"]
    depth: int
    """how many columns it takes"""


def _block(circuit: Circuit, part: str, tree: Tree) -> _Block:
    rows = [outer for _, outer in showing(circuit, part).rows]

    def place(child: str) -> float:
        ends = [
            rows.index(t.to)
            for name in circuit.parts[child].leads
            if (t := circuit.ties.of(f"{child}.{name}")) and t.to in rows
        ]
        return sum(ends) / len(ends) if ends else 1e6

    children = [c for c in tree.children.get(part, ()) if c not in tree.inside]
    below = [_block(circuit, c, tree) for c in sorted(children, key=place)]
    own = _height(circuit, part)
    tall = sum(b.height for b in below) + CARD_GAP * max(0, len(below) - 1)
    return _Block(part, max(own, tall), own, below, 1 + max((b.depth for b in below), default=0))


def _sides(
    circuit: Circuit, spots: dict[str, PinSpot], blocks: dict[str, _Block], before: Bench | None
) -> dict[str, list[str]]:
    """Parts by side: where they were, else where most of their pins lie, the rest where there is room."""
    columns: dict[str, list[str]] = {"left": [], "right": []}
    filled = {"left": 0.0, "right": 0.0}
    tree = tree_of(circuit)
    was = {part: side for side, parts in before.order.items() for part in parts} if before else {}

    def put(part: str, side: str) -> None:
        columns[side].append(part)
        filled[side] += blocks[part].height + CARD_GAP

    loose = []
    for part in blocks:
        placed = circuit.placed[part]
        pull = _pull(circuit, spots, (part, *tree.below(part)))
        lean = sum((s.out[0] or s.x / 300) for s in pull)
        if placed.side:
            put(part, placed.side)
        elif before and part in was and part not in before.nudged and (before.ends.get(part) or not pull):
            put(part, was[part])
        elif abs(lean) > 0.2:
            put(part, "right" if lean > 0 else "left")
        else:
            loose.append(part)
    for part in loose:
        put(part, "left" if filled["left"] <= filled["right"] else "right")
    return columns


def _spread(wanted: list[float], heights: list[float]) -> list[float]:
    """Top edges nearest to wanted centres without overlap, in the given order (isotonic regression).

    >>> _spread([0.0, 0.0], [100.0, 100.0])
    [-107.0, 7.0]
    """
    tops, offset = [], 0.0
    for centre, h in zip(wanted, heights, strict=True):
        tops.append(centre - h / 2 - offset)
        offset += h + CARD_GAP
    blocks: list[tuple[float, int]] = []  # (sum, count) of the values that have to share one place
    for t in tops:
        total, count = t, 1
        while blocks and blocks[-1][0] / blocks[-1][1] > total / count:
            before, many = blocks.pop()
            total, count = before + total, many + count
        blocks.append((total, count))
    level = [total / count for total, count in blocks for _ in range(count)]
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


def lay_out(circuit: Circuit, before: Bench | None = None) -> Bench:
    """The bench of a circuit. What was laid out before stays where it was,
    but for parts whose own ties changed."""
    plan = circuit.plan
    place = board_place(circuit.board, circuit.scheme, plan.turned, plan.flipped)
    tree = tree_of(circuit)
    alley = _alley(place.box, place.upright)
    blocks = {p: _block(circuit, p, tree) for p in circuit.parts if p not in tree.parent}
    heads = {p: b for p, b in blocks.items() if tree.head(p) == p}
    follows: dict[str, list[str]] = {}
    for p in blocks:
        if p in tree.after:
            follows.setdefault(tree.after[p], []).append(p)
    cards: list[Card] = []
    order: dict[str, list[str]] = {}
    ends: dict[str, tuple[float, ...]] = {}
    for side, parts in _sides(circuit, place.pins, heads, before).items():
        keys = {p: _ends(circuit, place, p, side, tree) for p in parts}
        if before is None:
            order[side] = ordered(parts, keys)
        else:
            free = {p for p in parts if before.ends.get(p) != tuple(keys[p])}
            order[side] = kept(parts, keys, list(before.order.get(side, ())), free)
        ends |= {p: tuple(k) for p, k in keys.items()}
        whole = [q for p in order[side] for q in _chain(follows, p)]
        keys |= {q: keys[tree.head(q)] for q in whole}
        cards += _column(circuit, [blocks[q] for q in whole], keys, side, place.box, alley)
    leads = {spot.contact: spot for card in cards for spot in card.leads}
    return Bench(
        place.box,
        place.upright,
        alley,
        place.pins,
        tuple(cards),
        {c.part: c for c in cards},
        leads,
        tree.inside,
        {side: tuple(parts) for side, parts in order.items()},
        ends,
        frozenset(c.side for c in cards if c.part in tree.after),
        frozenset(p.id for p in plan.parts if p.side),
    )


def _chain(follows: dict[str, list[str]], head: str) -> list[str]:
    """A part and those that follow it in its daisy chain, one below another."""
    chained = {head: None}
    queue = [head]
    while queue:
        here = queue.pop(0)
        more = [p for p in follows.get(here, ()) if p not in chained]
        chained |= dict.fromkeys(more)
        queue += more
    return list(chained)


def _ends(circuit: Circuit, place: BoardPlace, part: str, side: str, tree: Tree) -> list[float]:
    """Where the cords of a part end on the board, in the order of its leads;
    those of what hangs on it after them."""
    half = place.box[2] / 2
    return [
        _key(place.pins[t.to], side, place.upright, half)
        for p in (part, *tree.below(part))
        for name in circuit.parts[p].leads
        for t in circuit.ties.at.get(f"{p}.{name}", ())
        if t.lead == f"{p}.{name}" and t.to in place.pins and not is_stub(circuit, t.lead)
    ]


def _column(
    circuit: Circuit,
    blocks: list[_Block],
    keys: dict[str, list[float]],
    side: str,
    board: tuple[float, float, float, float],
    alley: float,
) -> list[Card]:
    """The cards of one side, in as many columns one behind another as keep each from growing too tall."""
    whole = sum(b.height + CARD_GAP for b in blocks)
    lanes = max(1, -int(-whole // TALLEST))
    cards: list[Card] = []
    x = board[2] / 2 + alley
    for lane in (blocks[k::lanes] for k in range(lanes)):
        wanted: list[float] = []
        last = 0.0
        for b in lane:  # parts without signals lie below those with
            last = sum(keys[b.part]) / len(keys[b.part]) if keys[b.part] else max(wanted, default=0.0)
            wanted.append(last)
        heights = [b.height for b in lane]
        for b, top in zip(lane, _centred(_spread(wanted, heights), heights, board), strict=True):
            cards += _cards(circuit, b, top, x, side)
        x += max((b.depth for b in lane), default=0) * (CARD_W + HUB_GAP) - HUB_GAP + LANE_GAP
    return cards


def _cards(circuit: Circuit, block: _Block, top: float, x: float, side: str) -> list[Card]:
    """A card, and further out those of what hangs on it; `x` is the distance of its
    inner edge from the board's middle."""
    y = top + (block.height - block.card) / 2
    left = -x - CARD_W if side == "left" else x
    inner, outer = (left + CARD_W, left) if side == "left" else (left, left + CARD_W)
    facing = 1.0 if side == "left" else -1.0
    shown = showing(circuit, block.part)
    spots = []
    for k, (near, far) in enumerate(shown.rows):
        spots += [LeadSpot(near, inner, y + lead_at(k), facing)] if near else []
        spots += [LeadSpot(far, outer, y + lead_at(k), -facing)] if far else []
    cards = [Card(block.part, side, left, y, CARD_W, block.card, tuple(spots), shown.foot)]
    tall = sum(b.height for b in block.below) + CARD_GAP * max(0, len(block.below) - 1)
    at = top + (block.height - tall) / 2
    for child in block.below:
        cards += _cards(circuit, child, at, x + CARD_W + HUB_GAP, side)
        at += child.height + CARD_GAP
    return cards


def _centred(
    tops: list[float], heights: list[float], board: tuple[float, float, float, float]
) -> list[float]:
    """A column pushed back within the board's height, where it fits there."""
    if not tops:
        return tops
    first, last = tops[0], tops[-1] + heights[-1]
    low, high = board[1], board[1] + board[3]
    middle = (low + high) / 2 - (first + last) / 2
    shift = middle if last - first > high - low else max(0.0, low - first) + min(0.0, high - last)
    return [t + shift for t in tops]

"""Lays out one side of the board: cards in lanes, what hangs on hubs beyond them, the way of each cord."""

from collections.abc import Mapping
from typing import NamedTuple

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import LOOP_MOST, Card, LeadSpot, Setting
from knotplan.core.drawing.loom.face import Face, face
from knotplan.core.drawing.loom.form import PAD, TAG_H, Form, Side, form, natural_width
from knotplan.core.drawing.loom.lanes import (
    CHANNEL,
    GAP_LEAST,
    STRAND,
    Block,
    Group,
    in_lanes,
    pushed_back,
    spread,
)
from knotplan.core.drawing.loom.tree import Tree, showing

LANE_GAP = 24.0
"""between lanes of cards that stand one behind another"""
TALLEST = 1700.0
"""a lane longer than this is broken into several"""
SLACK = 1.25
"""cards that are so much wider than they need to be stay as they are"""
UNDER, ASIDE = (2.5, 6.0), 4.0
"""how far below its card the cord of a tag runs, and how far beside it"""


class SideFrame(NamedTuple):
    """What is asked again and again while one side is laid out."""

    circuit: Circuit
    side: Side
    setting: Setting
    start: float
    """from the board's middle to the first lane"""
    low: float
    high: float
    """the board's ends along the side"""
    gap: float
    """between a hub and what hangs on it"""
    was_wide: tuple[float, ...] = ()
    """the width of the cards at each distance from the board, as they were laid out before"""
    before: Mapping[str, Card] = {}
    """the cards as they were: one that stays as it is is not made again"""

    @property
    def beside(self) -> bool:
        """Cards stand one below another."""
        return self.side in ("left", "right")

    def face(self, part: str) -> Face:
        """What a part's card says here."""
        return face(self.circuit, part, self.setting.stacked)

    def natural(self, part: str) -> float:
        """How wide a part's card is by itself."""
        return natural_width(self.face(part), self.setting.detail, self.side)

    def form(self, part: str, wide: float) -> Form:
        """A part's card of a width."""
        return form(self.face(part), wide, self.setting.detail, self.side)

    def length(self, part: str, wide: float) -> float:
        """How much of its side a card takes."""
        return self.form(part, wide).h if self.beside else wide


Chains = dict[str, list[str]]
"""the parts that stand next after each part"""


def chain(follows: Chains, head: str) -> list[str]:
    """A part and those that follow it, one after another."""
    chained: dict[str, None] = {}
    queue = [head]
    while queue:
        here = queue.pop(0)
        if here not in chained:
            chained[here] = None
            queue = [*follows.get(here, ()), *queue]
    return list(chained)


def _block(s: SideFrame, part: str, wide: list[float], tree: Tree, level: int = 0) -> Block:
    """A card with what stands beyond it; `wide`: the width of the cards at each distance from the board."""
    own = s.length(part, _width(s, part, wide, level))
    if s.setting.stacked:
        return Block(part, own, own)
    children = [c for c in tree.children.get(part, ()) if c not in tree.inside]
    below = tuple(_block(s, c, wide, tree, level + 1) for c in _in_order(s, part, children))
    all_of_it = sum(b.length for b in below) + GAP_LEAST * max(0, len(below) - 1)
    return Block(part, max(own, all_of_it), own, below, 1 + max((b.deep for b in below), default=0))


def _width(s: SideFrame, part: str, wide: list[float], level: int) -> float:
    return wide[level] if s.beside else s.natural(part)


def _in_order(s: SideFrame, part: str, children: list[str]) -> list[str]:
    """What hangs on a hub, by the places of the contacts on which it hangs."""
    shown = showing(s.circuit, part, s.setting.stacked)
    rows = [outer for _, outer in shown.rows]

    def place(child: str) -> float:
        ties = (s.circuit.ties.of(f"{child}.{name}") for name in s.circuit.parts[child].leads)
        ends = [rows.index(t.to) for t in ties if t and t.to in rows]
        return sum(ends) / len(ends) if ends else 1e6

    return sorted(children, key=place)


def _widths(s: SideFrame, parts: list[str], tree: Tree) -> list[float]:
    """The width of the cards at each distance from the board: that of the widest."""
    wide: list[float] = []
    while parts:
        natural = max(s.natural(p) for p in parts)
        before = s.was_wide[len(wide)] if len(wide) < len(s.was_wide) else natural
        # a little more than what is said needs is kept, so that another word moves nothing
        wide.append(before if natural <= before <= SLACK * natural else natural)
        beyond = [c for p in parts for c in tree.children.get(p, ()) if c not in tree.inside]
        parts = [] if s.setting.stacked else beyond
    return wide or [0.0]


def lay_side(s: SideFrame, parts: list[tuple[str, list[float]]], follows: Chains, tree: Tree) -> list[Card]:
    """The cards of one side, in lanes one behind another."""
    groups: list[Group] = []
    wide = _widths(s, [q for p, _ in parts for q in chain(follows, p)], tree)
    last = 0.0
    for part, keys in parts:  # parts without signals lie after those with
        blocks = tuple(_block(s, q, wide, tree) for q in chain(follows, part))
        last = sum(keys) / len(keys) if keys else max((g.wanted for g in groups), default=0.0)
        groups.append(Group(blocks, last, len(keys)))
    whole = sum(g.length + GAP_LEAST for g in groups)
    lanes = max(s.setting.lanes if whole > s.high - s.low else 1, -int(-whole // TALLEST))
    lane_of = in_lanes(groups, lanes)
    cards: list[Card] = []
    start = s.start
    channels: dict[str, list[float]] = {}
    for lane in range(lanes):
        mine = [g for g, here in zip(groups, lane_of, strict=True) if here == lane]
        if not mine:
            continue
        passing = _passing(groups, lane_of, lane) if lanes == 2 else {}
        tops, deep, slots = _lay_lane(s, mine, passing, start, wide)
        for group, top in tops:
            at = top
            for block in group.blocks:
                cards += _cards(s, block, at, start, wide, 0, channels)
                at += block.length + GAP_LEAST
        channels = slots
        # cords that go round outside from card to card stay before the next lane
        start += deep + LANE_GAP + (LOOP_MOST if any(len(g.blocks) > 1 for g in mine) else 0.0)
    return cards


def _passing(groups: list[Group], lane_of: list[int], lane: int) -> dict[int, list[Group]]:
    """The groups of farther lanes, by how many groups of this lane stand before them."""
    passing: dict[int, list[Group]] = {}
    before = 0
    for group, here in zip(groups, lane_of, strict=True):
        if here == lane:
            before += 1
        elif here > lane:
            passing.setdefault(before, []).append(group)
    return passing


def _lay_lane(
    s: SideFrame, mine: list[Group], passing: dict[int, list[Group]], start: float, wide: list[float]
) -> tuple[list[tuple[Group, float]], float, dict[str, list[float]]]:
    """Where the groups of a lane begin, how deep the lane is, and the channels
    (part: places along the side, then the lane's two ends across) for what stands behind it."""
    strands = [sum(g.strands for g in passing.get(k, ())) for k in range(len(mine) + 1)]
    more = [CHANNEL + STRAND * n if n and k else 0.0 for k, n in enumerate(strands[:-1])]
    lengths = [g.length for g in mine]
    tops = pushed_back(spread([g.wanted for g in mine], lengths, more), lengths, s.low, s.high)
    deep = _depth(s, mine, wide)
    edges = [
        (-1e9, tops[0]),
        *((a + n, b) for (a, n), b in zip(zip(tops, lengths, strict=True), tops[1:], strict=False)),
    ]
    edges.append((tops[-1] + lengths[-1], 1e9))
    slots: dict[str, list[float]] = {}
    for k, groups in passing.items():
        low, high = edges[k]
        if low < -1e8:
            first = high - GAP_LEAST - STRAND * (strands[k] - 0.5)
        elif high > 1e8:
            first = low + GAP_LEAST + STRAND / 2
        else:
            first = (low + high) / 2 - STRAND * (strands[k] - 1) / 2
        for group in groups:
            for block in group.blocks:
                slots[block.part] = [first, start, start + deep]
            first += STRAND * group.strands
    return list(zip(mine, tops, strict=True)), deep, slots


def _depth(s: SideFrame, groups: list[Group], wide: list[float]) -> float:
    """How deep a lane is, from the board outwards."""
    if s.beside:
        deep = max(b.deep for g in groups for b in g.blocks)
        return sum(wide[:deep]) + s.gap * (deep - 1)

    def high(block: Block) -> float:
        own = s.form(block.part, s.natural(block.part)).h
        return own + max((s.gap + high(b) for b in block.below), default=0.0)

    return max(high(b) for g in groups for b in g.blocks)


def _cards(
    s: SideFrame,
    block: Block,
    top: float,
    start: float,
    wide: list[float],
    level: int,
    channels: dict[str, list[float]],
) -> list[Card]:
    """A card, and further out those of what hangs on it; `start` is the distance of its inner edge from
    the board's middle."""
    shape = s.form(block.part, _width(s, block.part, wide, level))
    along = top + (block.length - block.own) / 2
    match s.side:
        case "left":
            x, y, deep = -start - shape.w, along, shape.w
        case "right":
            x, y, deep = start, along, shape.w
        case "above":
            x, y, deep = along, -start - shape.h, shape.h
        case _:
            x, y, deep = along, start, shape.h
    cards = [_card(s, block.part, x, y, shape, tuple(channels.get(block.part, ())))]
    tall = sum(b.length for b in block.below) + GAP_LEAST * max(0, len(block.below) - 1)
    at = top + (block.length - tall) / 2
    for child in block.below:
        cards += _cards(s, child, at, start + deep + s.gap, wide, level + 1, channels)
        at += child.length + GAP_LEAST
    return cards


def _card(s: SideFrame, part: str, x: float, y: float, shape: Form, channel: tuple[float, ...]) -> Card:
    """A card in its place."""
    shown, was = showing(s.circuit, part, s.setting.stacked), s.before.get(part)
    contacts = (*(c for row in shown.rows for c in row if c), *shown.tags)
    if (
        was is not None
        and was.form is shape
        and (was.side, was.x, was.y, was.channel) == (s.side, x, y, channel)
        and tuple(spot.contact for spot in was.leads) == contacts
    ):
        return was
    return Card(part, s.side, x, y, shape, _spots(s, contacts, shape, x, y, channel), channel)


def _spots(
    s: SideFrame, contacts: tuple[str, ...], shape: Form, x: float, y: float, channel: tuple[float, ...]
) -> tuple[LeadSpot, ...]:
    """The leads of a card, each with the way that its cord takes first."""
    inward = {"left": (1.0, 0.0), "right": (-1.0, 0.0), "above": (0.0, 1.0), "below": (0.0, -1.0)}[s.side]
    spots = []
    strand = tags = 0
    for contact, slot in zip(contacts, shape.slots, strict=True):
        here = (x + slot.x, y + slot.y)
        box = (x + slot.box[0], y + slot.box[1], slot.box[2], slot.box[3])
        way: tuple[tuple[float, float], ...] = ()
        if slot.tag:
            way = _round_card(s.side, shape, x, y, here, slot.out, tags)
            tags += 1
        if channel and (slot.tag or slot.out == inward):
            first, near, far = channel
            at = first + STRAND * strand
            strand += not slot.tag
            sign = -1.0 if s.side in ("left", "above") else 1.0
            ends = ((sign * far, at), (sign * near, at))
            way = (*way, *(ends if s.beside else ((b, a) for a, b in ends)))
        spots.append(LeadSpot(contact, *here, inward if slot.tag else slot.out, box, way, slot.tag))
    return tuple(spots)


def _round_card(
    side: Side,
    shape: Form,
    x: float,
    y: float,
    here: tuple[float, float],
    out: tuple[float, float],
    number: int,
) -> tuple[tuple[float, float], ...]:
    """The way of a tag's cord from its symbol round the card towards the board, beside those of the card's
    other tags."""
    under = y + shape.h + UNDER[number % len(UNDER)]
    aside = ASIDE * (1 + number)
    if side in ("left", "right"):
        inner = x + shape.w + aside if side == "left" else x - aside
        if out[0]:  # at the card's outer edge
            beside = here[0] + out[0] * aside
            return ((beside, here[1]), (beside, under), (inner, under))
        if here[1] - y < max(slot.y for slot in shape.slots if slot.tag):
            under = here[1] + TAG_H / 2  # between this line of tags and the next
        return ((here[0], under), (inner, under))
    # above or below the board: under its line of tags, and along the card's left edge, clear of its words
    first_in_line = here[0] - x < 2 * PAD
    level = here[1] if first_in_line else here[1] + TAG_H / 2
    inner = y + shape.h + aside if side == "above" else y - aside
    way = ((x - aside, level), (x - aside, inner))
    return way if first_in_line else ((here[0], level), *way)

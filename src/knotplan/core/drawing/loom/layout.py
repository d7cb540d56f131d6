"""Lays a circuit out on the bench: the board as it lies, parts along two of its sides.

What was laid out before stays where it was, but for parts whose own ties changed.
"""

from collections.abc import Sequence
from typing import Literal

from msgspec.structs import replace

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.beads import bead_room
from knotplan.core.drawing.loom.bench import Bench, Card, LeadSpot, Setting, loop_of
from knotplan.core.drawing.loom.board_place import BoardPlace, PinSpot, board_place
from knotplan.core.drawing.loom.form import Side
from knotplan.core.drawing.loom.lanes import GAP_LEAST
from knotplan.core.drawing.loom.one_side import Chains, SideFrame, chain, lay_side
from knotplan.core.drawing.loom.order import kept, ordered
from knotplan.core.drawing.loom.sides import on_sides, sides_of
from knotplan.core.drawing.loom.tree import Strand, Tree, strands, tree_of
from knotplan.core.plan.document import split

ALLEY, ALLEY_FULL, ALLEY_LYING, ALLEY_MOST = 84.0, 120.0, 60.0, 190.0
"""width of the space for cords between cards and board: beside it, there in full detail, and above and below
it"""
NEAR = 30.0
"""room beside the board where no cords are"""
HUB_GAP, HUB_GAP_LYING = 58.0, 36.0
"""between a hub and what hangs on it, beside the board, and above and below it"""
BEAD_ROOM = 16.0
"""kept free beside the widest bead of an alley"""


Drawn = dict[str, list[Strand]]
"""the cords of each part"""


def arrange(circuit: Circuit, setting: Setting, before: Bench | None = None, alley: float = 0.0) -> Bench:
    """The bench of a circuit in one setting; `alley` is the room for cords, never less than they need."""
    plan = circuit.plan
    place = board_place(circuit.board, circuit.scheme, plan.turned, plan.flipped, setting.pitch, True)
    room = bead_room(circuit, place.lying)
    least = ALLEY_LYING if place.lying else ALLEY_FULL if setting.detail.summary else ALLEY
    alley = max(alley, least, room[0] + BEAD_ROOM)
    gap = max(HUB_GAP_LYING if place.lying else HUB_GAP, room[1] + BEAD_ROOM)
    tree = tree_of(circuit)
    follows = _follows(tree, setting.stacked)
    frames = _frames(circuit, setting, place, alley, gap)
    cards: list[Card] = []
    order: dict[str, tuple[str, ...]] = {}
    ends: dict[str, tuple[float, ...]] = {}
    same = before if before is not None and before.setting == setting and before.board == place.box else None
    lengths = _lengths(circuit, frames, follows, tree)
    drawn = {part: strands(circuit, part) for part in circuit.parts}
    pins = {p: _pins(drawn, place, (p, *tree.below(p))) for p in lengths}
    for side, parts in on_sides(circuit, place, lengths, pins, before).items():
        keys = {p: [_key(spot, side, place) for spot in pins[p]] for p in parts}
        in_order = _as_put(circuit, _in_order(parts, keys, side, before))
        order[side] = tuple(in_order)
        ends |= {p: tuple(k) for p, k in keys.items()}
        frame = frames[side]
        if not any(keys.values()):
            frame = frame._replace(start=frame.start - alley + NEAR)
        if same:
            frame = frame._replace(was_wide=_widths_of(same, side, tree), before=same.by_part)
        cards += lay_side(frame, [(p, keys[p]) for p in in_order], follows, tree)
    if same:
        cards = _as_before(cards, same)
    by_part = {c.part: c for c in cards}
    leads = {spot.contact: spot for card in cards for spot in card.leads}
    return Bench(
        place.box,
        place.lying,
        setting,
        alley,
        place.pins,
        tuple(cards),
        by_part,
        leads,
        tree.inside,
        order,
        ends,
        _loops(drawn, by_part, leads),
        frozenset(p.id for p in plan.parts if p.side),
        round_corners=_round_corners(drawn, place, leads),
    )


def _widths_of(before: Bench, side: Side, tree: Tree) -> tuple[float, ...]:
    """How wide the cards of a side were at each distance from the board."""
    wide: dict[int, float] = {}
    for card in before.cards:
        if card.side == side:
            level = 0 if before.setting.stacked else tree.depth(card.part)
            wide[level] = max(wide.get(level, 0.0), card.w)
    return tuple(wide[level] for level in sorted(wide))


def _frames(
    circuit: Circuit, setting: Setting, place: BoardPlace, alley: float, gap: float
) -> dict[Side, SideFrame]:
    """What is given for each side before any card lies there."""
    x, y, w, h = place.box
    half, low, long = (h / 2, x, w) if place.lying else (w / 2, y, h)
    return {
        side: SideFrame(circuit, side, setting, half + alley, low, low + long, gap)
        for side in sides_of(place.lying)
    }


def _lengths(
    circuit: Circuit, frames: dict[Side, SideFrame], follows: Chains, tree: Tree
) -> dict[str, float]:
    """How much of a side each part takes with all that stands after it."""
    frame = next(iter(frames.values()))
    heads = [p for p in circuit.parts if p not in tree.parent and tree.head(p) == p]
    return {p: sum(frame.length(q, frame.natural(q)) + GAP_LEAST for q in chain(follows, p)) for p in heads}


def _in_order(parts: list[str], keys: dict[str, list[float]], side: Side, before: Bench | None) -> list[str]:
    """The parts of a side along the board; only those whose own cords changed leave their place."""
    if before is None:
        return ordered(parts, keys)
    free = {p for p in parts if before.ends.get(p) != tuple(keys[p])}
    return kept(parts, keys, list(before.order.get(side, ())), free)


def _as_put(circuit: Circuit, order: list[str]) -> list[str]:
    """The order with each part that the maker has put somewhere in its place."""
    put = sorted((circuit.placed[p].place, p) for p in order if circuit.placed[p].place >= 0)
    mine = {p for _, p in put}
    rest = [p for p in order if p not in mine]
    for place, part in put:
        rest.insert(min(place, len(rest)), part)
    return rest


def put_where(
    bench: Bench, x: float, y: float, moving: frozenset[str]
) -> tuple[Literal["left", "right"], int]:
    """The side and the place along it that a point on the bench means, for cards that are moved there."""
    sides = sides_of(bench.lying)
    second = (y if bench.lying else x) > 0
    side, along = sides[second], x if bench.lying else y
    heads = [p for p in bench.order.get(side, ()) if p not in moving]
    cards = [bench.by_part[p] for p in heads]
    before = sum((c.x + c.w / 2 if bench.lying else c.y + c.h / 2) < along for c in cards)
    return ("right" if second else "left"), before


def _round_corners(drawn: Drawn, place: BoardPlace, leads: dict[str, LeadSpot]) -> frozenset[str]:
    """The tied pins whose cords leave over an edge that no parts stand at."""
    return frozenset(
        t.to
        for cords in drawn.values()
        for t in cords
        if t.to in place.pins and place.pins[t.to].out[not place.lying] and t.lead in leads
    )


def _loops(drawn: Drawn, cards: dict[str, Card], leads: dict[str, LeadSpot]) -> dict[str, float]:
    """How far outside cords go round from card to card, by side."""
    loops: dict[str, float] = {}
    for strand in (strand for cords in drawn.values() for strand in cords):
        lead, other = leads.get(strand.lead), leads.get(strand.to)
        if lead is None or other is None or lead.out != other.out or lead.tag:
            continue
        side = cards[split(strand.lead)[0]].side
        apart = abs(lead.y - other.y) if lead.out[0] else abs(lead.x - other.x)
        loops[side] = max(loops.get(side, 0.0), loop_of(apart) + 4)
    return loops


def _as_before(cards: list[Card], before: Bench) -> list[Card]:
    """Cards where they were, if each side still has the same cards of the same size in the same order."""
    sides = {card.side for card in cards}
    same = []
    for side in sides:
        now = [(c.part, c.w, c.h, c.x if side in ("left", "right") else c.y) for c in cards if c.side == side]
        was = [
            (c.part, c.w, c.h, c.x if side in ("left", "right") else c.y)
            for c in before.cards
            if c.side == side
        ]
        same += [side] if now == was else []
    there = {c.part: c for c in before.cards if c.side in same}
    return [
        _moved(card, there[card.part].x - card.x, there[card.part].y - card.y) if card.part in there else card
        for card in cards
    ]


def _moved(card: Card, dx: float, dy: float) -> Card:
    if not dx and not dy:
        return card
    leads = tuple(
        replace(
            s,
            x=s.x + dx,
            y=s.y + dy,
            box=(s.box[0] + dx, s.box[1] + dy, s.box[2], s.box[3]),
            way=tuple((x + dx, y + dy) for x, y in s.way),
        )
        for s in card.leads
    )
    return replace(card, x=card.x + dx, y=card.y + dy, leads=leads)


# --- what belongs together ------------------------------------------------------------------------


def _follows(tree: Tree, stacked: bool) -> Chains:
    """What stands next after each part: the next of its daisy chain; where hubs are stacked, also what
    hangs on it."""
    follows: Chains = {}
    if stacked:
        for hub, children in tree.children.items():
            follows[hub] = [c for c in children if c not in tree.inside]
    for part, one_before in tree.after.items():
        if part not in tree.inside:
            follows.setdefault(one_before, []).append(part)
    return follows


def _pins(drawn: Drawn, place: BoardPlace, parts: Sequence[str]) -> list[PinSpot]:
    """Where the cords of parts end on the board, in the order of their leads."""
    return [place.pins[strand.to] for part in parts for strand in drawn[part] if strand.to in place.pins]


def _key(spot: PinSpot, side: Side, place: BoardPlace) -> float:
    """Where along a side a pin's cord comes to it."""
    _, _, w, h = place.box
    if place.lying:
        across, along, out, half, edge = spot.y, spot.x, spot.out[::-1], h / 2, w / 2
    else:
        across, along, out, half, edge = spot.x, spot.y, spot.out, w / 2, h / 2
    if out[0]:
        return along
    near = half + (across if side in ("left", "above") else -across)
    return out[1] * (edge + 16 + 0.1 * near)

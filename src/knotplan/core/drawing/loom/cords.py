"""The way of each cord from its lead to its pin."""

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.cords import colour_of
from knotplan.core.drawing.loom.beads import place_beads
from knotplan.core.drawing.loom.bench import Bench, LeadSpot, loop_of
from knotplan.core.drawing.loom.board_place import PIN_R, PinSpot
from knotplan.core.drawing.loom.tree import strands
from knotplan.core.plan.document import Tie, split

LEVEL = 16.0
"""a cord whose ends differ by less is level"""
LEAN_STEP, LEAN_MOST = 0.25, 0.6
"""how much later one cord changes its level than the next that goes the same way; the most for all of them"""
ASIDE = 11.0
"""how far beside a pin's row a cord passes it"""

Piece = tuple[float, float, float, float, float, float]


class Cord(Struct, frozen=True):
    """A tie as drawn: cubic pieces, colour by name, places of its beads."""

    tie: str
    start: tuple[float, float]
    pieces: tuple[Piece, ...]
    colour: str
    beads: tuple[tuple[float, float, str], ...]


def to_pin(bench: Bench, lead: LeadSpot, pin: PinSpot, lean: float = 0.0) -> tuple[Piece, ...]:
    """From a lead to a pin: on the lead's own way first, then smoothly to the board's edge, and on to the pin
    where it lies further in. `lean`: how much later (to 1) or earlier (to -1) than halfway it changes its
    level."""
    pieces = _on_its_way(lead)
    start = lead.way[-1] if lead.way else (lead.x, lead.y)
    if not lead.out[0]:  # above or below the board: the same with x and y exchanged
        x, y, w, h = bench.board
        there = _freely(start[::-1], lead.out[1], _exchanged(pin), (y, x, h, w), lean)
        return (*pieces, *((b, a, d, c, f, e) for a, b, c, d, e, f in there))
    return (*pieces, *_freely(start, lead.out[0], pin, bench.board, lean))


def _exchanged(pin: PinSpot) -> PinSpot:
    return replace(pin, x=pin.y, y=pin.x, exit_x=pin.exit_y, exit_y=pin.exit_x, out=(pin.out[1], pin.out[0]))


def _on_its_way(lead: LeadSpot) -> tuple[Piece, ...]:
    """Through the places that a lead's cord passes first: straight where two lie in a line, else in a bow."""
    pieces, (x, y) = [], (lead.x, lead.y)
    for to_x, to_y in lead.way:
        if x == to_x or y == to_y:
            pieces.append((x, y, to_x, to_y, to_x, to_y))
        elif lead.out[0]:
            half = (x + to_x) / 2
            pieces.append((half, y, half, to_y, to_x, to_y))
        else:
            half = (y + to_y) / 2
            pieces.append((x, half, to_x, half, to_x, to_y))
        x, y = to_x, to_y
    return tuple(pieces)


def _freely(
    start: tuple[float, float],
    facing: float,
    pin: PinSpot,
    board: tuple[float, float, float, float],
    lean: float,
) -> tuple[Piece, ...]:
    """From a place beside the board, from which the cord leaves to the right (1) or to the left (-1)."""
    x, y = start
    if not pin.out[0]:
        return (*_round_corner(x, y, facing, pin, board), *_inwards(pin))
    near = pin.out[0] == -facing
    same = near and not pin.behind
    end_x = pin.exit_x if near else -pin.exit_x
    end_y = pin.exit_y if same else pin.exit_y - ASIDE  # between the rows
    bend = max(24.0, abs(x - end_x) * 0.5)
    first = (
        x + facing * bend * (1 + lean),
        y,
        end_x - facing * bend * (1 - lean),
        end_y,
        end_x,
        end_y,
    )
    if same:
        return (first,)
    beyond = pin.x - facing * 12
    return (
        first,
        (end_x, end_y, beyond, end_y, beyond, end_y),
        (beyond + facing * 6, end_y, pin.x, end_y + 2, pin.x, pin.y - PIN_R + 1),
    )


def _round_corner(
    x: float, y: float, facing: float, pin: PinSpot, board: tuple[float, float, float, float]
) -> tuple[Piece, ...]:
    """To a pin whose cord leaves over another edge than the one that the lead looks at."""
    way = pin.out[1]
    if (y - pin.exit_y) * way < 16:  # level with the board or behind it: round its corner first
        x0, _, w, _ = board
        corner = x0 - 22 if facing > 0 else x0 + w + 22
        level = pin.exit_y + way * (16 + 0.1 * abs(corner - pin.exit_x))  # one cord within another
        half = (x + corner) / 2
        return (
            (half, y, half, level, corner, level),
            (corner + (pin.exit_x - corner) * 0.6, level, pin.exit_x, level, pin.exit_x, pin.exit_y),
        )
    bend = max(30.0, abs(x - pin.exit_x) * 0.45)
    lift = max(24.0, abs(y - pin.exit_y) * 0.5)
    return ((x + facing * bend, y, pin.exit_x, pin.exit_y + way * lift, pin.exit_x, pin.exit_y),)


def _inwards(pin: PinSpot) -> tuple[Piece, ...]:
    """From the board's edge to a pin that lies behind another, between the columns."""
    if not pin.behind:
        return ()
    x, y, r = pin.exit_x, pin.y + pin.out[1] * (PIN_R + 5), PIN_R - 1
    return (x, pin.exit_y, x, y, x, y), (x, y - pin.out[1] * r, pin.x + r, pin.y, pin.x + r, pin.y)


def to_lead(lead: LeadSpot, other: LeadSpot) -> tuple[Piece, ...]:
    """From a lead to another part's lead: on each one's own way, between them across the gap where they face
    each other, else round outside."""
    a = lead.way[-1] if lead.way else (lead.x, lead.y)
    b = other.way[-1] if other.way else (other.x, other.y)
    (ax, ay), (bx, by) = lead.out, other.out
    dx, dy = b[0] - a[0], b[1] - a[1]
    if (ax, ay) == (bx, by):  # side by side
        first = second = loop_of(abs(dy) if ax else abs(dx)) / 0.75
        first += max(0.0, dx * ax + dy * ay)
        second -= min(0.0, dx * ax + dy * ay)
    else:
        along = dx * ax + dy * ay
        first = second = max(24.0 if along > 0 else 70.0, abs(along) * 0.5)
    between = (a[0] + ax * first, a[1] + ay * first, b[0] + bx * second, b[1] + by * second, *b)
    return (*_on_its_way(lead), between, *_backwards(b, other))


def _backwards(start: tuple[float, float], lead: LeadSpot) -> tuple[Piece, ...]:
    """The way of a lead from its end to the lead itself."""
    back = LeadSpot(lead.contact, *start, lead.out, lead.box, (*lead.way[-2::-1], (lead.x, lead.y)))
    return _on_its_way(back) if lead.way else ()


def points(
    start: tuple[float, float], pieces: tuple[Piece, ...], steps: int = 10
) -> list[tuple[float, float]]:
    """Points along a cord, `steps` to a piece."""
    made, (x0, y0) = [start], start
    for x1, y1, x2, y2, x3, y3 in pieces:
        for k in range(1, steps + 1):
            t = k / steps
            u = 1 - t
            made.append(
                (
                    u**3 * x0 + 3 * u * u * t * x1 + 3 * u * t * t * x2 + t**3 * x3,
                    u**3 * y0 + 3 * u * u * t * y1 + 3 * u * t * t * y2 + t**3 * y3,
                )
            )
        x0, y0 = x3, y3
    return made


def cords(circuit: Circuit, bench: Bench, whole: frozenset[str] = frozenset()) -> tuple[Cord, ...]:
    """The cords of signals, and those of the ties in `whole`, be they supplies or grounds."""
    wanted = whole.union(s.tie for part in circuit.parts for s in strands(circuit, part))
    drawn = [tie for tie in circuit.plan.ties if tie.id in wanted]
    leans = _leans(bench, drawn)
    ways = [
        (tie, start, pieces)
        for tie in drawn
        for start, pieces in _way(bench, tie, tie.id in whole, leans.get(tie.id, 0.0))
    ]
    beads = place_beads(bench, [(tie, points(start, pieces)) for tie, start, pieces in ways if tie.beads])
    return tuple(
        Cord(tie.id, start, pieces, colour_of(circuit, tie), beads.get(tie.id, ()))
        for tie, start, pieces in ways
    )


def _leans(bench: Bench, ties: list[Tie]) -> dict[str, float]:
    """How much later than halfway each cord to the board changes its level, so that cords that go the same
    way do not run along one another: of several that go down, the uppermost last."""
    bundles: dict[tuple[str, bool], list[tuple[float, str]]] = {}
    for tie in ties:
        lead, pin = bench.leads.get(tie.lead), bench.pins.get(tie.to)
        if (
            lead is None
            or pin is None
            or lead.tag
            or not (lead.out[0] * pin.out[0] + lead.out[1] * pin.out[1])
        ):
            continue
        x, y = lead.way[-1] if lead.way else (lead.x, lead.y)
        start, end = (y, pin.exit_y) if lead.out[0] else (x, pin.exit_x)
        if abs(end - start) > LEVEL:
            side = bench.card(split(tie.lead)[0]).side
            bundles.setdefault((side, end > start), []).append((start, tie.id))
    leans = {}
    for (_, down), bundle in bundles.items():
        bundle.sort(reverse=not down)
        for k, (_, tie_id) in enumerate(bundle):
            leans[tie_id] = min(LEAN_MOST, LEAN_STEP * (len(bundle) - 1)) * (
                1 - 2 * k / max(1, len(bundle) - 1)
            )
    return leans


def _way(
    bench: Bench, tie: Tie, whole: bool, lean: float
) -> Iterator[tuple[tuple[float, float], tuple[Piece, ...]]]:
    """Where a tie's cord begins, and its pieces; nothing where it is folded away."""
    lead, folded = bench.spot(tie.lead), split(tie.lead)[0] in bench.inside
    if lead is None or (folded and not whole):
        return
    if tie.to in bench.pins:
        yield (lead.x, lead.y), to_pin(bench, lead, bench.pins[tie.to], lean)
        return
    other = bench.spot(tie.to)
    if other is not None:
        yield (lead.x, lead.y), to_lead(lead, other)

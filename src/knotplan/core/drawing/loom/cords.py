"""The way of each cord from its lead to its pin."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import LOOP, Bench, LeadSpot, is_stub
from knotplan.core.drawing.loom.board_place import PinSpot
from knotplan.core.plan.beads import Bead
from knotplan.core.plan.document import Tie, split
from knotplan.core.text.beads import bead_words

Piece = tuple[float, float, float, float, float, float]


class Cord(Struct, frozen=True):
    """A tie as drawn: cubic pieces, colour by name, places of its beads."""

    tie: str
    start: tuple[float, float]
    pieces: tuple[Piece, ...]
    colour: str
    stub: bool
    end: str
    """"ground" or "supply" for a stub"""
    beads: tuple[tuple[float, float, str], ...]


def colour_of(circuit: Circuit, tie: Tie) -> str:
    """The cord's colour: the maker's, or the lead's usual one."""
    lead = circuit.contacts.lead(tie.lead)
    return tie.cord or (lead.cord if lead else "grey")


def to_pin(bench: Bench, lead: LeadSpot, pin: PinSpot) -> tuple[Piece, ...]:
    """From a lead to a pin: smoothly to the board's edge, then to the pin where it lies further in."""
    facing = lead.out
    side = "left" if lead.x < 0 else "right"
    if not pin.out[0]:
        if (lead.y - pin.exit_y) * pin.out[
            1
        ] < 16:  # level with the board or behind it: round its corner first
            x0, _, w, _ = bench.board
            corner = x0 - 22 if side == "left" else x0 + w + 22
            level = pin.exit_y + pin.out[1] * (16 + 0.1 * abs(corner - pin.exit_x))  # one cord within another
            half = (lead.x + corner) / 2
            return (
                (half, lead.y, half, level, corner, level),
                (corner + (pin.exit_x - corner) * 0.6, level, pin.exit_x, level, pin.exit_x, pin.exit_y),
                *_inwards(pin),
            )
        bend = max(40.0, abs(lead.x - pin.exit_x) * 0.45)
        lift = max(30.0, abs(lead.y - pin.exit_y) * 0.5)
        return (
            (
                lead.x + facing * bend,
                lead.y,
                pin.exit_x,
                pin.exit_y + pin.out[1] * lift,
                pin.exit_x,
                pin.exit_y,
            ),
            *_inwards(pin),
        )
    near = pin.out[0] == -facing
    same = near and not pin.behind
    x = pin.exit_x if near else -pin.exit_x
    y = pin.exit_y if same else pin.exit_y - 14.5  # between the rows
    bend = max(44.0, abs(lead.x - x) * 0.55)
    first = (lead.x + facing * bend, lead.y, x - facing * bend, y, x, y)
    if same:
        return (first,)
    beyond = pin.x - facing * 14
    return first, (x, y, beyond, y, beyond, y), (beyond + facing * 7, y, pin.x, y + 2, pin.x, pin.y - 8)


def _inwards(pin: PinSpot) -> tuple[Piece, ...]:
    """From the board's edge to a pin that lies behind another, between the columns."""
    if not pin.behind:
        return ()
    x, y = pin.exit_x, pin.y + pin.out[1] * 14
    return (x, pin.exit_y, x, y, x, y), (x, y - pin.out[1] * 8, pin.x + 8, pin.y, pin.x + 8, pin.y)


def to_lead(lead: LeadSpot, other: LeadSpot) -> tuple[Piece, ...]:
    """From a lead to another part's lead."""
    a, b = lead.out, other.out
    facing = (other.x - lead.x) * a > 0 and a != b
    near = abs(lead.x - other.x) < 1 and abs(lead.y - other.y) < 200  # the next in a daisy chain
    if near:
        bend = LOOP * 1.3
    elif a == b:
        bend = 90.0
    else:
        bend = max(40.0 if facing else 90.0, abs(lead.x - other.x) * 0.4)
    return ((lead.x + a * bend, lead.y, other.x + b * bend, other.y, other.x, other.y),)


def along(start: tuple[float, float], pieces: tuple[Piece, ...], t: float) -> tuple[float, float]:
    """The point at `t` (0 to 1) of the first piece."""
    (x0, y0), (x1, y1, x2, y2, x3, y3) = start, pieces[0]
    u = 1 - t
    return (
        u**3 * x0 + 3 * u * u * t * x1 + 3 * u * t * t * x2 + t**3 * x3,
        u**3 * y0 + 3 * u * u * t * y1 + 3 * u * t * t * y2 + t**3 * y3,
    )


def _placed(
    start: tuple[float, float], pieces: tuple[Piece, ...], beads: tuple[Bead, ...]
) -> Iterator[tuple[float, float, str]]:
    """Beads along the cord; of several, each stands a little higher or lower than its
    neighbour, so that all can be read."""
    many = len(beads)
    for k, bead in enumerate(beads):
        x, y = along(start, pieces, 0.42 if many == 1 else 0.22 + 0.6 * k / (many - 1))
        aside = -9.0 if k % 2 else 9.0
        yield x, y if many == 1 else y + aside, bead_words(bead)


def tag(circuit: Circuit, tie: Tie, lead: str) -> str:
    """Where a stub leads to, in a few words: "GND pos 5", "5 V brick +5 V"."""
    other = circuit.ties.other_end(tie, lead)
    pin = circuit.contacts.pin(other)
    if pin is None:
        return circuit.titles.of(other).replace(" · ", " ")
    place = circuit.titles.place(other)
    return f"{pin.names.get('label') or circuit.titles.of(other)} {place}".strip()


def _stub(circuit: Circuit, tie: Tie, lead: LeadSpot) -> Cord:
    facing = lead.out
    x = lead.x + facing * 20
    return Cord(
        tie.id,
        (lead.x, lead.y),
        ((lead.x + facing * 6, lead.y, x - facing * 6, lead.y, x, lead.y),),
        colour_of(circuit, tie),
        True,
        "ground" if circuit.nets.is_ground(tie.to) else "supply",
        (),
    )


def cords(circuit: Circuit, bench: Bench, whole: frozenset[str] = frozenset()) -> tuple[Cord, ...]:
    """All cords; the ties in `whole` are drawn to their end even where stubs would do."""
    shapes = []
    for tie in circuit.plan.ties:
        lead, folded = bench.spot(tie.lead), split(tie.lead)[0] in bench.inside
        if lead is None or (folded and tie.id not in whole):
            continue
        if is_stub(circuit, tie.lead) and tie.id not in whole:
            if tie.lead in bench.leads:
                shapes.append(_stub(circuit, tie, lead))
            continue
        if tie.to in bench.pins:
            pieces = to_pin(bench, lead, bench.pins[tie.to])
        else:
            other = bench.spot(tie.to)
            if other is None:
                continue
            pieces = to_lead(lead, other)
        start = (lead.x, lead.y)
        beads = tuple(_placed(start, pieces, tie.beads))
        shapes.append(Cord(tie.id, start, pieces, colour_of(circuit, tie), False, "", beads))
    return tuple(shapes)

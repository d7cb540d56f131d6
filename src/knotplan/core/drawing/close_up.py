"""The place of one cord, large enough to be read from a metre: the hole on the board as it lies, its row
counted from the nearer end, the cord in its colour, what lies beside it, and what must not be hit.
"""

from collections.abc import Collection, Iterator

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.board_place import LABEL, PIN_R, BoardPlace, PinSpot, board_place
from knotplan.core.drawing.loom.board_shapes import Lying, board_shapes
from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import BAND_COLOURS, BODY_COLOUR, CORDS, Palette
from knotplan.core.drawing.shapes import Box, Curve, Disc, Picture, Shape, Text, text_width
from knotplan.core.plan.beads import Bead, SeriesResistor
from knotplan.core.plan.document import BOARD, split
from knotplan.core.quantity.series import bands
from knotplan.core.text.beads import bead_words
from knotplan.core.wiring.steps import Step

READABLE = 24.0
"""pixels of the words in it, at least: what is read from a metre"""
LEAST_SCALE = READABLE / LABEL
MOST_SCALE = 3.6
ACROSS = 190.0
"""points of the board that are shown across the shorter side, where there is room for more than that"""
CORD, CORD_EDGE = 6.5, 9.0
REACH = 400.0
NUMBER, APART = 11.0, 16.5
RING = PIN_R + 3.4
LEAST_EDGE = 24.0
"""of the ground beside the board that is shown"""
BODY, BODY_HIGH = 40.0, 15.0
"""of a resistor on a cord"""
GAP = 9.0
PLUG = 9.5
"""from a socket's middle to its rim"""
ROW, SHOWN, CARD = 34.0, 2, 210.0
"""of a part's contacts: from one to the next, so many to either side, and how wide their card is"""


def close_up(c: Circuit, step: Step, harm: Collection[str], room: tuple[float, float], p: Palette) -> Picture:
    """The place of a step, as much of it as a room of (width, height) in pixels shows."""
    w, h = room
    on_board = bool(step.to) and split(step.to)[0] == BOARD
    across = min(w, h) / ACROSS if on_board else min(w / CARD, h / (ROW * (2 * SHOWN + 2)))
    scale = max(LEAST_SCALE, min(MOST_SCALE, across))
    draw = _on_board if on_board else _on_part
    return draw(c, step, harm, (w / scale, h / scale), p)


# --- a hole of the board ------------------------------------------------------------------------------


def _on_board(
    c: Circuit, step: Step, harm: Collection[str], room: tuple[float, float], p: Palette
) -> Picture:
    lying = Lying(c.scheme, c.plan.turned, c.plan.flipped)
    place = board_place(c.board, *lying)
    spot = place.pins[step.to]
    x, y = _window(place, spot, room, _outside(step))
    shapes: list[Shape] = [*board_shapes(c.board, lying, c.supplies.live_rails, c.supplies.socket, p)]
    shapes += _cord(step, spot, p)
    if not spot.socket:
        shapes += _label_above(c, spot, p)
        shapes += _counted(place, step, p)
        shapes += _end_beyond(place, step, (x, y, *room), p)
        shapes.append(Disc(spot.x, spot.y, RING, "", p.active, 2.6))
    for contact in harm:
        if contact in place.pins:
            other = place.pins[contact]
            dx, dy = _inwards(other)
            shapes += severity(other.x + dx * (PIN_R + 8), other.y + dy * (PIN_R + 8), "stop", p, 7)
    return Picture(x, y, *room, p.cloth, tuple(shapes))


def _window(
    place: BoardPlace, spot: PinSpot, room: tuple[float, float], outside: float
) -> tuple[float, float]:
    """The upper left corner of what is shown: the hole in the middle, a little towards where its cord comes
    from, and no more of the bare ground than has to be."""
    x, y, w, h = place.box
    cx, cy = spot.x + spot.out[0] * room[0] * 0.12, spot.y + spot.out[1] * room[1] * 0.12

    def along(middle: float, start: float, length: float, shown: float, out: float) -> float:
        """Where it begins; `out` is the side on which the cord comes."""
        before, after = (outside if out < 0 else LEAST_EDGE), (outside if out > 0 else LEAST_EDGE)
        if length + before + after <= shown:
            return start - before - (shown - length - before - after) / 2
        return min(max(middle - shown / 2, start - before), start + length + after - shown)

    return along(cx, x, w, room[0], spot.out[0]), along(cy, y, h, room[1], spot.out[1])


def _cord(step: Step, spot: PinSpot, p: Palette) -> Iterator[Shape]:
    """From beyond the picture over the board's edge into the hole."""
    ink = CORDS.get(step.colour, p.faint)
    ox, oy = spot.out
    far = (spot.exit_x + ox * REACH, spot.exit_y + oy * REACH)
    start = (spot.x + ox * PLUG, spot.y + oy * PLUG) if spot.socket else (spot.x, spot.y)
    edge = (spot.exit_x, spot.exit_y)
    pieces = ((*start, *edge, *edge), (*edge, *far, *far))
    yield Curve(start, pieces, p.cord_edge, CORD_EDGE)
    yield Curve(start, pieces, ink, CORD)
    if not spot.socket:
        yield Disc(spot.x, spot.y, 4.6, ink, p.cord_edge, 1.4)
    at = GAP
    for bead in reversed(step.beads):
        long = _length(bead)
        yield from _bead(
            bead, spot.exit_x + ox * (at + long / 2), spot.exit_y + oy * (at + long / 2), ox == 0, p
        )
        at += long + GAP


def _outside(step: Step) -> float:
    """How much of the ground is shown on the side from which the cord comes: room for its beads."""
    return LEAST_EDGE + GAP + sum(_length(b) + GAP for b in step.beads)


def _length(bead: Bead) -> float:
    return BODY if isinstance(bead, SeriesResistor) else text_width(bead_words(bead), LABEL, True) + 14


def _bead(bead: Bead, x: float, y: float, upright: bool, p: Palette) -> Iterator[Shape]:
    """A resistor with its bands, read from the pin; other beads in words."""
    if not isinstance(bead, SeriesResistor):
        w = _length(bead)
        yield Box(x - w / 2, y - 10, w, 20, 5, p.card, p.ink, 1.4)
        yield Text(x, y + 4.3, bead_words(bead), LABEL, p.ink, True, "middle")
        return
    w, h = (BODY_HIGH, BODY) if upright else (BODY, BODY_HIGH)
    yield Box(x - w / 2, y - h / 2, w, h, 6, BODY_COLOUR, p.cord_edge, 1.2)
    marks = bands(bead.ohm, bead.tolerance)
    for k, name in enumerate(marks):
        along = -BODY / 2 + 7 + k * (BODY - 14) / max(1, len(marks) - 1)
        bx, by = (x, y + along) if upright else (x + along, y)
        bw, bh = (BODY_HIGH - 2, 3.6) if upright else (3.6, BODY_HIGH - 2)
        yield Box(bx - bw / 2, by - bh / 2, bw, bh, 0, BAND_COLOURS[name])


def _label_above(c: Circuit, spot: PinSpot, p: Palette) -> Iterator[Shape]:
    """The name of the hole, over the cord."""
    text = c.board.name(split(spot.contact)[1], c.scheme)
    w = text_width(text, LABEL, True) + 8
    if spot.label_angle:
        top = spot.label_y - w + 4 if spot.label_anchor == "start" else spot.label_y - 4
        yield Box(spot.label_x - 12, top, 17, w, 4, p.active)
    else:
        left = {"start": spot.label_x - 4, "end": spot.label_x - w + 4}.get(
            spot.label_anchor, spot.label_x - w / 2
        )
        yield Box(left, spot.label_y - 12, w, 17, 4, p.active)
    yield Text(
        spot.label_x,
        spot.label_y,
        text,
        LABEL,
        p.card,
        bold=True,
        anchor=spot.label_anchor,
        angle=spot.label_angle,
    )


def _inwards(spot: PinSpot) -> tuple[float, float]:
    """Away from a pin's name."""
    if spot.label_angle:
        return 0.0, 1.0 if spot.label_y < spot.y else -1.0
    return (-1.0 if spot.label_x > spot.x else 1.0), 0.0


def _counted(place: BoardPlace, step: Step, p: Palette) -> Iterator[Shape]:
    """The numbers of the holes from the nearer end of the row to this one."""
    row = _row_to(step)
    for number, contact in enumerate(row, 1):
        spot = place.pins[contact]
        dx, dy = _inwards(spot)
        x, y = spot.x + dx * APART, spot.y + dy * APART + 4
        # on a ground of its own: on boards of one row it lies at the edge, and over the cord
        wide = text_width(str(number), NUMBER, True) + 4
        yield Box(x - wide / 2, y - 10.5, wide, 13.5, 4, p.board)
        yield Text(x, y, str(number), NUMBER, p.board_text, contact == step.to, "middle")


def _row_to(step: Step) -> list[str]:
    """The holes of a row from the nearer end to this one."""
    return [f"{BOARD}.{pin}" for pin in step.where.counted] if step.where else []


def _end_beyond(
    place: BoardPlace, step: Step, window: tuple[float, float, float, float], p: Palette
) -> Iterator[Shape]:
    """Which end is counted from, at the rim of the picture where that end lies beyond it."""
    row = _row_to(step)
    if len(row) < 2 or step.where is None:
        return
    end, here = place.pins[row[0]], place.pins[step.to]
    x, y, w, h = window
    if x < end.x < x + w and y < end.y < y + h:
        return
    name = step.where.count.partition("from the ")[2]
    down = end.y > y + h
    arrow = "↓" if down else "↑" if end.y < y else "→" if end.x > x + w else "←"
    text = f"{arrow} {name}"
    wide = text_width(text, LABEL, True) + 12
    if arrow in "↑↓":
        bx = min(max(here.x - wide / 2, x + 4), x + w - wide - 4)
        by = y + h - 24 if down else y + 4
    else:
        bx = x + w - wide - 4 if arrow == "→" else x + 4
        by = min(max(here.y + 26, y + 4), y + h - 24)
    yield Box(bx, by, wide, 20, 4, p.inverse)
    yield Text(bx + wide / 2, by + 14.5, text, LABEL, p.inverse_text, True, "middle")


# --- a contact of another part ------------------------------------------------------------------------


def _on_part(c: Circuit, step: Step, harm: Collection[str], room: tuple[float, float], p: Palette) -> Picture:
    """The contacts of the part in their order around the one that is meant."""
    w, h = room
    shapes: list[Shape] = []
    contact = step.to or step.lead
    owner, name = split(contact)
    part = c.parts.get(owner) or c.parts.get(step.part)
    if part is None:
        return Picture(0, 0, w, h, p.cloth, ())
    leads = list(part.leads)
    at = leads.index(name) if name in leads else -1
    fit = max(0, min(SHOWN, int((h / ROW - 2.2) / 2)))
    shown = leads[max(0, at - fit) : at + fit + 1] if at >= 0 else []
    wide = min(w - 24, CARD - 20)
    high = ROW * (len(shown) + 1.2)
    left, top = max(6.0, (w - wide) / 2 - w * 0.08), (h - high) / 2
    shapes += [
        Box(left, top, wide, high, 9, p.card, p.edge, 1.5),
        Text(left + 14, top + 24, c.titles.part(owner or step.part), LABEL + 2, p.ink, bold=True),
    ]
    for k, lead in enumerate(shown):
        y = top + ROW * (k + 1.35)
        here = f"{owner}.{lead}"
        meant = here == contact
        x = left + wide - 22
        if meant:
            shapes += _straight(step, x, y, w, p)
        ink = p.active if meant else p.ink
        shapes += [
            Disc(x, y, PIN_R, p.pin, p.board_edge, 1),
            Disc(x, y, 3.4, CORDS.get(step.colour, p.pin_hole) if meant else p.pin_hole),
            Text(left + 14, y + 4.5, part.leads[lead].title, LABEL + meant, ink, bold=meant),
        ]
        if meant:
            shapes.append(Disc(x, y, PIN_R + 5, "", p.active, 3.2))
        if here in harm:
            shapes += severity(x - 24, y, "stop", p, 7)
    return Picture(0, 0, w, h, p.cloth, tuple(shapes))


def _straight(step: Step, x: float, y: float, to: float, p: Palette) -> Iterator[Shape]:
    ink = CORDS.get(step.colour, p.faint)
    way = ((x, y, to + 20, y, to + 20, y),)
    yield Curve((x, y), way, p.cord_edge, CORD_EDGE)
    yield Curve((x, y), way, ink, CORD)

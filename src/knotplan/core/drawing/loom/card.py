"""A part's card: what it says, and how that is drawn. Cards that say the same share their shapes."""

from collections import Counter
from collections.abc import Iterator
from functools import lru_cache
from typing import NamedTuple

from knotplan.catalog.part.needs import Gives, Open, brief
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import CARD_W, MORE_H, Card, card_height, is_stub, lead_at
from knotplan.core.drawing.loom.cords import colour_of, tag
from knotplan.core.drawing.loom.tree import showing
from knotplan.core.drawing.marks import triangle
from knotplan.core.drawing.palette import CORDS, Palette
from knotplan.core.drawing.shapes import Box, Curve, Polygon, Shape, Text, shortened, text_width
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import counted

NAME, SUMMARY, LEAD, NOTE = 14.5, 12.0, 13.0, 12.0
"""sizes of text on a card"""
STUB = 20.0


class LeadFace(NamedTuple):
    """What a card says of one lead."""

    title: str
    note: str
    tied: bool
    stub: str
    """"ground" or "supply" where its cord is drawn as a stub"""
    cord: str


class Face(NamedTuple):
    """Everything that a card says."""

    name: str
    summary: str
    rows: tuple[tuple[LeadFace | None, LeadFace | None], ...]
    """at the inner edge, at the outer one"""
    foot: str
    """what it does not show"""
    folded: bool
    shut: bool
    """more lies behind the foot"""


def face(c: Circuit, card: Card) -> Face:
    """What a part's card says."""
    shown = showing(c, card.part)
    rows = tuple(
        (_lead_face(c, near) if near else None, _lead_face(c, far) if far else None)
        for near, far in shown.rows
    )
    return Face(
        c.placed[card.part].name,
        c.parts[card.part].summary,
        rows,
        _foot(c, card.part),
        bool(shown.inside),
        bool(shown.inside or shown.more),
    )


def _foot(c: Circuit, part: str) -> str:
    shown = showing(c, part)
    if shown.all_shown:
        return "only what is needed"
    if not shown.inside:
        return f"{counted(shown.more, 'more lead')}" if shown.more else ""
    kinds = Counter(c.parts[p].title.lower() for p in shown.inside)
    kind, count = kinds.most_common(1)[0]
    rest = len(shown.inside) - count
    return f"{count} × {kind}" + (f" and {rest} more" if rest else "") + " folded in"


def _lead_face(c: Circuit, contact: str) -> LeadFace:
    lead, tie = c.contacts.lead(contact), c.ties.of(contact)
    assert lead is not None
    stub, colour = "", ""
    if tie is not None and is_stub(c, contact):
        stub = "ground" if c.nets.is_ground(tie.to) else "supply"
        colour = colour_of(c, tie)
    return LeadFace(lead.title, _note(c, contact), contact in c.ties.at, stub, colour)


def _note(c: Circuit, lead: str) -> str:
    """What is worth saying of a lead: its role, where its stub leads, what it still needs."""
    tie, spec = c.ties.of(lead), c.contacts.lead(lead)
    assert spec is not None
    if tie is None:
        if isinstance(spec.needs[0], Open):
            return "" if lead in c.ties.at else "free"
        if lead in c.ties.at:
            return "to " + ", ".join(c.placed[split(t.lead)[0]].name for t in c.ties.at[lead])
        if isinstance(spec.needs[0], Gives):
            return ""
        return f"untied: {brief(spec.needs[0])}" if c.needs.required(lead) else "optional"
    if tie.role:
        return f"“{tie.role}”"
    if is_stub(c, lead):
        return tag(c, tie, lead)
    return f"input, own pull-{tie.pull}" if tie.pull != "none" else brief(c.needs.of(lead))


@lru_cache(2048)
def card_shapes(face: Face, side: str, p: Palette) -> tuple[Shape, ...]:
    """The card with the stubs of its leads, its upper left corner at the origin."""
    return tuple(_shapes(face, side == "left", p))


def _shapes(face: Face, left: bool, p: Palette) -> Iterator[Shape]:
    tall = card_height(len(face.rows), bool(face.foot))
    if face.folded:  # more lies behind it
        yield Box(7, 7, CARD_W, tall, 8, p.card, p.edge, 1)
    yield Box(0, 0, CARD_W, tall, 8, p.card, p.edge, 1)
    yield Text(
        12, 20, shortened(face.name, NAME, CARD_W - 48, True), NAME, p.ink, True
    )  # beside the mark of a finding
    yield Text(12, 37, shortened(face.summary, SUMMARY, CARD_W - 24), SUMMARY, p.faint)
    for k, (near, far) in enumerate(face.rows):
        across = text_width(far.title, LEAD) + 14 if far else 0.0
        if near:
            yield from _lead(near, left, CARD_W if left else 0.0, lead_at(k), p, CARD_W - across)
        if far:
            yield from _lead(far, not left, 0.0 if left else CARD_W, lead_at(k), p, 0.0 if near else CARD_W)
    if face.foot:
        yield Box(10, tall - MORE_H, CARD_W - 20, 1, 0, p.edge)
        yield _wedge(18, tall - MORE_H / 2, face.shut, p)
        yield Text(30, tall - 8, shortened(face.foot, NOTE, CARD_W - 42), NOTE, p.active)


def _wedge(x: float, y: float, shut: bool, p: Palette) -> Shape:
    """Points to the right where there is more, down where all is shown."""
    points = (
        ((x - 3, y - 5), (x + 4, y), (x - 3, y + 5)) if shut else ((x - 5, y - 3), (x + 5, y - 3), (x, y + 4))
    )
    return Polygon(points, p.active)


def _lead(lead: LeadFace, left: bool, x: float, y: float, p: Palette, wide: float) -> Iterator[Shape]:
    """A lead that leaves to the right (of a card left of the board) or to the left; its note at the other
    end of the width that it has to itself."""
    yield Text(x + (-12 if left else 12), y + 4.6, lead.title, LEAD, p.ink, False, "end" if left else "start")
    room = wide - text_width(lead.title, LEAD) - 36
    note = shortened(lead.note, NOTE, room) if room > 30 else ""
    if note.rstrip("…"):
        yield Text(
            x + (12 - wide if left else wide - 12),
            y + 4.4,
            note,
            NOTE,
            p.faint,
            False,
            "start" if left else "end",
        )
    if lead.stub:
        yield from _stub(lead, x, x + (STUB if left else -STUB), y, p)
    yield Box(x - 5.5, y - 4.5, 11, 9, 3, p.edge if lead.tied else p.card, p.ink, 1.4)


def _stub(lead: LeadFace, start: float, x: float, y: float, p: Palette) -> Iterator[Shape]:
    """A short cord that ends in a square (supply) or a triangle (ground)."""
    ink = CORDS.get(lead.cord, CORDS["grey"])
    for colour, width in ((p.cord_edge, 5.0), (ink, 3.4)):
        yield Curve((start, y), ((start, y, x, y, x, y),), colour, width)
    if lead.stub == "ground":
        yield triangle(x, y + 1, 7, ink, down=True)._replace(stroke=p.cord_edge)
    else:
        yield Box(x - 5.5, y - 5.5, 11, 11, 2, ink, p.cord_edge, 1)

"""A part's card: what it says, and how that is drawn. Cards that say the same share their shapes."""

from collections.abc import Iterator
from functools import lru_cache
from typing import NamedTuple

from knotplan.catalog.needs import Gives, brief
from knotplan.core.circuit import Circuit
from knotplan.core.loom.bench import CARD_W, Card, card_height, is_stub, lead_at
from knotplan.core.loom.cords import colour_of, tag
from knotplan.core.loom.marks import triangle
from knotplan.core.loom.palette import CORDS, Palette
from knotplan.core.loom.shapes import Box, Curve, Shape, Text, shortened, text_width
from knotplan.core.plan import split

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
    leads: tuple[LeadFace, ...]


def face(c: Circuit, card: Card) -> Face:
    """What a part's card says."""
    return Face(c.placed[card.part].name, c.parts[card.part].summary,
                tuple(_lead_face(c, spot.contact) for spot in card.leads))  # fmt: skip


def _lead_face(c: Circuit, contact: str) -> LeadFace:
    lead, tie = c.lead(contact), c.tie_of(contact)
    assert lead is not None
    stub = ("ground" if c.is_ground(tie.to) else "supply") if tie and is_stub(c, contact) else ""
    return LeadFace(lead.title, _note(c, contact), contact in c.ties_at, stub, colour_of(c, tie) if tie and stub else "")


def _note(c: Circuit, lead: str) -> str:
    """What is worth saying of a lead: its role, where its stub leads, what it still needs."""
    tie, spec = c.tie_of(lead), c.lead(lead)
    assert spec is not None
    if tie is None:
        if lead in c.ties_at:
            return "to " + ", ".join(c.placed[split(t.lead)[0]].name for t in c.ties_at[lead])
        if isinstance(spec.needs[0], Gives):
            return ""
        return f"untied: {brief(spec.needs[0])}" if c.required(lead) else "optional"
    if tie.role:
        return f"“{tie.role}”"
    if is_stub(c, lead):
        return tag(c, tie, lead)
    return f"input, own pull-{tie.pull}" if tie.pull != "none" else brief(c.need(lead))


@lru_cache(2048)
def card_shapes(face: Face, side: str, p: Palette) -> tuple[Shape, ...]:
    """The card with the stubs of its leads, its upper left corner at the origin."""
    return tuple(_shapes(face, side == "left", p))


def _shapes(face: Face, left: bool, p: Palette) -> Iterator[Shape]:
    yield Box(0, 0, CARD_W, card_height(len(face.leads)), 8, p.card, p.edge, 1)
    yield Text(12, 20, shortened(face.name, NAME, CARD_W - 48, True), NAME, p.ink, True)  # beside the mark of a finding
    yield Text(12, 37, shortened(face.summary, SUMMARY, CARD_W - 24), SUMMARY, p.faint)
    for k, lead in enumerate(face.leads):
        yield from _lead(lead, left, CARD_W if left else 0.0, lead_at(k), p)


def _lead(lead: LeadFace, left: bool, x: float, y: float, p: Palette) -> Iterator[Shape]:
    yield Text(x + (-12 if left else 12), y + 4.6, lead.title, LEAD, p.ink, False, "end" if left else "start")
    note = shortened(lead.note, NOTE, CARD_W - text_width(lead.title, LEAD) - 36)
    if len(note) > 3:
        yield Text(12 if left else CARD_W - 12, y + 4.4, note, NOTE, p.faint, False, "start" if left else "end")
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

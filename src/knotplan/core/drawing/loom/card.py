"""A part's card as shapes."""

from collections.abc import Iterator

from knotplan.catalog.derived import derived
from knotplan.core.drawing.loom.face import LeadFace
from knotplan.core.drawing.loom.form import (
    HEAD_H,
    LEAD,
    MARK_ROOM,
    NAME,
    NOTE,
    PAD,
    SUMMARY,
    Form,
    Slot,
)
from knotplan.core.drawing.marks import triangle
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Disc, Polygon, Shape, Text, shortened

TAG_R = 4.6


@derived
def card_shapes(form: Form, p: Palette) -> tuple[Shape, ...]:
    """The card, its upper left corner at the origin."""
    return tuple(_shapes(form, p))


def _shapes(form: Form, p: Palette) -> Iterator[Shape]:
    face, w = form.face, form.w
    yield Box(1.5, 2, w, form.h, 7, "#0000001a")
    if face.inside:  # more lies behind it
        yield Box(6, 6, w, form.h, 7, p.card, p.edge, 1)
    yield Box(0, 0, w, form.h, 7, p.card, p.edge, 1)
    end = form.foot[0] if form.foot and form.foot[2] < w else w - MARK_ROOM
    name = shortened(face.name, NAME, end - PAD, True)
    yield Text(PAD, form.head + 17, name, NAME, p.ink, True)
    if form.summary:
        said = shortened(face.summary, SUMMARY, w - 2 * PAD)
        yield Text(PAD, form.head + HEAD_H + 7, said, SUMMARY, p.faint)
    for slot in form.slots:
        yield from _slot(slot, w, p)
    if form.foot:
        yield from _foot(form, *form.foot, p)


def _foot(form: Form, x: float, y: float, w: float, h: float, p: Palette) -> Iterator[Shape]:
    """What folds and unfolds it: a line of words below all else, or a few letters beside the name."""
    face = form.face
    if w < form.w:
        yield _wedge(x + 6, y + h / 2, face.shut, p)
        yield Text(x + 13, y + h / 2 + 4, face.short_foot, NOTE, p.active)
        return
    yield Box(PAD, y, w - 2 * PAD, 1, 0, p.edge)
    yield _wedge(PAD + 4, y + h / 2, face.shut, p)
    yield Text(PAD + 13, y + 13, shortened(face.foot, NOTE, w - 2 * PAD - 13), NOTE, p.active)


def _wedge(x: float, y: float, shut: bool, p: Palette) -> Shape:
    """Points to the right where there is more, down where all is shown."""
    points = (
        ((x - 3, y - 5), (x + 4, y), (x - 3, y + 5)) if shut else ((x - 5, y - 3), (x + 5, y - 3), (x, y + 4))
    )
    return Polygon(points, p.active)


def _slot(slot: Slot, wide: float, p: Palette) -> Iterator[Shape]:
    lead = slot.lead
    x, y, anchor = slot.text
    ink = p.ink if lead.state != "free" else p.faint
    yield Text(x, y, shortened(lead.title, LEAD, wide - PAD - 4), LEAD, ink, False, anchor)
    if slot.note:
        note_x, note_y, note_anchor, said = slot.note
        yield Text(note_x, note_y, said, NOTE, p.faint, False, note_anchor)
    if slot.tag:
        yield from tag_mark(lead, slot.x, slot.y, p)
    else:
        yield from _socket(lead, slot, p)


def _socket(lead: LeadFace, slot: Slot, p: Palette) -> Iterator[Shape]:
    """Where a signal's cord leaves: filled when tied, an open ring while it has to be; small where it may
    stay free."""
    x, y = slot.x, slot.y
    if lead.state == "tied":
        yield Disc(x, y, 5, p.edge, p.ink, 1.4)
    elif lead.state == "to-do":
        yield Disc(x, y, 5, p.card, p.active, 2)
    else:
        yield Disc(x, y, 3.6, p.card, p.faint, 1.2)


def tag_mark(lead: LeadFace, x: float, y: float, p: Palette) -> Iterator[Shape]:
    """A square for a supply, a triangle for a ground; open while it has to be tied."""
    tied = lead.state == "tied"
    if lead.kind == "ground":
        ink = p.ink if lead.state != "to-do" else p.active
        mark = triangle(x, y + 1, TAG_R + 0.6, ink if tied else p.card, down=True)
        yield mark._replace(stroke=ink, width=1.0 if tied else 1.6)
    else:
        fill = p.supply_low if lead.kind == "low" else p.supply
        stroke = p.cord_edge if tied else p.active if lead.state == "to-do" else p.faint
        yield Box(
            x - TAG_R,
            y - TAG_R,
            2 * TAG_R,
            2 * TAG_R,
            1.5,
            fill if tied else p.card,
            stroke,
            1 if tied else 1.8,
        )

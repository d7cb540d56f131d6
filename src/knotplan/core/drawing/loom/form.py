"""The form of a card: its size, and where on it each of its words and leads stands.

Points; the card's upper left corner is the origin. A card beside the board has a row for each signal, its
leads at its left and right edges; one above or below the board has them side by side at its lower and upper
edges. Supplies and grounds are tags, several in a line.
"""

from functools import cached_property
from typing import Any, Literal, NamedTuple

from msgspec import Struct

from knotplan.catalog.derived import derived
from knotplan.core.drawing.loom.face import Face, LeadFace
from knotplan.core.drawing.shapes import shortened, text_width

NAME, SUMMARY, LEAD, NOTE = 13.0, 11.0, 12.0, 11.0
"""sizes of text on a card"""
HEAD_H, SUMMARY_H, ROW_H, TAG_H, FOOT_H, END_H = 24.0, 15.0, 18.0, 18.0, 18.0, 5.0
EDGE_H = 21.0
"""a line of leads along the upper or lower edge"""
PAD, MARK_ROOM = 11.0, 22.0
"""from a card's edge to its words; for the mark of a finding beside the name"""
LEAST_W, WIDEST = 84.0, 280.0
SYMBOL, TAG_GAP = 12.0, 11.0
"""from the left end of a tag to its title; between two tags"""

Side = Literal["left", "right", "above", "below"]


class Detail(NamedTuple):
    """How much a card says."""

    summary: bool
    """what the part is"""
    notes: bool
    """what each lead does or where it leads to"""
    widest: float


FULL = Detail(True, True, 232.0)
BRIEF = Detail(False, True, 176.0)
BARE = Detail(False, False, 150.0)


class Slot(NamedTuple):
    """A lead on a card."""

    lead: LeadFace
    x: float
    y: float
    """where its cord begins"""
    out: tuple[float, float]
    """the way that its cord leaves"""
    box: tuple[float, float, float, float]
    """x, y, w, h of all that belongs to it"""
    text: tuple[float, float, Literal["start", "middle", "end"]]
    note: tuple[float, float, Literal["start", "end"], str] | None = None
    tag: bool = False
    """drawn as a tag within the card"""


class Form(Struct, frozen=True, dict=True):
    """A card with everything in its place. What is drawn of it can be kept by it."""

    face: Face
    w: float
    h: float
    head: float
    """where its head begins"""
    summary: bool
    foot: tuple[float, float, float, float] | None
    """x, y, w, h of what folds and unfolds it: a line of words, or a few letters beside the name"""
    slots: tuple[Slot, ...]
    """rows first, then tags, in the order of the face"""

    @cached_property
    def derived(self) -> dict[tuple[Any, ...], Any]:
        """Its shapes, see `knotplan.catalog.derived`."""
        return {}


def lies_beside(side: Side) -> bool:
    """Beside the board, with a row for each lead; else above or below it."""
    return side in ("left", "right")


@derived
def natural_width(face: Face, detail: Detail, side: Side) -> float:
    """How wide a card is by what it says: titles of leads whole, all else up to the detail's width."""
    bare = detail._replace(notes=False)
    wanted = [text_width(face.name, NAME, True) + PAD + MARK_ROOM + _chip_width(face, detail)]
    if detail.summary:
        wanted.append(text_width(face.summary, SUMMARY) + 2 * PAD)
    if face.foot and detail.notes:
        wanted.append(text_width(face.foot, NOTE) + 2 * PAD + 12)
    if not _tags_in_rows(face, detail) or not lies_beside(side):
        wanted.append(sum(_tag_width(tag, bare) + TAG_GAP for tag in face.tags) - TAG_GAP + 1.5 * PAD)
    needed = [LEAST_W, *(_tag_width(tag, bare) + 2 * PAD for tag in face.tags)]
    if lies_beside(side):
        rows = _rows(face, detail)
        needed += [_row_width(near, far, bare) for near, far in rows]
        wanted += [_row_width(near, far, detail) for near, far in rows]
        wanted += [_tag_width(tag, detail) + 2 * PAD for tag in face.tags]
    else:
        needed += [sum(text_width(lead.title, LEAD) + 16 for lead in leads) + 6 for leads in _edges(face)]
    wide = max(min(WIDEST, max(needed)), min(detail.widest, max(wanted)))
    return 4.0 * -int(-wide // 4)


def _chip_width(face: Face, detail: Detail) -> float:
    """Of what folds and unfolds a card, where it stands beside the name."""
    return text_width(face.short_foot, NOTE) + 18 if face.foot and not detail.notes else 0.0


def _foot(
    face: Face, wide: float, head: float, y: float, detail: Detail
) -> tuple[float, float, float, float] | None:
    """Where a card is folded and unfolded: beside the name, or in a line of its own from `y` on."""
    if not face.foot:
        return None
    chip = _chip_width(face, detail)
    return (wide - MARK_ROOM - chip, head + 3, chip, HEAD_H - 5) if chip else (0.0, y, wide, FOOT_H)


def _rows(face: Face, detail: Detail) -> list[tuple[LeadFace | None, LeadFace | None]]:
    """The rows; where nothing else is said in them, with tags at their free ends."""
    if not _tags_in_rows(face, detail):
        return list(face.rows)
    tags = iter(face.tags)
    return [(near or next(tags, None), far) if far else (near, next(tags, None)) for near, far in face.rows]


def _tags_in_rows(face: Face, detail: Detail) -> bool:
    """Every tag finds a row with a free end."""
    return not detail.notes and len(face.tags) <= sum(not (near and far) for near, far in face.rows)


def _row_width(near: LeadFace | None, far: LeadFace | None, detail: Detail) -> float:
    ends = [lead for lead in (near, far) if lead]
    wide = sum(text_width(lead.title, LEAD) + PAD + 1 for lead in ends) + 12
    if detail.notes:
        wide += sum(text_width(lead.note, NOTE) + 10 for lead in ends if lead.note)
    return wide


def _tag_width(tag: LeadFace, detail: Detail) -> float:
    wide = SYMBOL + text_width(tag.title, LEAD)
    return wide + 5 + text_width(tag.note, NOTE) if detail.notes and tag.note else wide


def _edges(face: Face) -> tuple[list[LeadFace], list[LeadFace]]:
    """The leads at the edge towards the board, and those at the other one."""
    return [near for near, _ in face.rows if near], [far for _, far in face.rows if far]


@derived
def form(face: Face, wide: float, detail: Detail, side: Side) -> Form:
    """The card of a width."""
    return _beside(face, wide, detail, side) if lies_beside(side) else _lying(face, wide, detail, side)


def _beside(face: Face, wide: float, detail: Detail, side: Side) -> Form:
    head = HEAD_H + (SUMMARY_H if detail.summary else 0.0)
    slots: list[Slot] = []
    ends: list[Slot] = []
    in_rows = _tags_in_rows(face, detail)
    for k, (near, far) in enumerate(_rows(face, detail)):
        y = head + ROW_H * (k + 0.5)
        room = wide - sum(text_width(lead.title, LEAD) + 2 * PAD for lead in (near, far) if lead)
        if near:
            beyond = text_width(far.title, LEAD) + 8 if far else 0.0
            slot = _row_slot(near, side == "left", wide, y, room if detail.notes else 0, beyond, not far)
            (slots if face.rows[k][0] else ends).append(slot)
        if far:
            room = room if detail.notes and not near else 0
            slot = _row_slot(far, side != "left", wide, y, room, 0.0, not near)
            (slots if face.rows[k][1] else ends).append(slot)
    y = head + ROW_H * len(face.rows)
    flowed = [] if in_rows else _flow(face.tags, wide, y, detail)
    y += TAG_H * _lines(flowed)
    high = y + (FOOT_H if face.foot and detail.notes else END_H)
    foot = _foot(face, wide, 0.0, y, detail)
    return Form(face, wide, high, 0.0, detail.summary, foot, (*slots, *ends, *flowed))


def _row_slot(
    lead: LeadFace, right: bool, wide: float, y: float, room: float, beyond: float, alone: bool
) -> Slot:
    """A lead at the right or left edge, with its note where it has `room` for one, `beyond` the other end's
    title."""
    x, sign = (wide, -1) if right else (0.0, 1)
    note = shortened(lead.note, NOTE, room) if room > 24 else ""
    said: tuple[float, float, Literal["start", "end"], str] | None = None
    if note.rstrip("…"):
        at = PAD + beyond
        said = (at, y + 4, "start", note) if right else (wide - at, y + 4, "end", note)
    half = wide if alone else wide / 2
    box = (wide - half if right else 0.0, y - ROW_H / 2, half, ROW_H)
    anchor: Literal["start", "end"] = "end" if right else "start"
    return Slot(
        lead, x, y, (-float(sign), 0.0), box, (x + sign * PAD, y + 4.3, anchor), said, lead.kind != "signal"
    )


def _flow(tags: tuple[LeadFace, ...], wide: float, top: float, detail: Detail) -> list[Slot]:
    """Tags one beside another in as many lines as they need."""
    slots: list[Slot] = []
    x, y = PAD, top + TAG_H / 2
    for tag in tags:
        own = min(_tag_width(tag, detail), wide - 2 * PAD)
        if x > PAD and x + own > wide - PAD / 2:
            x, y = PAD, y + TAG_H
        text_x = x + SYMBOL
        note: tuple[float, float, Literal["start", "end"], str] | None = None
        if detail.notes and tag.note:
            at = text_x + text_width(tag.title, LEAD) + 5
            said = shortened(tag.note, NOTE, wide - PAD / 2 - at)
            note = (at, y + 4, "start", said) if said.rstrip("…") else None
        box = (x - 3, y - TAG_H / 2, own + 6, TAG_H)
        slots.append(Slot(tag, x + 3, y, (0.0, 1.0), box, (text_x, y + 4.3, "start"), note, True))
        x += own + TAG_GAP
    return slots


def _lines(slots: list[Slot]) -> int:
    return len({slot.y for slot in slots})


def _lying(face: Face, wide: float, detail: Detail, side: Side) -> Form:
    """A card above or below the board: a line of leads along each edge, name and tags between them."""
    inner, outer = _edges(face)
    upper, lower = (outer, inner) if side == "above" else (inner, outer)
    head = EDGE_H if upper else 0.0
    top = head + HEAD_H + (SUMMARY_H if detail.summary else 0.0)
    flowed = _flow(face.tags, wide, top, Detail(detail.summary, False, detail.widest))
    y = top + TAG_H * _lines(flowed)
    high = y + (FOOT_H if face.foot and detail.notes else 0.0) + (EDGE_H if lower else END_H)
    foot = _foot(face, wide, head, y, detail)
    above = iter(_edge_slots(upper, wide, 0.0, -1.0))
    below = iter(_edge_slots(lower, wide, high, 1.0))
    near, far = (below, above) if side == "above" else (above, below)
    slots: list[Slot] = []
    for a, b in face.rows:  # in the order of the rows
        slots += [next(near)] if a else []
        slots += [next(far)] if b else []
    return Form(face, wide, high, head, detail.summary, foot, (*slots, *flowed))


def _edge_slots(leads: list[LeadFace], wide: float, y: float, out: float) -> list[Slot]:
    """Leads side by side along an edge, each in its share of it."""
    widths = [text_width(lead.title, LEAD) + 16 for lead in leads]
    share = (wide - 6) / sum(widths) if widths else 1.0
    slots, x = [], 3.0
    for lead, own in zip(leads, widths, strict=True):
        middle = x + own * share / 2
        box = (x, y - EDGE_H if out > 0 else y, own * share, EDGE_H)
        slots.append(Slot(lead, middle, y, (0.0, out), box, (middle, y - out * 12 + 4.3, "middle")))
        x += own * share
    return slots

"""What a part's card says, before it has a place and a size."""

from collections import Counter
from functools import cached_property
from typing import Any, Literal, NamedTuple

from msgspec import Struct

from knotplan.catalog.part.needs import Gives, Ground, Open, brief
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.tree import Showing, is_stub, is_tag, showing
from knotplan.core.memory.question import question
from knotplan.core.plan.document import Tie, split
from knotplan.core.quantity.written import counted

LOW_V = 4.5
"""a supply below this is marked as a low one"""


class LeadFace(NamedTuple):
    """What a card says of one lead."""

    title: str
    note: str
    state: Literal["tied", "to-do", "free"]
    kind: Literal["signal", "supply", "low", "ground"] = "signal"


class Face(Struct, frozen=True, dict=True):
    """Everything that a card says. What is derived from it can be kept by it."""

    name: str
    title: str
    """what it is"""
    summary: str
    rows: tuple[tuple[LeadFace | None, LeadFace | None], ...]
    """at the inner edge, at the outer one"""
    tags: tuple[LeadFace, ...]
    """supplies and grounds"""
    foot: str
    """what it does not show"""
    short_foot: str
    """the same where there is little room: "+4" for leads, "×16" for parts folded in"""
    inside: int
    """so many parts are folded into it"""
    shut: bool
    """more lies behind the foot"""

    @cached_property
    def derived(self) -> dict[tuple[Any, ...], Any]:
        """The forms of its card, see `knotplan.catalog.derived`."""
        return {}


@question
def face(c: Circuit, part: str, stacked: bool) -> Face:
    """What a part's card says."""
    shown = showing(c, part, stacked)
    rows = tuple(
        (_lead_face(c, near) if near else None, _lead_face(c, far) if far else None)
        for near, far in shown.rows
    )
    return Face(
        c.placed[part].name,
        c.parts[part].title,
        c.parts[part].summary,
        rows,
        tuple(_lead_face(c, lead) for lead in shown.tags),
        _foot(c, shown),
        "–" if shown.all_shown else f"×{len(shown.inside)}" if shown.inside else f"+{shown.more}",
        len(shown.inside),
        bool(shown.inside or shown.more),
    )


def _foot(c: Circuit, shown: Showing) -> str:
    if shown.all_shown:
        return "only what is needed"
    if not shown.inside:
        return f"{counted(shown.more, 'more lead')}" if shown.more else ""
    kinds = Counter(c.parts[p].title.lower() for p in shown.inside)
    kind, count = kinds.most_common(1)[0]
    rest = len(shown.inside) - count
    return f"{count} × {kind}" + (f" and {rest} more" if rest else "") + " folded in"


def _lead_face(c: Circuit, contact: str) -> LeadFace:
    lead = c.contacts.lead(contact)
    assert lead is not None
    if contact in c.ties.at:
        state: Literal["tied", "to-do", "free"] = "tied"
    else:
        state = "to-do" if c.needs.required(contact) else "free"
    return LeadFace(lead.title, _note(c, contact), state, kind_of(c, contact))


def kind_of(c: Circuit, contact: str) -> Literal["signal", "supply", "low", "ground"]:
    """What a lead carries, for its mark: a ground, a supply, a supply of low voltage, or a signal."""
    lead = c.contacts.lead(contact)
    if lead is None or not is_tag(c, contact):
        return "signal"
    if c.nets.is_ground(contact) or isinstance(lead.needs[0], Ground):
        return "ground"
    origin = c.supplies.origin(contact)
    return "low" if origin is not None and origin.volts.typ < LOW_V else "supply"


def _note(c: Circuit, lead: str) -> str:
    """What is worth saying of a lead: its role, where its supply comes from, what it still needs."""
    tie, spec = c.ties.of(lead), c.contacts.lead(lead)
    assert spec is not None
    if tie is None:
        if isinstance(spec.needs[0], Open):
            return "" if lead in c.ties.at else "free"
        if lead in c.ties.at:
            return "to " + ", ".join(c.placed[split(t.lead)[0]].name for t in c.ties.at[lead])
        if isinstance(spec.needs[0], Gives):
            return ""
        return brief(spec.needs[0]) if c.needs.required(lead) else "optional"
    if tie.role:
        return f"“{tie.role}”"
    if is_stub(c, lead):
        return where_to(c, tie, lead)
    return f"input, own pull-{tie.pull}" if tie.pull != "none" else brief(c.needs.of(lead))


def where_to(circuit: Circuit, tie: Tie, lead: str) -> str:
    """Where a supply or ground leads to, in a few words: "GND pos 5", "5 V brick +5 V"."""
    other = circuit.ties.other_end(tie, lead)
    pin = circuit.contacts.pin(other)
    if pin is None:
        return circuit.titles.of(other).replace(" · ", " ")
    place = circuit.titles.place(other)
    return f"{pin.names.get('label') or circuit.titles.of(other)} {place}".strip()

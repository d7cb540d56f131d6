"""A lane: one output, and what it does when."""

from collections.abc import Iterator
from typing import Literal

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.timing.wave import Wave

Kind = Literal[
    "servo", "pulses", "coil", "step", "relay", "contact", "pixels", "spi", "uart", "row", "measured", "level"
]


class Lane(Struct, frozen=True):
    """One output."""

    id: str
    """the lead, with what else tells it from the part's other lanes"""
    lead: str
    part: str
    """whose doing it shows: of a driver's inputs the motor behind it"""
    title: str
    where: str
    """the contact that does it"""
    kind: Kind
    about: str
    wave: Wave


Lanes = Iterator[Lane]


def made(
    c: Circuit, lead: str, contact: str, kind: Kind, about: str, wave: Wave, tail: str = "", part: str = ""
) -> Lane:
    """The lane of a lead; `tail` tells it from others of the same part."""
    where = c.titles.full(contact) if contact else ""
    title = f"{c.placed[split(lead)[0]].name} · {tail}" if tail else c.titles.of(lead)
    lane_id = f"{lead}#{tail}" if tail else lead
    return Lane(lane_id, lead, part or split(lead)[0], title, where, kind, about, wave)

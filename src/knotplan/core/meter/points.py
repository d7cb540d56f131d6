"""Where a meter is held, and how that is written.

``ohms:lamp.anode:board.p7`` from one contact to another, nothing switched on; ``diode:lamp.led`` the diode
range across an LED or diode of a part whose cords are pulled from their pins, red on the anode's cord
(``:back`` the other way round); ``volts:lamp.anode@brick`` to the board's ground, ``@`` the supply that was
switched on last.
"""

from collections.abc import Iterable
from itertools import combinations
from typing import Literal

from msgspec import Struct

from knotplan.catalog.part import elements as kinds
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.neighbours import neighbours
from knotplan.core.circuit.nets import GROUND, rail_name
from knotplan.core.circuit.supplies import Origin
from knotplan.core.plan.document import BOARD, split

Range_ = Literal["ohms", "diode", "volts"]


class Point(Struct, frozen=True):
    """Where the two leads of a meter are held, and in which range."""

    range: Range_
    red: str
    """the contact or the end of a tie that the red lead is held to"""
    black: str = ""
    """for volts: the board's ground"""
    stage: str = ""
    """for volts: the supply that was switched on last"""
    about: str = ""
    """for the diode range: the part and its element"""
    back: bool = False
    """for the diode range: against the direction in which it conducts"""
    lifted: tuple[str, ...] = ()
    """ends of ties that are pulled out for it"""

    @property
    def id(self) -> str:
        """As it is written."""
        match self.range:
            case "ohms":
                return f"ohms:{self.red}:{self.black}"
            case "diode":
                return f"diode:{self.about}" + (":back" if self.back else "")
            case "volts":
                return f"volts:{self.red}@{self.stage}"


def told(c: Circuit, point: Point) -> str:
    """Where to hold the meter, in words."""
    t = c.titles
    match point.range:
        case "ohms":
            return f"{_contact(c, point.red)} to {_contact(c, point.black)}"
        case "diode":
            part = split(point.about)[0]
            ways = [t.own(x) for x in _leads(c, point)]
            red, black = ways[::-1] if point.back else ways
            return f"{t.part(part)}, its cords pulled from their pins: red on {red}, black on {black}"
        case "volts":
            return _contact(c, point.red)


def _leads(c: Circuit, point: Point) -> tuple[str, str]:
    part, name = split(point.about)
    element = c.parts[part].elements[name]
    return f"{part}.{element.a}", f"{part}.{element.b}"


def _contact(c: Circuit, contact: str) -> str:
    if contact == GROUND:
        return "ground"
    for name, rail in c.board.rails.items():
        if contact == rail_name(name):
            return rail.title
    return c.titles.full(contact)


def diodes(c: Circuit) -> list[tuple[str, str, str, str]]:
    """(part, element, anode's lead, cathode's lead) of each LED and diode between two leads that are tied."""
    found = []
    for part_id, part in c.parts.items():
        for name, e in part.elements.items():
            if not isinstance(e, kinds.Led | kinds.Diode | kinds.Opto):
                continue
            leads = (f"{part_id}.{e.a}", f"{part_id}.{e.b}")
            if all(x in c.ties.at for x in leads):
                found.append((part_id, name, *leads))
    return found


def supply_contacts(c: Circuit) -> dict[str, Origin]:
    """Where the voltage of each supply is measured: {contact: supply}."""
    found: dict[str, Origin] = {}
    for origin in c.supplies.origins.values():
        if origin.on_board:
            contact = c.contacts.supply_contact(origin.id) or rail_name(origin.id)
            if split(contact)[0] != BOARD:
                continue  # no pin brings it out: nobody can measure it
        else:
            contact = f"{origin.id}.{c.supplies.on_bench[origin.id].plus}"
        found[contact] = origin
    return found


def meeting(c: Circuit) -> set[frozenset[str]]:
    """Pairs of supplies, by where they are measured, that one slip could join: both come to one part, or one
    is tied beside a contact of the other."""
    measured = {origin: contact for contact, origin in supply_contacts(c).items()}

    def at(contact: str) -> str:
        origin = c.supplies.origin(contact)
        return measured.get(origin, "") if origin is not None else ""

    groups = [{at(f"{part_id}.{name}") for name in part.leads} for part_id, part in c.parts.items()]
    for tie in c.plan.ties:
        groups += [{at(end), at(n)} for end in (tie.lead, tie.to) for n in neighbours(c, end)]
    return {frozenset(pair) for group in groups for pair in combinations(sorted(group - {""}), 2)}


def between_supplies(c: Circuit, points: Iterable[Point]) -> tuple[Point, ...]:
    """Of some points those that nobody skips: resistances between supplies and to ground."""
    supplies = {*supply_contacts(c), GROUND}
    return tuple(p for p in points if p.range == "ohms" and {p.red, p.black} <= supplies)

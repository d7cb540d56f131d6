"""What things with two ends lie on: both on one side, or a contact between two supplies."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.elements import Coil, Led, Motor, Switch, Track, Varies
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import CONTACTS, having
from knotplan.core.memory.question import question
from knotplan.core.plan.beads import Parting, SeriesResistor

TWO_ENDED = (Coil, Motor, Led, Switch, Track, Varies)
CARRYING = (Coil, Motor, Led)
"""what does something only while current flows through it"""


class OneSided(Struct, frozen=True):
    """Two ends of one thing that are on the same side."""

    part: str
    one: str
    other: str
    side: str
    """"net" where both are on one; else what both lead to: "ground", "supply" """


@question
def one_sided(c: Circuit) -> list[OneSided]:
    """Every such thing whose ends are both tied; one of a part that hangs between two of the same side."""
    found: dict[tuple[str, str, str], OneSided] = {}
    for x in _all(c):
        found.setdefault((x.part, x.side, x.one if x.side == "net" else ""), x)
    return list(found.values())


def _all(c: Circuit) -> Iterator[OneSided]:
    for part_id in having(c, *TWO_ENDED):
        part = c.parts[part_id]
        for e in part.elements.values():
            if not isinstance(e, TWO_ENDED) or not {e.a, e.b} <= part.leads.keys():
                continue
            one, other = f"{part_id}.{e.a}", f"{part_id}.{e.b}"
            if any(part.leads[n].offers for n in (e.a, e.b)) or any(
                end not in c.ties.at for end in (one, other)
            ):
                continue
            if _end(c, one) == _end(c, other):
                yield OneSided(part_id, one, other, "net")
            elif isinstance(e, CARRYING) and (side := _side(c, one, other)):
                yield OneSided(part_id, one, other, side)


def _end(c: Circuit, lead: str) -> str:
    """The net that an end is on, beyond its resistor."""
    tie = c.ties.of(lead)
    if tie is None or not all(isinstance(b, SeriesResistor) for b in tie.beads if isinstance(b, Parting)):
        return c.nets.of(lead)
    return c.nets.of(tie.to)


def _side(c: Circuit, one: str, other: str) -> str:
    """What both ends lead to whatever happens; nothing where a current can flow between them."""
    ways = [_over_contacts(c, lead) for lead in (one, other)]
    if ways[0] == ways[1] != "":
        return "ground" if ways[0] == c.nets.ground else "supply"
    switched = {_switched_to(c, one), _switched_to(c, other)} - {""}
    if len(switched) != 1:
        return ""
    side = switched.pop()
    on_it = [_switched_to(c, lead) == side or _is_on(c, lead, side) for lead in (one, other)]
    return side if all(on_it) else ""


def _over_contacts(c: Circuit, lead: str) -> str:
    """The supply or ground that an end is on, itself or over a relay's contact; nothing where a driver or a
    pin lies between."""
    tie = c.ties.of(lead)
    pin = c.contacts.pin(tie.to) if tie is not None else None
    if tie is None or (pin is not None and pin.kind == "io"):
        return ""
    net = c.supplies.fed_by(lead)
    return net if net in c.supplies.origins or net == c.nets.ground else ""


def _switched_to(c: Circuit, lead: str) -> str:
    """What a hub's output that switches one way only leads an end to."""
    tie = c.ties.of(lead)
    pin = c.contacts.pin(tie.to) if tie is not None else None
    only = pin.functions[0] if pin is not None and len(pin.functions) == 1 else ""
    return {"sink": "ground", "source": "supply"}.get(only, "")


def _is_on(c: Circuit, lead: str, side: str) -> bool:
    return _end(c, lead) == c.nets.ground if side == "ground" else c.supplies.origin(lead) is not None


@question
def shorting_contacts(c: Circuit) -> list[tuple[str, str]]:
    """(contact, common contact) of relays that lie on two supplies, or on a supply and ground."""
    found = []
    for owner in having(c, CONTACTS):
        part = c.parts[owner]
        for name, lead in part.leads.items() if part.category != "wiring" else ():
            if lead.offers is None or lead.offers.kind != "contact":
                continue
            contact, common = f"{owner}.{name}", f"{owner}.{lead.offers.via}"
            nets = {c.nets.of(contact), c.nets.of(common)}
            if len(nets) == 2 and all(n in c.supplies.origins or n == c.nets.ground for n in nets):
                found.append((contact, common))
    return found

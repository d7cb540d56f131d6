"""Rules about the contacts of relays: what they carry, and what runs while nothing drives them."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.elements import Coil, Motor
from knotplan.catalog.part.needs import Supply
from knotplan.core.check.asked import from_circuit, given
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import untied
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, supply_nodes
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import CONTACTS, having
from knotplan.core.match.ends import shorting_contacts
from knotplan.core.plan import edits
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.power.node import Node
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


class _Hung(Struct, frozen=True):
    """A part on a relay's contact."""

    tie: Tie
    part: str
    contact: str
    closed: bool
    """the contact is closed while nothing drives the relay"""


def _hung(c: Circuit) -> Iterator[_Hung]:
    """Every part that hangs on a contact that something drives."""
    for hub in having(c, CONTACTS):
        for name, lead in c.parts[hub].leads.items():
            if lead.offers is None or lead.offers.kind != "contact":
                continue
            contact = f"{hub}.{name}"
            for tie in (t for t in c.ties.at.get(contact, ()) if t.to == contact):
                part_id = split(tie.lead)[0]
                if c.parts[part_id].category != "wiring":
                    yield _Hung(tie, part_id, contact, lead.offers.rests == "closed")


def _moves(c: Circuit, part_id: str) -> bool:
    """What a part does is noticed: it turns, pulls or pumps."""
    part = c.parts[part_id]
    return any(isinstance(e, Coil | Motor) for e in part.elements.values()) or any(
        isinstance(n, Supply) and n.jerks for lead in part.leads.values() for n in lead.needs
    )


@rule(
    "runs-unpowered",
    "Runs while no program does",
    "care",
    "A contact that rests closed feeds its load from the first moment on: at power-on, during a reset, and "
    "after the program has ended or crashed.",
    "catalogue: where the contact rests",
    each=of_circuit(_hung),
)
def runs_unpowered(facts: Facts, hung: _Hung) -> Iterator[Observation]:
    c = facts.circuit
    if not hung.closed or c.supplies.origin(hung.tie.lead) is None:
        return
    yield Observation(
        f"{c.placed[hung.part].name} hangs on {c.titles.full(hung.contact)}, which is closed while the "
        "relay is off: it runs at power-on, during a reset and after the program has ended.",
        (hung.tie.lead, hung.contact),
        remedies=from_circuit(_other_contact, hung),
        severity=None if _moves(c, hung.part) else "note",
    )


def _other_contact(c: Circuit, hung: _Hung) -> Iterator[Remedy]:
    """The contact of the same relay that rests open, where it is free."""
    part_id, name = split(hung.contact)
    own = c.parts[part_id].leads[name].offers
    for other, lead in c.parts[part_id].leads.items():
        offers = lead.offers
        free = f"{part_id}.{other}" not in c.ties.at
        if (
            free
            and offers
            and own
            and offers.kind == "contact"
            and offers.via == own.via
            and offers.rests == "open"
        ):
            contact = f"{part_id}.{other}"
            yield remedy(f"Move it to {c.titles.full(contact)}", edits.tie, hung.tie.lead, contact)


@rule(
    "contact-over",
    "Contact above its rating",
    "stop",
    "A contact that carries more than it is made for welds together, and then stays closed whatever the "
    "coil does.",
    "catalogue: rating of the relay's contact; current by the tree of supplies; the plan's assumption about "
    "coils",
    each=supply_nodes,
)
def contact_over(facts: Facts, node: Node) -> Iterator[Observation]:
    c = facts.circuit
    relay = c.parts[node.part].facts.relay if node.kind == "hub" and node.part in c.parts else None
    origin = c.supplies.origin(node.lead) if node.lead else None
    if relay is None or origin is None or not _passes(c, node.lead):
        return
    unclamped = [n for n in node.walk() if n.kind == "load" and n.part and _kicks(c, n.part)]
    amps = node.total.worst_a
    limit = relay.contact_a * (c.assumed("inductive") if unclamped else 1.0)
    beyond = amps > relay.contact_a or origin.volts.typ > relay.contact_v
    if not beyond and amps <= limit:
        return
    kind = " for a coil or motor without a clamp" if unclamped and amps <= relay.contact_a else ""
    yield Observation(
        f"{c.titles.of(node.lead)} carries {show(amps, 'A')} at worst, at {show(origin.volts.typ, 'V')}; the "
        f"contact is made for {show(limit, 'A')}{kind} and {show(relay.contact_v, 'V')}.",
        (node.lead,),
        (
            Number("worst current", amps, "A", limit),
            Number("voltage", origin.volts.typ, "V", relay.contact_v),
        ),
        severity=None if beyond else "care",
    )


def _passes(c: Circuit, lead: str) -> bool:
    """A contact of the part continues what comes in at a lead."""
    part_id, name = split(lead)
    return any(x.offers is not None and x.offers.via == name for x in c.parts[part_id].leads.values())


def _kicks(c: Circuit, part_id: str) -> bool:
    """It has a coil or motor of its own without a clamp."""
    return any(isinstance(e, Coil | Motor) and not e.clamped for e in c.parts[part_id].elements.values())


@rule(
    "contact-shorts",
    "Contact between two supplies",
    "stop",
    "A closed contact joins what lies on its two sides: two supplies then drive current into "
    "each other, and a supply on ground is a short circuit.",
    "Kirchhoff's voltage law",
    each=of_circuit(shorting_contacts),
)
def contact_shorts(facts: Facts, ends: tuple[str, str]) -> Iterator[Observation]:
    c = facts.circuit
    contact, common = ends
    places = [_lies_on(c, end) for end in ends]
    yield Observation(
        f"{c.titles.of(contact)} lies on {places[0]} and {c.titles.own(common)} on {places[1]}: closed, the "
        "contact joins the two.",
        ends,
        remedies=given(*[untied(c, t) for t in c.ties.at.get(contact, ()) if t.lead == contact]),
    )


def _lies_on(c: Circuit, end: str) -> str:
    origin = c.supplies.origins.get(c.nets.of(end))
    return origin.title if origin is not None else "ground"

"""Rules about things with two ends: coils, motors, knobs, contacts, sensors."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Coil, Motor, Switch, Track, Varies
from knotplan.catalog.part.needs import Analog, Input
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import move
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import parts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import Remedy


def _two_ended(c: Circuit, part_id: str) -> Iterator[tuple[str, str]]:
    """(lead, lead) of what lies between two leads that are both tied."""
    part = c.parts[part_id]
    for e in part.elements.values():
        if isinstance(e, Coil | Motor | Switch | Track | Varies) and {e.a, e.b} <= part.leads.keys():
            pair = f"{part_id}.{e.a}", f"{part_id}.{e.b}"
            own = not any(part.leads[n].offers for n in (e.a, e.b))
            if own and all(lead in c.ties.at for lead in pair):
                yield pair


@rule(
    "ends-alike",
    "Both ends on one side",
    "stop",
    "Current flows, and a voltage is seen, only between two different places: with both ends on one, "
    "nothing happens.",
    "Kirchhoff's voltage law",
    each=parts,
)
def ends_alike(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    for one, other in _two_ended(c, part_id):
        if c.nets.of(one) != c.nets.of(other):
            continue
        tie = c.ties.of(one)
        where = "ground" if c.nets.is_ground(one) else c.titles.full(tie.to) if tie else "one net"
        yield Observation(
            f"{c.titles.of(one)} and {c.titles.own(other)} are both on {where}: {c.placed[part_id].name} "
            "does nothing.",
            (one, other),
            remedies=from_facts(_elsewhere, one, other),
        )


def _elsewhere(facts: Facts, one: str, other: str) -> Iterator[Remedy]:
    """One of the ends on the best contact for it."""
    for lead in (one, other):
        tie = facts.circuit.ties.of(lead)
        if tie is not None:
            yield from move(facts, lead, tie.to, f"Tie {facts.circuit.titles.of(lead)} to")


@rule(
    "nothing-reads",
    "Nothing reads it",
    "stop",
    "A contact or a sensor says something only to a pin that reads one of its ends.",
    "catalogue: needs of the leads",
    each=parts,
)
def nothing_reads(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    part = c.parts[part_id]
    for pair in part.either_way:
        leads = [f"{part_id}.{name}" for name in pair]
        reads = any(isinstance(n, Input | Analog) for name in pair for n in part.leads[name].needs)
        if (
            not reads
            or not all(lead in c.ties.at for lead in leads)
            or any(_is_read(c, lead) for lead in leads)
        ):
            continue
        shorts = len({c.supplies.fed_by(lead) for lead in leads}) > 1 and any(
            isinstance(e, Switch) for e in part.elements.values()
        )
        harm = ", and closed it is a short circuit" if shorts else ""
        yield Observation(
            f"No pin reads {c.placed[part_id].name}: both of its ends are on supplies or ground{harm}.",
            tuple(leads),
            remedies=from_facts(_elsewhere, *leads),
        )


def _is_read(c: Circuit, lead: str) -> bool:
    """The end is on a signal pin, or on another part's lead, or something it leads on to is."""
    tie = c.ties.of(lead)
    pin = c.contacts.pin(tie.to) if tie is not None else None
    fed = c.supplies.origin(lead) is not None or c.nets.is_ground(lead)
    return (
        not fed
        or (pin is not None and pin.kind == "io")
        or any(
            split(m)[0] not in ("", split(lead)[0]) and m in c.ties.holders
            for m in c.nets.members.get(c.nets.of(lead), ())
        )
    )

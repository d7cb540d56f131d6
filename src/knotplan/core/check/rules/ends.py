"""Rules about things with two ends: coils, motors, knobs, contacts, sensors."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Switch
from knotplan.catalog.part.needs import Analog, Input
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import ground_pin, move
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, parts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.ends import OneSided, one_sided
from knotplan.core.match.fit import Grade, fit
from knotplan.core.plan import edits
from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import Remedy, remedy


@rule(
    "ends-alike",
    "Both ends on one side",
    "stop",
    "Current flows, and a voltage is seen, only between two different places: with both ends on one, "
    "nothing happens.",
    "Kirchhoff's voltage law",
    each=of_circuit(one_sided),
)
def ends_alike(facts: Facts, x: OneSided) -> Iterator[Observation]:
    c = facts.circuit
    if x.side == "net":
        tie = c.ties.of(x.one)
        where = "ground" if c.nets.is_ground(x.one) else c.titles.full(tie.to) if tie else "one net"
        text = f"{c.titles.of(x.one)} and {c.titles.own(x.other)} are both on {where}"
    else:
        ends = " and ".join(f"{c.titles.of(lead)} on {_where(c, lead)}" for lead in (x.one, x.other))
        origin = c.supplies.origin(x.one)
        supply = origin.title if origin is not None else "one supply"
        text = f"{ends} both lead to {'ground' if x.side == 'ground' else supply} only"
    yield Observation(
        f"{text}: {c.placed[x.part].name} does nothing.",
        (x.one, x.other),
        remedies=from_facts(_to_the_other_side, x),
    )


def _to_the_other_side(facts: Facts, x: OneSided) -> Iterator[Remedy]:
    """The end that hangs on ground on a supply that suits it, or the one on a supply on ground; else either
    end on the best contact for it."""
    c = facts.circuit
    for lead in (x.one, x.other):
        if x.side == "supply" and c.nets.of(lead) in c.supplies.origins and (pin := ground_pin(c)):
            yield remedy(f"Tie {c.titles.of(lead)} to {c.titles.full(pin)}", edits.tie, lead, pin)
            return
        if x.side != "ground" or not c.nets.is_ground(lead):
            continue
        for contact in c.supplies.pluses:
            if fit(c, lead, contact).grade <= Grade.GOOD:
                title = f"Tie {c.titles.of(lead)} to {c.titles.full(contact)}"
                yield remedy(title, edits.tie, lead, contact)
    yield from _elsewhere(facts, x.one, x.other)


def _where(c: Circuit, lead: str) -> str:
    tie = c.ties.of(lead)
    return c.titles.full(tie.to) if tie is not None else "nothing"


ACROSS = "Contact across a supply"
"""what nothing reads, where it does harm as well"""


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
            title=ACROSS if shorts else "",
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

"""Leads that are exchanged with each other or turned round, and loads on plain pins: found once, said by
the rules whose matter it is."""

from collections.abc import Iterator
from itertools import combinations

from knotplan.catalog.part.elements import Led
from knotplan.catalog.part.needs import Bus, Open, Supply, Switched
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import SUPPLIES, having, held_for, ties_of
from knotplan.core.circuit.keys import tie_ids
from knotplan.core.circuit.leds import leds_of
from knotplan.core.circuit.needs import SWITCHING
from knotplan.core.circuit.nets import rail_name
from knotplan.core.circuit.units import bus_jobs
from knotplan.core.match.answers.power import supply
from knotplan.core.match.ends import one_sided, shorting_contacts
from knotplan.core.memory.question import each, question, table
from knotplan.core.plan.document import Tie, split


def _with_supplies(c: Circuit) -> list[str]:
    return having(c, SUPPLIES)


@each(_with_supplies)
def _supplies_exchanged(c: Circuit, part_id: str) -> tuple[tuple[str, str], ...]:
    """Pairs of a part's supply leads that would both be right on each
    other's rails, and are not as they are."""
    leads = [f"{part_id}.{n}" for n in c.parts[part_id].supply_leads]
    fed = [
        (lead, need, tie)
        for lead in leads
        if (tie := c.ties.of(lead)) and isinstance(need := c.needs.of(lead), Supply)
    ]
    pairs = []
    for (one, need, tie), (other, need_2, tie_2) in combinations(fed, 2):
        as_is = supply(c, need, tie.to).ok and supply(c, need_2, tie_2.to).ok
        if not as_is and supply(c, need, tie_2.to).ok and supply(c, need_2, tie.to).ok:
            pairs.append((one, other))
    return tuple(pairs)


def exchanged_supplies(c: Circuit) -> list[tuple[str, str]]:
    """Those of all parts."""
    return [pair for pairs in _supplies_exchanged.all(c).values() for pair in pairs]


def _suspects(c: Circuit) -> list[str]:
    """The parts that may have a lead which is not right where it is."""
    unmet = {split(c.ties.by_id[tie_id].lead)[0] for tie_id in is_unmet.all(c)}
    return [*dict.fromkeys((*having(c, Bus), *sorted(unmet)))]


@each(_suspects)
def _leads_exchanged(c: Circuit, part_id: str) -> tuple[tuple[str, str], ...]:
    """Pairs of a part's leads neither of which is right where it is, and both of which would be on the
    other's contact. Each lead is in one pair at most; supplies, LEDs and serial lines
    have rules of their own."""
    ties = [tie for tie in ties_of(c, part_id) if is_unmet(c, tie.id) or _other_line(c, tie)]
    if len(ties) < 2:
        return ()
    pairs: list[tuple[str, str]] = []
    taken = {
        lead for pair in (*_supplies_exchanged(c, part_id), *_leds_reversed(c, part_id)) for lead in pair
    }
    taken |= {tie.lead for tie in ties if tie.id in c.ties.held and _is_crossed(c, tie.id)}
    for one, other in combinations(ties, 2):
        swapped = _right(c, one.lead, other.to) and _right(c, other.lead, one.to)
        if swapped and not {one.lead, other.lead} & taken:
            pairs.append((one.lead, other.lead))
            taken |= {one.lead, other.lead}
    return tuple(pairs)


def exchanged_leads(c: Circuit) -> list[tuple[str, str]]:
    """Those of all parts."""
    return [pair for pairs in _leads_exchanged.all(c).values() for pair in pairs]


def _output_for(c: Circuit, tie: Tie) -> str:
    """The lead that a tie is meant for, where it is on an output for other parts."""
    from knotplan.core.match.fit import able

    spec, (part_id, name) = c.contacts.lead(tie.lead), split(tie.lead)
    if spec is None or not isinstance(spec.needs[0], Open) or spec.offers is None or spec.offers.kind != "io":
        return ""
    for other in c.parts[part_id].leads:
        lead = f"{part_id}.{other}"
        free = other != name and c.ties.of(lead) is None and c.needs.required(lead)
        led = [t for t in c.ties.at.get(lead, ()) if t.to == lead]
        if free and able(c, lead, tie.to) and all(able(c, t.lead, tie.lead) for t in led):
            return lead
    return ""


@question
def exchanged_outputs(c: Circuit) -> list[tuple[str, str]]:
    """(output, lead) of parts where an output for other parts is tied to what another of its leads wants:
    data fed in where they come out, a transistor with drain and source exchanged."""
    ties = [tie for part_id in having(c, Open) for tie in ties_of(c, part_id, Open)]
    return [(tie.lead, lead) for tie in ties if (lead := _output_for(c, tie))]


@each(tie_ids)
def is_unmet(c: Circuit, tie_id: str) -> bool:
    """A tie to something that can meet none of its lead's needs, whoever else is there."""
    from knotplan.core.match.fit import able

    t = c.ties.by_id[tie_id]
    return not able(c, t.lead, t.to) and not any(able(c, t.lead, other) for other in _offering(c, t.to))


def is_unmet_lead(c: Circuit, lead: str) -> bool:
    """A lead with such a tie."""
    return any(is_unmet(c, t.id) for t in c.ties.at.get(lead, ()) if t.lead == lead)


def _other_line(c: Circuit, tie: Tie) -> bool:
    """A line of a bus on a pin that has another line of that kind of bus."""
    need, pin = c.needs.of(tie.lead), c.contacts.pin(tie.to)
    return isinstance(need, Bus) and pin is not None and bool(pin.jobs(need.bus)) and not bus_jobs(need, pin)


def _right(c: Circuit, lead: str, contact: str) -> bool:
    """A contact can do what a lead needs, and of a bus it is the line that the lead wants."""
    from knotplan.core.match.fit import able

    needs = [n for n in c.contacts.lead(lead).needs if isinstance(n, Bus)]  # type: ignore[union-attr]
    pin = c.contacts.pin(contact)
    reached = [contact, *_offering(c, contact)]
    if needs and pin is not None and pin.jobs(needs[0].bus):
        return bool(bus_jobs(needs[0], pin))
    return any(able(c, lead, there) for there in reached)


def _offering(c: Circuit, contact: str) -> list[str]:
    """The contacts on the same net that offer something, where this one offers nothing itself."""
    if contact in c.contacts.offers:
        return []
    return [m for m in c.nets.members.get(c.nets.of(contact), [contact]) if m in c.contacts.offers]


@each(held_for(Bus))
def _is_crossed(c: Circuit, tie_id: str) -> bool:
    """A tie that joins transmit to transmit, or receive to receive; a pin
    with any function plays either part."""
    tie = c.ties.held[tie_id]
    need, pin = c.needs.of(tie.lead), c.contacts.pins[tie.to]
    serial = isinstance(need, Bus) and need.bus == "uart" and bool(pin.jobs("uart"))
    return serial and isinstance(need, Bus) and not bus_jobs(need, pin)


def crossed_lines(c: Circuit) -> list[Tie]:
    """All such ties."""
    return [c.ties.held[tie_id] for tie_id in _is_crossed.all(c)]


@each(held_for(Switched))
def _is_undriven(c: Circuit, tie_id: str) -> bool:
    """A tie that puts a load straight on a signal pin."""
    tie = c.ties.held[tie_id]
    straight = isinstance(c.needs.of(tie.lead), Switched)
    return straight and not any(f in SWITCHING for f in c.contacts.pins[tie.to].functions)


@table
def undriven_loads(c: Circuit) -> dict[str, list[Tie]]:
    """Ties that put a load straight on a signal pin: {part id: ties}."""
    ties: dict[str, list[Tie]] = {}
    for tie_id in _is_undriven.all(c):
        tie = c.ties.held[tie_id]
        ties.setdefault(split(tie.lead)[0], []).append(tie)
    return ties


def _with_leds(c: Circuit) -> list[str]:
    return having(c, Led)


@each(_with_leds)
def _leds_reversed(c: Circuit, part_id: str) -> tuple[tuple[str, str], ...]:
    """(anode, cathode) of a part's LEDs the wrong way round: the anode on ground, or
    the cathode on a supply, and not both."""
    turned = []
    for _, led in leds_of(c, part_id):
        anode, cathode = (c.ties.of(f"{part_id}.{n}") for n in (led.a, led.b))
        if anode is None or cathode is None:
            continue
        fed = c.supplies.origin(cathode.to) is not None and not _is_signal(c, cathode)
        if (c.nets.is_ground(anode.to) and not c.nets.is_ground(cathode.to)) or (
            fed and c.supplies.origin(anode.to) is None
        ):
            turned.append((anode.lead, cathode.lead))
    return tuple(turned)


def reversed_leds(c: Circuit) -> list[tuple[str, str]]:
    """Those of all parts."""
    return [pair for pairs in _leds_reversed.all(c).values() for pair in pairs]


def _is_signal(c: Circuit, tie: Tie) -> bool:
    pin = c.contacts.pin(tie.to)
    return pin is not None and pin.kind == "io"


@question
def reversed_supplies(c: Circuit) -> list[str]:
    """Supplies whose plus lies on ground and whose minus lies on a rail, or feeds something."""
    turned = []
    for part_id, source in c.supplies.on_bench.items():
        if source.plus == source.minus or not c.nets.is_ground(f"{part_id}.{source.plus}"):
            continue
        minus = c.nets.of(f"{part_id}.{source.minus}")
        on_rail = any(c.nets.of(rail_name(r)) == minus for r in c.board.rails)
        feeds = any(
            isinstance(spec.needs[0], Supply)
            for m in c.nets.members.get(minus, ())
            if (spec := c.contacts.lead(m)) is not None
        )
        if minus != c.nets.ground and (on_rail or feeds):
            turned.append(part_id)
    return turned


def has_rule_of_its_own(c: Circuit, tie: Tie) -> bool:
    """A rule of its own says what is wrong with this tie."""
    return tie.lead in _leads_with_rules(c)


@question
def _leads_with_rules(c: Circuit) -> frozenset[str]:
    def all_of_them() -> Iterator[str]:
        for pair in (*exchanged_supplies(c), *exchanged_leads(c)):
            yield from pair
        for output, lead in exchanged_outputs(c):
            yield from (output, *(t.lead for t in c.ties.at.get(lead, ())))
        for leds in reversed_leds(c):
            yield from leds
        for part_id in reversed_supplies(c):
            yield from (
                f"{part_id}.{lead}"
                for lead in (c.supplies.on_bench[part_id].plus, c.supplies.on_bench[part_id].minus)
            )
        yield from (t.lead for t in crossed_lines(c))
        for x in one_sided(c):
            yield from (x.one, x.other)
        for pair in shorting_contacts(c):
            yield from pair
        yield from (t.lead for ties in undriven_loads(c).values() for t in ties)

    return frozenset(all_of_them())

"""Rules about which lead is tied to which contact."""

from collections.abc import Iterator, Sequence

from knotplan.catalog.part.elements import Load
from knotplan.catalog.part.needs import Driven, Gives, Ground, Open, Supply, Switched
from knotplan.catalog.part.source import Source
from knotplan.core.check.asked import from_facts, given
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import (
    elsewhere,
    ground_pin,
    move,
    other_choices,
    own_supply,
    stronger_switch,
    switch,
    untied,
)
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import leads, of_circuit, parts, pins, ties, ties_on_pins
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.needs import SWITCHING
from knotplan.core.circuit.nets import GROUND
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import pulse_use
from knotplan.core.match.answers.together import goes_with
from knotplan.core.match.exchanged import has_rule_of_its_own, is_unmet_lead, reversed_supplies
from knotplan.core.match.fit import Fit, Grade, able, fit, need_words
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Parting
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


@rule(
    "lead-untied",
    "Lead not tied yet",
    "to-do",
    "A lead that the part cannot work without goes nowhere yet.",
    "catalogue: the part's leads",
    each=leads,
)
def lead_untied(facts: Facts, lead: str) -> Iterator[Observation]:
    c = facts.circuit
    if lead in c.ties.at:
        if _leads_nowhere(c, lead):
            yield Observation(
                f"{c.titles.of(lead)} is in use, and neither of its contacts is: nothing comes through.",
                (lead,),
            )
    elif c.needs.required(lead) and not _gives_by_itself(c, lead):
        used = c.needs.called_for_by(lead)
        pin = c.contacts.pin(used) if used else None
        does = (
            "what it passes on comes in here"
            if pin and pin.kind == "contact"
            else "this lead says what it does"
        )
        why = f" {c.titles.of(used)} is in use, and {does}." if used else ""
        yield Observation(
            f"{c.titles.of(lead)} has to be tied.{why}{_none_can(c, lead)}",
            (lead,),
            remedies=from_facts(_tied, lead),
        )


def _gives_by_itself(c: Circuit, lead: str) -> bool:
    """A lead that nobody has to tie for the part's own sake: an output, or an end of a supply."""
    spec, part = c.contacts.lead(lead), c.parts[split(lead)[0]]
    need = spec.needs[0] if spec else None
    return isinstance(need, Gives | Open) or (part.source is not None and isinstance(need, Ground))


def _leads_nowhere(c: Circuit, lead: str) -> bool:
    """The common contact of a relay of which no other contact is tied."""
    part_id, name = split(lead)
    part = c.parts[part_id]
    contacts = part.contacts_of.get(name, ())
    if not contacts or any(f"{part_id}.{contact}" in c.ties.at for contact in contacts):
        return False
    # a contact that waits for its load harms nobody
    waits = c.supplies.origin(lead) is not None or c.nets.is_ground(lead)
    return part.category != "wiring" and not waits


def _tied(facts: Facts, lead: str) -> tuple[Remedy, ...]:
    """To the best contact; a hungry lead that the board should not feed gets a supply of its own."""
    moves = move(facts, lead, verb="Tie to")
    return moves if moves or not isinstance(facts.circuit.needs.of(lead), Supply) else own_supply(facts, lead)


def _none_can(c: Circuit, lead: str) -> str:
    """What to say where nothing on this bench could ever meet the need, whoever else is there."""
    able = any(
        fit(c, lead, contact, alone=True, rows=[]).grade < Grade.IMPOSSIBLE for contact in c.contacts.offers
    )
    if able or isinstance(c.needs.of(lead), Open):
        return ""
    return f" Nothing on {c.board.title} can do what it needs ({need_words(c, lead)})."


@rule(
    "pin-shared",
    "Pin used twice",
    "stop",
    "Two signals on one pin disturb each other: only one can be meant.",
    "one pin, one signal",
    each=pins,
)
def pin_shared(facts: Facts, pin_id: str) -> Iterator[Observation]:
    c = facts.circuit
    ties = c.ties.holders[pin_id]
    together = all(goes_with(c, t.lead, c.needs.of(t.lead), ties[0]) for t in ties[1:])
    if len(ties) > 1 and not together and not _loads_together(c, pin_id, ties):
        names = " and ".join(c.titles.of(t.lead) for t in ties)
        last = ties[-1].lead
        yield Observation(
            f"{names} are both on {c.titles.full(pin_id)}.",
            (pin_id, *(t.lead for t in ties)),
            remedies=from_facts(move, last, verb=f"Move {c.titles.of(last)} to"),
        )


def _loads_together(c: Circuit, contact: str, ties: Sequence[Tie]) -> bool:
    """Loads of several parts on one switch of a hub, on and off together: their currents are added up."""
    owner, pin = split(contact)[0], c.contacts.pins[contact]
    apart = len({split(t.lead)[0] for t in ties}) == len(ties)
    return owner != BOARD and apart and any(f in SWITCHING for f in pin.functions)


def _reached(facts: Facts, contact: str) -> list[str]:
    """The contacts on the same net that offer something."""
    c = facts.circuit
    if contact in c.contacts.offers:
        return [contact]
    return [m for m in c.nets.members.get(c.nets.of(contact), [contact]) if m in c.contacts.offers]


@rule(
    "need-unmet",
    "The pin cannot do this",
    "stop",
    "This contact cannot do what the lead needs.",
    "catalogue: needs of the lead, functions of the pin",
    each=ties,
)
def need_unmet(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    if not is_unmet_lead(c, tie.lead):
        return
    spec = c.contacts.lead(tie.lead)
    assert spec is not None
    pin = c.contacts.pin(tie.to)
    if isinstance(spec.needs[0], Gives) and (
        c.contacts.lead(tie.to) or (pin and pin.kind in ("supply", "ground"))
    ):
        return  # joined supplies have a rule of their own
    if pin is not None and pin.kind == "supply" and c.nets.is_ground(tie.to):
        return  # a rail that is short-circuited is no use to anyone; that has a rule of its own, said once
    reached = _reached(facts, tie.to)
    if (
        pin is not None
        and pin.kind == "contact"
        and f"{split(tie.to)[0]}.{c.contacts.via(tie.to)}" not in c.ties.at
    ):
        return  # its common contact is to be tied yet, and that is said
    if has_rule_of_its_own(c, tie) or any(able(c, tie.lead, contact) for contact in reached):
        return
    answers: list[Fit] = [fit(c, tie.lead, contact, alone=True, rows=[]) for contact in reached]
    best = min(answers, key=lambda f: (f.grade, f.cost), default=None)
    if best is None and c.contacts.lead(tie.to) is not None:
        return  # lead to lead: the other end's own tie is looked at
    if best is None or best.grade == Grade.IMPOSSIBLE:
        why = best.reason if best else "goes nowhere"
        if isinstance(spec.needs[0], Gives):
            yield Observation(
                f"{c.titles.of(tie.lead)} on {c.titles.full(tie.to)}: {why}.",
                (tie.lead, tie.to),
                remedies=given(untied(c, tie)),
            )
            return
        yield Observation(
            f"{c.titles.of(tie.lead)} on {c.titles.full(tie.to)}: {why}.{_none_can(c, tie.lead)}",
            (tie.lead, tie.to),
            remedies=from_facts(_elsewhere, tie),
            title=_what_is_wrong(c, tie),
        )


def _elsewhere(facts: Facts, tie: Tie) -> Iterator[Remedy]:
    """On another contact; a load on a stronger switch."""
    yield from elsewhere(facts, tie)
    if isinstance(facts.circuit.needs.of(tie.lead), Switched):
        yield from stronger_switch(facts, tie)
    yield from other_choices(facts, split(tie.lead)[0], "rated voltage")


def _what_is_wrong(c: Circuit, tie: Tie) -> str:
    """What is said of two common cases instead of the rule's title."""
    if _only_reads(c, tie):
        return "Input-only pin"
    fed = isinstance(c.needs.of(tie.lead), Supply) and c.supplies.origin(tie.to) is not None
    return "Supply outside the part's range" if fed else ""


def _only_reads(c: Circuit, tie: Tie) -> bool:
    pin = c.contacts.pin(tie.to)
    return pin is not None and pin.reads and not pin.drives and isinstance(c.needs.of(tie.lead), Driven)


@rule(
    "pin-reserved",
    "Pin already has a job",
    "care",
    "The board or its system uses this pin for something of its own.",
    "catalogue: reservations of the board",
    each=ties_on_pins,
)
def pin_reserved(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    pin = c.contacts.pins[tie.to]
    r = c.hardware.reservation(pin)
    if r is not None:
        yield Observation(
            f"{c.titles.of(tie.lead)} on {c.titles.full(tie.to)}: {r.reason}. To free it: {r.lifted_by}.",
            (tie.lead, tie.to),
            severity=r.severity,
            title=f"{r.title[0].upper()}{r.title[1:]} pin",
            remedies=from_facts(_freed, tie, r.setting),
        )


def _freed(facts: Facts, tie: Tie, setting: str) -> Iterator[Remedy]:
    yield from elsewhere(facts, tie)
    if setting:
        yield switch(facts, setting)


@rule(
    "timer-shared",
    "Two frequencies on one timer",
    "stop",
    "The channels of one timer have their frequency in common, so only one of the two can be had.",
    "catalogue: peripherals of the board",
    each=of_circuit(pulse_use),
)
def timer_shared(facts: Facts, unit: UnitId) -> Iterator[Observation]:
    c = facts.circuit
    uses = pulse_use(c)[unit]
    if unit.any_pin:
        return  # a pool's channels each choose their frequency; that they run short has a rule of its own
    named = c.hardware.unit_named(unit)
    title = named.title if named else str(unit)
    first, *rest = uses
    for channel, lead, hz in rest:
        if hz != first[2] or channel == first[0]:
            clash = (
                f"{show(first[2], 'Hz')} for {c.titles.of(first[1])} and {show(hz, 'Hz')} for "
                f"{c.titles.of(lead)}"
                if hz != first[2]
                else f"{c.titles.of(first[1])} and {c.titles.of(lead)} on the same channel"
            )
            yield Observation(
                f"{title.capitalize()} would have to give {clash}.",
                (first[1], lead),
                (Number(c.titles.of(first[1]), first[2], "Hz"), Number(c.titles.of(lead), hz, "Hz")),
                from_facts(_timed_apart, first, (channel, lead, hz)),
            )


def _timed_apart(
    facts: Facts, first: tuple[str, str, float], second: tuple[str, str, float]
) -> Iterator[Remedy]:
    """One of them on another timer; or both at one frequency, where a
    light or a motor does not mind which."""
    c = facts.circuit
    tie = c.ties.of(second[1])
    assert tie is not None
    yield from move(facts, second[1], tie.to, verb=f"Move {c.titles.of(second[1])} to")
    if first[2] == second[2]:
        return
    for (_, lead, _), (_, _, hz) in ((first, second), (second, first)):
        t = c.ties.of(lead)
        if t is not None and hz >= STEADY_HZ and c.parts[split(lead)[0]].category == "light":
            yield remedy(f"Pulse {c.titles.of(lead)} at {show(hz, 'Hz')} as well", edits.set_hertz, t.id, hz)


STEADY_HZ = 100.0
"""from which a dimmed light no longer flickers"""


@rule(
    "no-common-ground",
    "No common ground",
    "stop",
    "Current has to come back: without a wire between the two grounds nothing that the supply feeds can "
    "be spoken to, and its current looks for a way through signal pins.",
    "Kirchhoff's current law",
    each=parts,
)
def no_common_ground(facts: Facts, part_id: str) -> Iterator[Observation]:
    source = facts.circuit.supplies.on_bench.get(part_id)
    if source is None:
        yield from _floating(facts.circuit, part_id)
    else:
        yield from _apart(facts, part_id, source)


def _floating(c: Circuit, part_id: str) -> Iterator[Observation]:
    """A part's ground that leads to nothing which leads on: not to the board's, nor to a supply's."""
    if not any(isinstance(e, Load) for e in c.parts[part_id].elements.values()):
        return  # lights and knobs have ends, and no ground of their own
    name = c.parts[part_id].ground
    tie = c.ties.of(f"{part_id}.{name}") if name else None
    if tie is None or any(isinstance(b, Parting) for b in tie.beads):
        return
    net = c.nets.of(tie.lead)
    if net == c.nets.ground or net in c.supplies.minuses:
        return
    held = [t for m in c.nets.members.get(net, ()) for t in c.ties.at.get(m, ())]
    if not any(t.to in c.contacts.pins or t.beads for t in held):
        yield Observation(
            f"{c.titles.of(tie.lead)} is on {c.titles.full(tie.to)}, and that is not joined to the board's "
            "ground.",
            (tie.lead,),
            remedies=from_facts(_grounded, tie.lead),
        )


def _grounded(facts: Facts, lead: str) -> Iterator[Remedy]:
    pin = ground_pin(facts.circuit)
    if pin:
        title = f"Tie {facts.circuit.titles.of(lead)} to {facts.circuit.titles.full(pin)}"
        yield remedy(title, edits.tie, lead, pin)


def _apart(facts: Facts, part_id: str, source: Source) -> Iterator[Observation]:
    c = facts.circuit
    plus, minus = f"{part_id}.{source.plus}", f"{part_id}.{source.minus}"
    if (
        plus == minus
        or not any(end in c.ties.at for end in (plus, minus))
        or c.nets.of(minus) == c.nets.of(GROUND)
        or part_id in reversed_supplies(c)
    ):
        return
    does = "feeds" if plus in c.ties.at else "grounds"
    yield Observation(
        f"{c.placed[part_id].name} {does} parts of this plan, but its {c.titles.own(minus)} is not joined to "
        "the board's ground.",
        (part_id,),
        remedies=from_facts(_joined, minus),
    )


def _joined(facts: Facts, minus: str) -> Iterator[Remedy]:
    c = facts.circuit
    pin, old = ground_pin(c), c.ties.of(minus)
    if not pin:
        return
    away = (Step(edits.untie, (old.id,)),) if old else ()  # with whatever bead keeps it from joining
    yield Remedy(f"Tie its 0 V to {c.titles.full(pin)}", (*away, Step(edits.tie, (minus, pin))))

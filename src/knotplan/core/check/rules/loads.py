"""Rules about what coils and motors need between them and a pin."""

from collections.abc import Callable, Iterator
from functools import partial

from msgspec import Struct

from knotplan.catalog.part.elements import Coil, Motor
from knotplan.catalog.part.needs import Supply, Switched
from knotplan.catalog.part.part import Job, Part
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import exchanged, grounded, other_choices, stronger_switch, supply_of
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, parts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.supplies import Origin
from knotplan.core.engine.keys import of_part
from knotplan.core.match.exchanged import exchanged_supplies, undriven_loads
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Clamp, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.ids import slug
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

STARVED, DEAD = 0.7, 0.5
"""a load that gets less than the first share of its voltage turns or pulls feebly, with less than the second
not at all"""
NOTHING = 0.05
"""with less than this share it is not driven at all, which other rules say"""
FORWARD_V = 0.5
"""at which a clamp diode begins to conduct"""


def _switched(c: Circuit, lead: str) -> Switched | None:
    """The load that a lead has to have switched."""
    spec = c.contacts.lead(lead)
    return next((n for n in spec.needs if isinstance(n, Switched)), None) if spec else None


@rule(
    "driver-missing",
    "Load straight on a pin",
    "stop",
    "A pin gives milliamperes; a coil or motor takes a hundred times as much, and gives a kick back when it "
    "is switched off. The pin does not survive that.",
    "catalogue: current of the load, absolute maximum of the pin's driver",
    each=of_circuit(undriven_loads),
)
def driver_missing(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    ties = undriven_loads(c)[part_id]
    need = _switched(c, ties[0].lead)
    assert need is not None
    limit = c.hardware.driver(ties[0].to).absolute_a
    where = " and ".join(c.titles.full(t.to) for t in ties)
    yield Observation(
        f"{c.placed[part_id].name} takes up to {show(need.worst_a, 'A')} and is tied straight to {where}, "
        f"which can bear {show(limit, 'A')} at most.",
        (part_id, *(t.lead for t in ties)),
        (Number("current of the load", need.worst_a, "A", limit),),
        from_facts(_hub_between, part_id, ties, need),
    )


def _hub_between(facts: Facts, part_id: str, ties: list[Tie], need: Switched) -> Iterator[Remedy]:
    """A hub that can switch the load, driven by the pins on which the load is now."""
    jobs: tuple[Job, ...] = ("motor bridge",) if need.by == "bridge" else ("coil driver", "load switch")
    for job in jobs:
        hub = next((p for p in facts.catalog.proposed(job) if _carries(p, need, len(ties))), None)
        if hub is not None:
            yield _between(facts, hub, ties, part_id)
            return


def _carries(hub: Part, need: Switched, leads: int) -> bool:
    """Whether a hub has channels enough, and each bears the load's current. The
    two leads of a winding or motor are on one bridge."""
    channels = hub.channels[:2] if need.by == "bridge" else hub.channels
    if need.by == "bridge":
        return leads <= len(channels)
    bears = min(driver.recommended_a for driver in hub.drivers.values())
    return leads <= len(channels) and (need.worst_a <= bears or leads == len(channels) == 1)


def _between(facts: Facts, hub: Part, ties: list[Tie], part_id: str) -> Remedy:
    """Each lead on an output of the hub, the input beside it on the lead's
    old pin; its supplies and its ground."""
    c = facts.circuit
    new = slug(hub.title, set(c.placed))
    steps = [Step(edits.add_part, (hub.id, hub.title))]
    for tie, (given, output) in zip(ties, hub.channels, strict=False):
        steps += [Step(edits.tie, (tie.lead, f"{new}.{output}")), Step(edits.tie, (f"{new}.{given}", tie.to))]
    supply, logic = supply_of(c, part_id), c.supplies.rail_contact(ties[0].to)
    if not supply and len(ties) == 1:  # between the pin and ground: a hub that sinks wants it on plus
        supply = _plus_for(c, part_id)
        far = c.parts[part_id].other_end.get(split(ties[0].lead)[1], "")
        steps += [Step(edits.tie, (f"{part_id}.{far}", supply))] if far and supply else []
    if supply and hub.load_supply:
        steps.append(Step(edits.tie, (f"{new}.{hub.load_supply}", supply)))
    steps += [Step(edits.tie, (f"{new}.{lead}", logic)) for lead in hub.logic_supplies if logic]
    title = f"Put a {hub.title} before {c.placed[part_id].name}"
    return Remedy(title, (*steps, *grounded(c, f"{new}.{hub.ground}")))


def _plus_for(c: Circuit, part_id: str) -> str:
    """A supply's contact with a voltage that the load is made for: of the bench, else of the board."""
    needs = [n for lead in c.parts[part_id].leads.values() for n in lead.needs if isinstance(n, Supply)]
    board = [k for k in map(c.contacts.supply_contact, c.supplies.live_rails) if k]
    for contact in (*c.supplies.pluses, *board):
        volts = origin.volts if (origin := c.supplies.origin(contact)) else None
        if volts and any(n.least_v <= volts.typ <= n.most_v for n in needs):
            return contact
    return ""


@rule(
    "clamp-missing",
    "Nothing catches the coil's kick",
    "stop",
    "A coil goes on driving its current when it is switched off; without a diode that takes it, the voltage "
    "rises until something breaks down, usually the transistor.",
    "energy L·I²/2; catalogue: inductance of the coil, clamps of the driver",
    each=parts,
)
def clamp_missing(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    part = c.parts[part_id]
    for name, e in part.elements.items():
        if not isinstance(e, Coil | Motor) or e.clamped:
            continue
        for lead in (f"{part_id}.{e.a}", f"{part_id}.{e.b}"):
            tie = c.ties.of(lead)
            if tie is None or not _unclamped(c, tie):
                continue
            amps = max((r.most for r in facts.points.bars.get(of_part(part_id, name), [])), default=0.0)
            joule = e.henry * amps**2 / 2 if isinstance(e, Coil) else 0.0
            stored = f", {show(joule, 'J')} stored," if joule else ""
            yield Observation(
                f"When {c.titles.full(tie.to)} switches off, {c.titles.of(lead)} goes on driving "
                f"{show(amps, 'A')}{stored} with nowhere to go.",
                (lead, tie.to),
                (Number("current", amps, "A"), *([Number("energy", joule, "J")] if joule else [])),
                from_facts(_clamped, part_id, tie),
            )


def _unclamped(c: Circuit, tie: Tie) -> bool:
    """The contact switches a load, and neither it nor a bead takes the kick."""
    pin = c.contacts.pin(tie.to)
    if pin is None or not {"sink", "source"} & set(pin.functions):
        return False
    clamps = c.hardware.driver(tie.to).clamps
    if clamps and f"{split(tie.to)[0]}.{clamps}" in c.ties.at:
        return False
    net = c.nets.of(tie.to)
    return not any(
        isinstance(b, Clamp)
        for m in c.nets.members.get(net, [tie.to])
        for t in c.ties.at.get(m, ())
        for b in t.beads
    )


def _clamped(facts: Facts, part_id: str, tie: Tie) -> Iterator[Remedy]:
    c = facts.circuit
    supply = supply_of(c, part_id)
    if not supply:
        return
    hub, clamps = split(tie.to)[0], c.hardware.driver(tie.to).clamps
    if clamps:
        yield remedy(
            f"Tie {c.titles.of(f'{hub}.{clamps}')} to {c.titles.full(supply)}",
            edits.tie,
            f"{hub}.{clamps}",
            supply,
        )
    yield remedy(f"Add a clamp diode to {c.titles.full(supply)}", edits.add_bead, tie.id, Clamp(supply))


@rule(
    "clamp-low",
    "Clamp on a rail below the load's",
    "stop",
    "A clamp diode that leads to a lower rail than the coil's own conducts all the time: current runs "
    "through the coil into that rail, lifts it, and the load never switches off.",
    "Kirchhoff's voltage law; voltages of the supplies by the catalogue",
    each=parts,
)
def clamp_low(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    for e in c.parts[part_id].elements.values():
        if not isinstance(e, Coil | Motor):
            continue
        for own, other in ((e.a, e.b), (e.b, e.a)):
            tie, rail = c.ties.of(f"{part_id}.{own}"), c.supplies.origin(f"{part_id}.{other}")
            if tie is None or rail is None or c.nets.of(tie.lead) in c.supplies.origins:
                continue
            for where, low, away in _clamps(c, tie):
                if low.volts.typ < rail.volts.typ - FORWARD_V:
                    yield Observation(
                        f"{where} leads to {low.title}, {show(low.volts.typ, 'V')}, and "
                        f"{c.placed[part_id].name} hangs on {rail.title}, {show(rail.volts.typ, 'V')}: "
                        "current runs through it and the diode all the time.",
                        (tie.lead, tie.to),
                        (Number("clamp's rail", low.volts.typ, "V", rail.volts.typ, lower=True),),
                        from_facts(away, f"{part_id}.{other}"),
                    )


Away = Callable[[Facts, str], Iterator[Remedy]]


def _clamps(c: Circuit, tie: Tie) -> Iterator[tuple[str, Origin, Away]]:
    """What catches the kick at the switched end of a load: in words, the rail that it leads to, and how it is
    led elsewhere."""
    pin = c.contacts.pin(tie.to)
    if pin is not None and pin.kind == "io" and pin.driver and (name := c.hardware.driver(tie.to).clamps):
        common = f"{split(tie.to)[0]}.{name}"
        origin = c.supplies.origin(common)
        if common in c.ties.at and origin is not None:
            yield c.titles.of(common), origin, partial(_common_to, common)
    for m in c.nets.members.get(c.nets.of(tie.lead), [tie.lead]):
        for t in {t.id: t for t in c.ties.at.get(m, ())}.values():
            for at, bead in enumerate(t.beads):
                origin = c.supplies.origin(bead.rail) if isinstance(bead, Clamp) and bead.rail else None
                if origin is not None and t.lead == m:
                    yield f"The clamp diode at {c.titles.of(t.lead)}", origin, partial(_clamp_to, t, at)


def _common_to(common: str, facts: Facts, fed: str) -> Iterator[Remedy]:
    c = facts.circuit
    tie = c.ties.of(fed)
    if tie is not None:
        yield remedy(f"Tie {c.titles.of(common)} to {c.titles.full(tie.to)}", edits.tie, common, tie.to)


def _clamp_to(clamped: Tie, at: int, facts: Facts, fed: str) -> Iterator[Remedy]:
    c = facts.circuit
    tie = c.ties.of(fed)
    if tie is not None:
        yield remedy(f"Lead it to {c.titles.full(tie.to)}", edits.change_bead, clamped.id, at, Clamp(tie.to))


@rule(
    "load-starved",
    "Load gets too little voltage",
    "care",
    "What drops in the driver is missing at the load: a relay does not pull in, a motor stands still and "
    "hums.",
    "catalogue: drop and resistance of the driver; voltages by nodal analysis",
    each=parts,
)
def load_starved(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    worst = min(_starved(facts, part_id), key=lambda x: x.volts / x.wanted, default=None)
    if worst is not None:  # of several windings, the one that gets least
        yield Observation(
            f"{c.placed[part_id].name} gets {show(worst.volts, 'V')} of the {show(worst.wanted, 'V')} that "
            f"it is made for, and wants {show(worst.least, 'V')} at least.",
            worst.leads,
            (Number("voltage at the load", worst.volts, "V", worst.least, lower=True),),
            from_facts(_stronger, part_id, worst.wanted * STARVED),
            "stop" if worst.volts < DEAD * worst.wanted else None,
        )


class _Starved(Struct, frozen=True):
    """A coil or motor that gets too little."""

    leads: tuple[str, str]
    volts: float
    wanted: float
    least: float


def _starved(facts: Facts, part_id: str) -> Iterator[_Starved]:
    c = facts.circuit
    part = c.parts[part_id]
    for name, e in part.elements.items():
        if not isinstance(e, Coil | Motor):
            continue
        leads = f"{part_id}.{e.a}", f"{part_id}.{e.b}"
        needs = [need for lead in leads if (need := _switched(c, lead))]
        readings = facts.points.bars.get(of_part(part_id, name), [])
        if not needs or not readings:
            continue
        ohm = e.ohm.typ if isinstance(e, Coil) else e.volts / e.usual_a
        volts, wanted = max(abs(r.typ) for r in readings) * ohm, needs[0].volts
        least = min([STARVED * wanted, *(n.least_v for n in _supplies(part, e.a, e.b))])
        if NOTHING * wanted < volts < least:
            yield _Starved(leads, volts, wanted, least)


def _supplies(part: Part, *leads: str) -> list[Supply]:
    """What the two ends of a load say about a supply of their own: from its least voltage on it runs."""
    ends = [part.leads[lead] for lead in leads if lead in part.leads]
    return [need for lead in ends for need in lead.needs if isinstance(need, Supply)]


def _stronger(facts: Facts, part_id: str, least_v: float) -> Iterator[Remedy]:
    """Without a resistor in its way; a load that is made for what is there; a transistor that hardly drops,
    where the supply would do for the load then."""
    c = facts.circuit
    ties = [t for name in c.parts[part_id].leads if (t := c.ties.of(f"{part_id}.{name}")) is not None]
    for tie in ties:
        for at, bead in enumerate(tie.beads):
            if isinstance(bead, SeriesResistor):
                yield remedy(f"Take out the {show(bead.ohm, 'Ω')} resistor", edits.remove_bead, tie.id, at)
    yield from other_choices(facts, part_id, "rated voltage")
    origin = c.supplies.origin(f"{part_id}.{next(iter(c.parts[part_id].leads))}")
    if origin and origin.volts.typ > least_v:
        for tie in ties:
            yield from stronger_switch(facts, tie)


@rule(
    "supplies-exchanged",
    "Supplies exchanged",
    "stop",
    "Logic and load have supplies of their own; on each other's the logic is destroyed, or the load starves.",
    "catalogue: supply ranges of the part's leads",
    each=of_circuit(exchanged_supplies),
)
def supplies_exchanged(facts: Facts, pair: tuple[str, str]) -> Iterator[Observation]:
    c = facts.circuit
    one, other = pair
    a, b = c.ties.of(one), c.ties.of(other)
    assert a is not None and b is not None
    at = [c.supplies.origin(t.to) for t in (a, b)]
    text = " and ".join(
        f"{c.titles.of(lead)} on {o.title if o else 'nothing'}"
        for lead, o in zip((one, other), at, strict=True)
    )
    yield Observation(
        f"{text}: each would be right on the other's.",
        (one, other),
        remedies=from_facts(exchanged, one, other),
    )

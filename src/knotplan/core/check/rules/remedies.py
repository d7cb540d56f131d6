"""Remedies that several rules offer."""

from collections.abc import Callable, Iterator

from msgspec.structs import replace

from knotplan.catalog.board.function import parse_function
from knotplan.catalog.part.elements import Fet
from knotplan.catalog.part.needs import Analog, Bus, Input, Output, Pulse, Supply, Switched
from knotplan.catalog.part.part import Job, Part
from knotplan.core.buses.addresses import clash, free_straps, places
from knotplan.core.check.facts import Facts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.led import choose
from knotplan.core.match.fit import Fit, Grade, candidates, fit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Bead, Clamp, PullDown, PullUp, rails_of
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.ids import slug
from knotplan.core.plan.kinds import kind_in, part_in
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.written import listed, show


def move(facts: Facts, lead: str, now: str = "", verb: str = "Move to") -> tuple[Remedy, ...]:
    """The lead's tie to the best contact that is free and has no consequence."""
    best = facts.best_contact(lead, now)
    if best is None:
        spec = facts.circuit.contacts.lead(lead)
        loads = spec is not None and isinstance(spec.needs[0], Switched)
        others = [
            f for f in candidates(facts.circuit, lead) if f.contact != now and (f.need == 0 or not loads)
        ]
        need = facts.circuit.needs.of(lead)
        if others and isinstance(need, Bus) and need.role == "select":  # any pin will do: a program sets it
            best = others[0].contact
            return (remedy(f"{verb} {facts.circuit.titles.full(best)}", edits.tie, lead, best),)
        return _with_its_unit_on(facts, lead, others, verb) if others else by_hub(facts, lead)
    return (remedy(f"{verb} {facts.circuit.titles.full(best)}", edits.tie, lead, best),)


def _with_its_unit_on(facts: Facts, lead: str, others: list[Fit], verb: str) -> tuple[Remedy, ...]:
    """To a pin whose unit is off, and that unit switched on, where nothing else speaks against the pin."""
    c = facts.circuit
    for f in others[:MOST_TRIED]:
        pin = c.contacts.pin(f.contact)
        jobs = map(parse_function, pin.functions) if pin is not None else ()
        units = [c.hardware.unit(f.contact, job) for job in jobs]
        for setting in dict.fromkeys(u.setting for u in units if u is not None and u.setting):
            on = Circuit(edits.set_up(c.plan, setting), facts.catalog)
            if not c.hardware.is_on(setting) and fit(on, lead, f.contact).grade <= Grade.GOOD:
                switched = c.board.settings[setting].title
                title = f"{verb} {c.titles.full(f.contact)}, and plan to switch {switched} on"
                return (Remedy(title, (Step(edits.tie, (lead, f.contact)), Step(edits.set_up, (setting,)))),)
    return ()


MOST_TRIED = 3
"""so many of the best pins are looked at with their unit on"""
PULLS = (10e3, 4.7e3, 2.2e3)


def weakest_pull(facts: Facts, tie: Tie, up: bool, holds: Callable[[Remedy], bool]) -> Iterator[Remedy]:
    """The weakest usual resistor to the pin's rail or to ground that does
    what it is for, by the engine itself."""
    c = facts.circuit
    rail = c.supplies.rail_contact(tie.to)
    if up and not rail:
        return
    for ohm in PULLS:
        bead = PullUp(ohm, rail=rail) if up else PullDown(ohm)
        wanted = remedy(f"Add a {show(ohm, 'Ω')} pull-{'up' if up else 'down'}", edits.add_bead, tie.id, bead)
        if holds(wanted):
            yield wanted
            return


def elsewhere(facts: Facts, tie: Tie) -> tuple[Remedy, ...]:
    """The tie to a better contact, with its siblings where they are as wrong; a second tie of its lead only
    goes away."""
    c = facts.circuit
    if c.ties.of(tie.lead) != tie:
        return (untied(c, tie),)
    moves = move(facts, tie.lead, tie.to)
    own = own_supply(facts, tie.lead) if isinstance(c.needs.of(tie.lead), Supply) else ()
    return (*moves, *_together(c, tie, moves), *own)


def _together(c: Circuit, tie: Tie, moves: tuple[Remedy, ...]) -> tuple[Remedy, ...]:
    """The same supply leads of parts of one kind that hang on the same net, moved along."""
    part_id, name = split(tie.lead)
    to = next((step.arguments[1] for r in moves for step in r.steps if step.edit is edits.tie), "")
    if not to or not isinstance(c.needs.of(tie.lead), Supply):
        return ()
    alike = [
        f"{p}.{name}"
        for p, placed in c.placed.items()
        if placed.part == c.placed[part_id].part
        and (t := c.ties.of(f"{p}.{name}")) is not None
        and c.nets.of(t.to) == c.nets.of(tie.to)
    ]
    if len(alike) < 2:
        return ()
    steps = tuple(Step(edits.tie, (lead, to)) for lead in alike)
    return (Remedy(f"Feed all {len(alike)} like it from {c.titles.full(to)}", steps),)


def untied(circuit: Circuit, tie: Tie) -> Remedy:
    """A tie taken away."""
    return remedy(
        f"Untie {circuit.titles.of(tie.lead)} from {circuit.titles.full(tie.to)}", edits.untie, tie.id
    )


def switch(facts: Facts, setting: str) -> Remedy:
    """A setting of the board's system changed; the sheets then say so."""
    c = facts.circuit
    title = c.board.settings[setting].title
    return remedy(
        f"Plan to switch {title} {'off' if c.hardware.is_on(setting) else 'on'}", edits.set_up, setting
    )


def led_resistor(facts: Facts, part_id: str, name: str = "") -> tuple[Remedy, ...]:
    """The resistor that the value finder chooses, where it differs from what is there."""
    choice = choose(facts.circuit, facts.catalog, part_id, name)
    if choice is None:
        return ()
    return () if choice.now_ohm == choice.best.ohm else (choice.remedy(),)


def ground_pin(circuit: Circuit) -> str:
    """A ground pin of the board, one without a tie if there is any; empty where the board brings out none."""
    pins = [f"{BOARD}.{p}" for p, pin in circuit.board.pins.items() if pin.kind == "ground"]
    return next((p for p in pins if p not in circuit.ties.at), pins[0] if pins else "")


def grounded(circuit: Circuit, lead: str) -> tuple[Step, ...]:
    """A lead to a ground pin of the board, where there is one."""
    pin = ground_pin(circuit)
    return (Step(edits.tie, (lead, pin)),) if pin else ()


def other_choices(facts: Facts, part_id: str, sets: str) -> Iterator[Remedy]:
    """The same part with another choice of what a parameter sets, where that has all leads that are tied:
    which of them helps is tried."""
    c = facts.circuit
    part, name = c.parts[part_id], c.parts[part_id].parameter(sets)
    if not name:
        return
    placed = c.placed[part_id]
    now = placed.params.get(name, part.params[name].default)
    tied = {split(end)[1] for end in c.ties.at if split(end)[0] == part_id}
    for choice in part.params[name].choices:
        other = part_in(c.plan, facts.catalog, replace(placed, params={**placed.params, name: choice}))
        if choice != now and tied <= other.leads.keys():
            title = f"Take {c.placed[part_id].name} with {part.params[name].title.lower()} {choice}"
            yield remedy(title, edits.set_param, part_id, name, choice)


def own_supply(facts: Facts, lead: str, least_v: float = 0.0) -> tuple[Remedy, ...]:
    """A load fed from the bench instead of from the board: by a supply that is there, or a new one, of at
    least so many volts."""
    return own_supply_of(facts, (lead,), least_v)


def own_supply_of(
    facts: Facts, leads: tuple[str, ...], least_v: float = 0.0, amps: float = 0.0
) -> tuple[Remedy, ...]:
    """The same of several loads on one supply; a new one is made for so many amperes, where that is known."""
    c = facts.circuit
    names = listed([c.titles.part(split(x)[0]) for x in leads])
    tie = c.ties.of(leads[0])
    for contact, source in c.supplies.pluses.items():
        there = tie is not None and tie.to == contact
        if source.volts.min >= least_v and not there and fit(c, leads[0], contact).grade <= Grade.GOOD:
            title = f"Feed {names} from {c.placed[split(contact)[0]].name}"
            return (Remedy(title, tuple(Step(edits.tie, (x, contact)) for x in leads)),)
    need = c.needs.of(leads[0])
    if not isinstance(need, Supply):
        return ()
    for part in facts.catalog.proposed("bench supply"):
        gives = part.source
        if gives and max(need.least_v, least_v) <= gives.volts.min and gives.volts.max <= need.most_v:
            brick = slug(part.title, set(c.placed))
            steps = [Step(edits.add_part, (part.id, part.title)), *grounded(c, f"{brick}.{gives.minus}")]
            steps += [Step(edits.tie, (x, f"{brick}.{gives.plus}")) for x in leads]
            rating = sold_rating(part, amps)
            if amps and rating is not None:
                steps.append(Step(edits.set_param, (brick, part.parameter("rated current"), rating)))
            whose = "its" if len(leads) == 1 else "their"
            return (Remedy(f"Feed {names} from a {part.title} of {whose} own", tuple(steps)),)
    return ()


RATINGS = (0.5, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0, 20.0)
"""amperes that wall supplies are sold with"""
SPARE = 1.1
"""a supply is taken with a tenth more than it has to give"""


def sold_rating(part: Part, amps: float) -> float | None:
    """The least rating of a supply that gives so many amperes and a tenth more; nothing where none does."""
    name = part.parameter("rated current")
    sold = (a for a in RATINGS if name and part.params[name].fault(a) is None)
    return next((a for a in sold if a >= amps * SPARE), None)


def logic_supply(facts: Facts, part_ids: list[str], most_v: float) -> Iterator[Remedy]:
    """Signal supplies of parts that lie above what a pin bears, moved to the board's logic rail."""
    c = facts.circuit
    for part_id in part_ids:
        for name in c.parts[part_id].leads:
            lead = f"{part_id}.{name}"
            tie, need = c.ties.of(lead), c.needs.of(lead)
            if tie is None or not isinstance(need, Supply) or not need.signal:
                continue
            origin = c.supplies.origin(tie.to)
            if origin is None or origin.volts.max <= most_v:
                continue
            for rail_id in c.supplies.live_rails:
                volts = c.board.rails[rail_id].volts
                contact = c.contacts.supply_contact(rail_id)
                if contact and volts.max <= most_v and volts.min >= need.least_v:
                    title = f"Feed {c.titles.of(lead)} from {c.titles.full(contact)}"
                    yield remedy(title, edits.tie, lead, contact)


def supply_of(c: Circuit, part_id: str) -> str:
    """The contact that feeds a part, if one does."""
    for name in c.parts[part_id].leads:
        tie = c.ties.of(f"{part_id}.{name}")
        if (
            tie is not None
            and isinstance(c.needs.of(tie.lead), Supply)
            and c.supplies.origin(tie.to) is not None
        ):
            return tie.to
    return ""


def railed(c: Circuit, tie: Tie, bead: Bead) -> Bead:
    """The bead with each rail that carries no voltage exchanged for the likeliest
    one: that of the pin, or the part's."""
    pin = c.contacts.pin(tie.to)
    of_pin = c.supplies.rail_contact(tie.to) if pin is not None and pin.kind == "io" and pin.driver else ""
    of_pin = of_pin or next(
        (s for rail in reversed(c.supplies.live_rails) if (s := c.contacts.supply_contact(rail))), ""
    )
    of_part = supply_of(c, split(tie.lead)[0]) or of_pin
    likely = {
        "rail": of_part if isinstance(bead, Clamp) else of_pin,
        "lead_rail": of_part,
        "pin_rail": of_pin,
    }
    return replace(
        bead,
        **{
            field: likely[field]
            for field, rail in rails_of(bead)
            if not rail or c.supplies.origin(rail) is None
        },
    )


def exchanged(facts: Facts, one: str, other: str) -> tuple[Remedy, ...]:
    """Two leads on each other's contacts; each tie keeps its beads, role and cord."""
    c = facts.circuit
    a, b = c.ties.of(one), c.ties.of(other)
    if a is None or b is None:
        return ()
    title = f"Exchange {c.titles.of(one)} and {c.titles.of(other)}"
    return (Remedy(title, (Step(edits.tie, (one, b.to)), Step(edits.tie, (other, a.to)))),)


HUBS: dict[type, Job] = {
    Analog: "analogue inputs",
    Pulse: "pulse outputs",
    Input: "lines",
    Output: "lines",
    Switched: "load switch",
}
"""the job of the hub that has what a board lacks"""


def _hub_for(facts: Facts, lead: str) -> Part | None:
    """The hub that can be brought in for a lead."""
    need, leads = facts.circuit.needs.of(lead), facts.circuit.parts[split(lead)[0]].leads.values()
    job = HUBS.get(type(need))
    if isinstance(need, Switched) and sum(isinstance(x.needs[0], Switched) for x in leads) > 1:
        job = "coil driver"  # a part with several coils
    return next(iter(facts.catalog.proposed(job)), None) if job is not None else None


def by_hub(facts: Facts, lead: str) -> tuple[Remedy, ...]:
    """A hub for what no contact of the bench can do, fed and tied like any other
    part. One that is there has room left."""
    c = facts.circuit
    part = _hub_for(facts, lead)
    there = part is not None and any(p.part == part.id for p in c.placed.values())
    if part is None or (there and not isinstance(c.needs.of(lead), Switched)):
        return ()
    title = part.title
    contact = next(name for name, x in part.leads.items() if x.offers and x.offers.kind == "io")
    steps = [Step(edits.add_part, (part.id, title))]
    plan = steps[0](c.plan)
    hub = plan.parts[-1].id
    if fit(Circuit(plan, facts.catalog), lead, f"{hub}.{contact}").grade == Grade.IMPOSSIBLE:
        return ()
    steps.append(Step(edits.tie, (lead, f"{hub}.{contact}")))
    plan = steps[-1](plan)
    for name in part.leads:
        here = Circuit(plan, facts.catalog)
        if here.needs.required(f"{hub}.{name}") and f"{hub}.{name}" not in here.ties.at:
            able = next((f.contact for f in candidates(here, f"{hub}.{name}") if f.grade <= Grade.GOOD), "")
            if not able:
                return ()
            steps.append(Step(edits.tie, (f"{hub}.{name}", able)))
            plan = steps[-1](plan)
    here = Circuit(plan, facts.catalog)
    if fit(here, lead, f"{hub}.{contact}").grade > Grade.GOOD:
        return ()
    steps += _free_address(here, hub)
    return (Remedy(f"Add a {title} for {c.titles.of(lead)}", tuple(steps)),)


def _free_address(c: Circuit, part_id: str) -> list[Step]:
    """The straps of a new device at an address that nobody has."""
    devices = places(c)
    own = next((p for p in devices if p.part == part_id), None)
    if own is None or not any(clash(c, own, other) for other in devices if other is not own):
        return []
    straps = free_straps(c, own, devices)
    return [Step(edits.set_param, (part_id, pad, value)) for pad, value in straps.params] if straps else []


def _weaker(old: Part, output: str, new: Part) -> bool:
    """Whether a contact of one hub sinks less than the other hub does."""
    offer, driver = old.leads[output].offers, next(iter(new.drivers.values()))
    if offer is None or "sink" not in offer.functions:
        return False
    return old.drivers[offer.driver].recommended_a < driver.recommended_a


def stronger_switch(facts: Facts, load: Tie) -> tuple[Remedy, ...]:
    """A load switch in the place of a weaker one, where only one channel of that is used."""
    c = facts.circuit
    hub, output = split(load.to)
    new = next(iter(facts.catalog.proposed("load switch")), None)
    old = c.parts.get(hub)
    given = next((i for i, o in old.channels if o == output), "") if old is not None else ""
    if new is None or old is None or not given or not _weaker(old, output, new):
        return ()
    new_given, new_output = new.channels[0]
    ways = {given: new_given, output: new_output, old.ground: new.ground}
    if old.load_supply:
        ways[old.load_supply] = new.load_supply
    used = {split(end)[1] for t in c.ties for end in (t.lead, t.to) if split(end)[0] == hub}
    if not used <= set(ways):
        return ()
    steps = [Step(edits.exchange_part, (hub, new.id, {}, ways))]
    supply = supply_of(c, split(load.lead)[0])
    if new.load_supply not in {ways[lead] for lead in used} and supply:
        steps.append(Step(edits.tie, (f"{hub}.{new.load_supply}", supply)))
    return (Remedy(f"Exchange {c.placed[hub].name} for a {new.title}", tuple(steps)),)


def lower_gate(facts: Facts, part_id: str) -> Iterator[Remedy]:
    """The choice of the part whose channel opens at the lowest voltage, where it has another one now."""
    c = facts.circuit
    part, placed = c.parts[part_id], c.placed[part_id]
    name = part.parameter("gate")
    if not name:
        return
    kind = kind_in(c.plan, facts.catalog, placed.part)
    opens = {
        choice: min(volts for volts, _ in element.points)
        for choice in part.params[name].choices
        for element in kind.make(placed.params | {name: choice}).elements.values()
        if isinstance(element, Fet)
    }
    lowest = min(opens, key=lambda choice: opens[choice])
    if placed.params.get(name, part.params[name].default) != lowest:
        yield remedy(f"Take one with a {lowest} gate", edits.set_param, part_id, name, lowest)

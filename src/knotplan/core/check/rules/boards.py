"""Rules that boards bring: what is read at start, what is off, what is
blocked, what is weak, what goes together."""

from collections.abc import Iterator

from knotplan.catalog.board.function import ANY, Function
from knotplan.catalog.board.system import Strap
from knotplan.catalog.board.units import Converter
from knotplan.catalog.part.needs import Analog, Bus, Driven, Pulse
from knotplan.core.check.asked import from_facts, given
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import by_hub, elsewhere, move, switch, weakest_pull
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, parts, pins, ties_on_pins
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.leds import is_wished
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import (
    BusUnit,
    bus_instances,
    bus_jobs,
    buses_at,
    pulse_job,
    pulse_use,
    remap_use,
)
from knotplan.core.engine.nearby import nearby
from knotplan.core.engine.operating_points import operating_points
from knotplan.core.engine.readings import Points, Reading, pin_volts
from knotplan.core.match.fit import candidates, wished_a
from knotplan.core.memory.question import each, table
from knotplan.core.plan import edits
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


@rule(
    "strap-level",
    "Level at start decides how the board starts",
    "stop",
    "The board reads this pin while it starts; a part that pulls it the other way keeps the program from "
    "starting.",
    "catalogue: straps of the board; voltages at power-on by nodal analysis",
    each=pins,
)
def strap_level(facts: Facts, pin_id: str) -> Iterator[Observation]:
    c = facts.circuit
    ties = c.ties.holders[pin_id]
    strap = c.board.straps.get(c.contacts.pins[pin_id].strap)
    if strap is None:
        return
    worst = _wrong(c, facts.points, pin_id, strap)
    if worst is None:
        return
    driver = c.hardware.driver(pin_id)
    bound = driver.input_high_v if strap.level == "high" else driver.input_low_v
    volts = worst.min if strap.level == "high" else worst.max
    waking = [r for r in pin_volts(c, facts.points, pin_id) if r.case.moment == "power-on"]
    surely = all(r.max < bound if strap.level == "high" else r.min > bound for r in waking)
    side = "above" if strap.level == "high" else "below"
    yield Observation(
        f"{c.titles.full(pin_id)} ({strap.title}) has to be {strap.level} at start, {side} "
        f"{show(bound, 'V')}; otherwise {strap.otherwise}. With {c.titles.of(ties[0].lead)} it is "
        f"{show(volts, 'V')} ({worst.case.words(c)}).",
        (pin_id, *(t.lead for t in ties)),
        (Number("voltage at start", volts, "V", bound, lower=strap.level == "high"),),
        from_facts(_strapped, pin_id, strap, ties[0]),
        "stop" if surely else "care",
    )


def _wrong(c: Circuit, points: Points, pin_id: str, strap: Strap) -> Reading | None:
    """The reading at power-on that is furthest on the wrong side, if any is."""
    driver = c.hardware.driver(pin_id)
    waking = [r for r in pin_volts(c, points, pin_id) if r.case.moment == "power-on"]
    if strap.level == "high":
        low = min(waking, key=lambda r: r.min, default=None)
        return low if low is not None and low.min < driver.input_high_v else None
    high = max(waking, key=lambda r: r.max, default=None)
    return high if high is not None and high.max > driver.input_low_v else None


def _strapped(facts: Facts, pin_id: str, strap: Strap, tie: Tie) -> Iterator[Remedy]:
    """Another pin, or a resistor that holds the level."""
    c = facts.circuit

    def holds(wanted: Remedy) -> bool:
        near = Circuit(nearby(c, wanted.apply(c.plan), split(tie.lead)[0]), facts.catalog)
        return _wrong(near, operating_points(near), pin_id, strap) is None

    yield from elsewhere(facts, tie)
    yield from weakest_pull(facts, tie, strap.level == "high", holds)


def _on_board(c: Circuit) -> list[str]:
    """Ties on the board's own pins, where something of it is off until it is switched on."""
    settings = {unit.setting for unit in c.board.peripherals.values()} - {""}
    if all(map(c.hardware.is_on, settings)):
        return []
    return [tie_id for tie_id, tie in c.ties.held.items() if split(tie.to)[0] == BOARD]


@each(_on_board)
def _waits_for(c: Circuit, tie_id: str) -> tuple[str, ...]:
    """The settings that switch on the units that a tie uses."""
    tie = c.ties.held[tie_id]
    units = [c.hardware.unit_named(unit) for unit in _units(c, tie, tie.to)]
    settings = [unit.setting for unit in units if unit is not None and unit.setting]
    return tuple(setting for setting in settings if not c.hardware.is_on(setting))


@table
def _waiting(c: Circuit) -> dict[str, list[Tie]]:
    """The ties whose unit is off, by the setting that switches it on."""
    ties: dict[str, list[Tie]] = {}
    for tie_id, settings in _waits_for.all(c).items():
        for setting in settings:
            ties.setdefault(setting, []).append(c.ties.held[tie_id])
    return ties


@rule(
    "peripheral-off",
    "Off until it is switched on",
    "care",
    "The system leaves this peripheral switched off; the pin does nothing until its owner changes that.",
    "catalogue: settings of the board",
    each=of_circuit(_waiting),
)
def peripheral_off(facts: Facts, setting: str) -> Iterator[Observation]:
    c = facts.circuit
    ties = _waiting(c)[setting]
    spec = c.board.settings[setting]
    leads = tuple(dict.fromkeys(t.lead for t in ties))
    names = ", ".join(c.titles.of(lead) for lead in leads)
    yield Observation(
        f"{names} cannot work before somebody switches on {spec.title}. To do so: {spec.how}.",
        leads,
        remedies=from_facts(_switched, setting),
    )


def _units(c: Circuit, tie: Tie, pin_id: str) -> list[UnitId]:
    """The unit that a tie is meant to use."""
    pin, need = c.contacts.pins[pin_id], c.needs.of(tie.lead)
    jobs: list[Function] = []
    match need:
        case Pulse():
            job = pulse_job(c, pin_id)
            jobs = [job] if job is not None else []
        case Analog():  # the one that can be used, if a pin has two
            jobs = sorted(pin.jobs("adc"), key=lambda j: _blocked(c, c.hardware.unit_id(pin_id, j)))
        case Bus():
            jobs = bus_jobs(need, pin)
    return [c.hardware.unit_id(pin_id, job) for job in jobs[:1] if job.instance != ANY]


def _converter(c: Circuit, unit: UnitId) -> Converter | None:
    return (c.board if unit.on_board else c.parts[unit.owner]).converters.get(unit.name)


def _blocked(c: Circuit, unit: UnitId) -> bool:
    converter = _converter(c, unit)
    return converter is not None and bool(converter.blocked_by) and c.hardware.is_on(converter.blocked_by)


def _switched(facts: Facts, setting: str) -> tuple[Remedy, ...]:
    return (switch(facts, setting),)


@rule(
    "converter-blocked",
    "Converter cannot be used now",
    "stop",
    "Something else on the board takes the converter for itself, and readings fail or hang.",
    "catalogue: converters of the board",
    each=ties_on_pins,
)
def converter_blocked(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    pin_id = tie.to
    if not isinstance(c.needs.of(tie.lead), Analog):
        return
    for unit in (one for u in _units(c, tie, pin_id) if _blocked(c, u) and (one := _converter(c, u))):
        yield Observation(
            f"{c.titles.of(tie.lead)} on {c.titles.full(tie.to)} is measured by {unit.title}, which cannot "
            f"be used while {c.board.settings[unit.blocked_by].title} is on.",
            (tie.lead, tie.to),
            remedies=from_facts(_unblocked, tie, unit.blocked_by),
        )


def _unblocked(facts: Facts, tie: Tie, setting: str) -> Iterator[Remedy]:
    yield from elsewhere(facts, tie)
    yield switch(facts, setting)


@rule(
    "weak-pin",
    "Pin too weak for this",
    "care",
    "Not every pin of the board gives the same current; this one gives less than the part wants.",
    "catalogue: recommended current of the pin's driver",
    each=ties_on_pins,
)
def weak_pin(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    if not is_wished(c, split(tie.lead)[0]):
        return
    driver, wish = c.hardware.driver(tie.to), wished_a(c, tie.lead)
    if driver.note and isinstance(c.needs.of(tie.lead), Driven) and wish > driver.recommended_a:
        yield Observation(
            f"{c.titles.full(tie.to)} gives {show(driver.recommended_a, 'A')} ({driver.note}); "
            f"{c.titles.of(tie.lead)} wants {show(wish, 'A')}.",
            (tie.lead, tie.to),
            (Number("wished current", wish, "A", driver.recommended_a),),
            from_facts(elsewhere, tie),
        )


@rule(
    "tolerance-lost",
    "Pull defeats the pin's tolerance",
    "care",
    "A pin that bears more than its supply does so only while nothing leads from it to that supply.",
    "catalogue: the pin's driver; voltages by nodal analysis",
    each=pins,
)
def tolerance_lost(facts: Facts, pin_id: str) -> Iterator[Observation]:
    c = facts.circuit
    ties = c.ties.holders[pin_id]
    driver = c.hardware.driver(pin_id)
    rail = c.supplies.rail_volts(pin_id)
    pulled = [t for t in ties if t.pull == "up"]
    worst = max(pin_volts(c, facts.points, pin_id), key=lambda r: r.max, default=None)
    if pulled and worst is not None and rail is not None and rail.max + 0.3 < worst.max <= driver.max_v:
        contact = pin_id
        yield Observation(
            f"{c.titles.full(contact)} sees {show(worst.max, 'V')} while its own pull-up leads to the "
            f"{c.supplies.rail_title(contact)}; it {driver.note or 'bears that only without'}.",
            (contact, *(t.lead for t in pulled)),
            (Number("most voltage", worst.max, "V", rail.max),),
            given(remedy("Leave the pin's pull off", edits.set_pull, pulled[0].id, "none")),
        )


@rule(
    "bus-mixed",
    "Leads of one part on different buses",
    "stop",
    "Data and clock belong together: on two instances, or on two groups of pins of one, they never meet.",
    "catalogue: functions of the pins",
    each=parts,
)
def bus_mixed(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    for bus, ties in _bus_ties(c, part_id).items():
        if len(ties) > 1 and not bus_instances(c, part_id, bus) and not _all_any(c, ties):
            text = ", ".join(
                f"{c.titles.of(t.lead)} on {c.titles.full(t.to)} ({_bus_words(c, t)})" for t in ties
            )
            yield Observation(f"{text}.", tuple(t.lead for t in ties), remedies=from_facts(_together, ties))


def _bus_ties(c: Circuit, part_id: str) -> dict[str, list[Tie]]:
    """The part's ties on pins that can play their roles, by kind of bus."""
    ties: dict[str, list[Tie]] = {}
    for name in c.parts[part_id].leads:
        tie = c.ties.of(f"{part_id}.{name}")
        need = c.needs.of(f"{part_id}.{name}")
        if tie is not None and isinstance(need, Bus) and buses_at(c, need, tie.to):
            ties.setdefault(need.bus, []).append(tie)
    return ties


def _buses(c: Circuit, tie: Tie) -> list[BusUnit]:
    need = c.needs.of(tie.lead)
    assert isinstance(need, Bus)
    return buses_at(c, need, tie.to)


def _all_any(c: Circuit, ties: list[Tie]) -> bool:
    return all(bus.any_pin for t in ties for bus in _buses(c, t))


def _bus_words(c: Circuit, tie: Tie) -> str:
    return " or ".join(
        _unit_title(c, bus.unit) + (f", group {bus.remap}" if bus.remap else "") for bus in _buses(c, tie)
    )


def _unit_title(c: Circuit, unit: UnitId) -> str:
    named = c.hardware.unit_named(unit)
    return named.title if named else unit.name


def _together(facts: Facts, ties: list[Tie]) -> Iterator[Remedy]:
    """All of them on the first instance that has room for each."""
    c = facts.circuit
    needs = [(t, need) for t in ties if isinstance(need := c.needs.of(t.lead), Bus)]
    for instance in dict.fromkeys(
        bus for contact in c.contacts.pins for _, n in needs for bus in buses_at(c, n, contact)
    ):
        steps, free = [], True
        for tie, need in needs:
            able = [
                f.contact
                for f in candidates(c, tie.lead)
                if (pin := c.contacts.pin(f.contact)) is not None
                and not pin.reserved
                and instance in buses_at(c, need, f.contact)
            ]
            here = tie.to if tie.to in able else next(iter(able), "")
            free = free and bool(here)
            steps += [Step(edits.tie, (tie.lead, here))] if here != tie.to else []
        if free and steps:
            text = " and ".join(
                f"{c.titles.of(step.arguments[0])} to {c.titles.full(step.arguments[1])}" for step in steps
            )
            yield Remedy(f"Move {text}", tuple(steps))
            return


@rule(
    "remap-mixed",
    "One unit led to two groups of pins",
    "stop",
    "The unit is led to one group of its pins or to another, never to some of each.",
    "catalogue: functions of the pins",
    each=of_circuit(remap_use),
)
def remap_mixed(facts: Facts, unit: UnitId) -> Iterator[Observation]:
    c = facts.circuit
    groups = remap_use(c)[unit]
    if len(groups) > 1:
        first, *rest = groups.values()
        title = _unit_title(c, unit)
        lead = rest[0][0]
        tie = c.ties.of(lead)
        assert tie is not None
        ties = [c.ties.of(group[0]) for group in groups.values()]
        text = " and ".join(f"{c.titles.of(t.lead)} on {c.titles.full(t.to)}" for t in ties if t is not None)
        yield Observation(
            f"{title[0].upper()}{title[1:]} would have to be led to two groups of pins at once, for {text}.",
            (first[0], lead),
            remedies=from_facts(move, lead, tie.to, verb=f"Move {c.titles.of(lead)} to"),
        )


@rule(
    "pool-over",
    "More pulse outputs than the board has",
    "stop",
    "Any pin will do, but the units behind the pins are counted.",
    "catalogue: pools of the board",
)
def pool_over(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    pool = c.board.pool("pwm")
    uses = pulse_use(c).get(UnitId(BOARD, "pwm", ANY), [])
    if pool is None or not uses:
        return
    hertz = list(dict.fromkeys(hz for _, _, hz in uses))
    if len(uses) > pool.channels:
        yield Observation(
            f"{len(uses)} leads want one of the {pool.title}; the board has {pool.channels}.",
            tuple(lead for _, lead, _ in uses),
            (Number("wanted", len(uses), "", pool.channels),),
            from_facts(by_hub, uses[-1][1]),
        )
    elif pool.frequencies and len(hertz) > pool.frequencies:
        text = ", ".join(show(hz, "Hz") for hz in hertz)
        yield Observation(
            f"{text}: of different frequencies the {pool.title} give at most {pool.frequencies} at a time.",
            tuple(lead for _, lead, _ in uses),
            (Number("wanted", len(hertz), "", pool.frequencies),),
            from_facts(by_hub, uses[-1][1]),
        )

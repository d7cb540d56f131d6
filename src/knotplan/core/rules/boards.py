"""Rules that boards bring: what is read at start, what is off, what is blocked, what is weak, what goes together."""

from collections.abc import Iterator
from functools import partial

from knotplan.catalog.boards import ANY, Function, Strap
from knotplan.catalog.needs import Analog, Bus, Driven, Need, Pulse
from knotplan.core import edits
from knotplan.core.circuit import Circuit
from knotplan.core.edits import Remedy, Step, remedy
from knotplan.core.fit import candidates, wished_a
from knotplan.core.nearby import nearby
from knotplan.core.plan import BOARD, Tie, split
from knotplan.core.points import operating_points
from knotplan.core.quantity import show
from knotplan.core.readings import Points, Reading, pin_volts
from knotplan.core.rules.remedies import elsewhere, move, switch, weakest_pull
from knotplan.core.rules.rule import Draft, Facts, rule
from knotplan.core.units import bus_instances, bus_jobs, pulse_jobs, pulse_use, remap_use
from knotplan.core.working import Number


@rule("strap-level", "Level at start decides how the board starts", "stop",
      "The board reads this pin while it starts; a part that pulls it the other way keeps the program from starting.",
      "catalogue: straps of the board; voltages at power-on by nodal analysis")  # fmt: skip
def strap_level(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for pin_id, ties in c.holders.items():
        strap = c.board.straps.get(c.board.pins[pin_id].strap)
        if strap is None:
            continue
        worst = _wrong(c, facts.points, pin_id, strap)
        if worst is None:
            continue
        driver = c.board.drivers[c.board.pins[pin_id].driver]
        bound = driver.input_high_v if strap.level == "high" else driver.input_low_v
        volts = worst.min if strap.level == "high" else worst.max
        waking = [r for r in pin_volts(c, facts.points, pin_id) if r.case.moment == "power-on"]
        surely = all(r.max < bound if strap.level == "high" else r.min > bound for r in waking)
        side = "above" if strap.level == "high" else "below"
        yield Draft(f"{c.full_title(f'{BOARD}.{pin_id}')} ({strap.title}) has to be {strap.level} at start, {side} "
                    f"{show(bound, 'V')}, and with {c.title(ties[0].lead)} it is {show(volts, 'V')} "
                    f"({worst.case.words(c)}): otherwise {strap.otherwise}.",
                    (f"{BOARD}.{pin_id}", *(t.lead for t in ties)), (Number("voltage at start", volts, "V", bound),),
                    partial(_strapped, facts, pin_id, strap, ties[0]), "stop" if surely else "care")  # fmt: skip


def _wrong(c: Circuit, points: Points, pin_id: str, strap: Strap) -> Reading | None:
    """The reading at power-on that is furthest on the wrong side, if any is."""
    driver = c.board.drivers[c.board.pins[pin_id].driver]
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


@rule("peripheral-off", "Off until it is switched on", "care",
      "The system leaves this peripheral switched off; the pin does nothing until its owner changes that.",
      "catalogue: settings of the board")  # fmt: skip
def peripheral_off(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for setting, ties in _waiting(c).items():
        spec = c.board.settings[setting]
        leads = tuple(dict.fromkeys(t.lead for t in ties))
        names = ", ".join(c.title(lead) for lead in leads)
        yield Draft(f"{names} cannot work before somebody switches on {spec.title}. To do so: {spec.how}.",
                    leads, remedies=partial(_switched, facts, setting))  # fmt: skip


def _waiting(c: Circuit) -> dict[str, list[Tie]]:
    """The ties whose unit is off, by the setting that switches it on."""
    found: dict[str, list[Tie]] = {}
    for pin_id, _, tie in c.on_pins():
        for unit in _units(c, tie, pin_id):
            peripheral = c.board.peripherals.get(unit)
            if peripheral is not None and peripheral.setting and not c.is_on(peripheral.setting):
                found.setdefault(peripheral.setting, []).append(tie)
    return found


def _units(c: Circuit, tie: Tie, pin_id: str) -> list[str]:
    """The unit of the board that a tie is meant to use."""
    pin, need = c.board.pins[pin_id], c.need(tie.lead)
    jobs: list[Function] = []
    match need:
        case Pulse():
            jobs = [pulse_jobs(c)[pin_id]] if pin_id in pulse_jobs(c) else []
        case Analog():  # the one that can be used, if a pin has two
            jobs = sorted(pin.jobs("adc"), key=lambda j: _blocked(c, j.unit))
        case Bus():
            jobs = bus_jobs(need, pin)
    return [job.unit for job in jobs[:1] if job.instance != ANY]


def _blocked(c: Circuit, unit: str) -> bool:
    converter = c.board.converters.get(unit)
    return converter is not None and bool(converter.blocked_by) and c.is_on(converter.blocked_by)


def _switched(facts: Facts, setting: str) -> tuple[Remedy, ...]:
    return (switch(facts, setting),)


@rule("converter-blocked", "Converter cannot be used now", "stop",
      "Something else on the board takes the converter for itself, and readings fail or hang.",
      "catalogue: converters of the board")  # fmt: skip
def converter_blocked(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for pin_id, _, tie in c.on_pins():
        if not isinstance(c.need(tie.lead), Analog):
            continue
        for unit in (c.board.converters[u] for u in _units(c, tie, pin_id) if _blocked(c, u)):
            yield Draft(f"{c.title(tie.lead)} on {c.full_title(tie.to)} is measured by {unit.title}, which cannot be used "
                        f"while {c.board.settings[unit.blocked_by].title} is on.", (tie.lead, tie.to),
                        remedies=partial(_unblocked, facts, tie, unit.blocked_by))  # fmt: skip


def _unblocked(facts: Facts, tie: Tie, setting: str) -> Iterator[Remedy]:
    yield from elsewhere(facts, tie)
    yield switch(facts, setting)


@rule("weak-pin", "Pin too weak for this", "care",
      "Not every pin of the board gives the same current; this one gives less than the part wishes.",
      "catalogue: recommended current of the pin's driver")  # fmt: skip
def weak_pin(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for _, pin, tie in c.on_pins():
        driver, wish = c.board.drivers[pin.driver], wished_a(c, tie.lead)
        if driver.note and isinstance(c.need(tie.lead), Driven) and wish > driver.recommended_a:
            yield Draft(f"{c.full_title(tie.to)} gives {show(driver.recommended_a, 'A')} ({driver.note}); "
                        f"{c.title(tie.lead)} wishes {show(wish, 'A')}.", (tie.lead, tie.to),
                        (Number("wished current", wish, "A", driver.recommended_a),),
                        partial(elsewhere, facts, tie))  # fmt: skip


@rule("tolerance-lost", "Pull defeats the pin's tolerance", "care",
      "A pin that bears more than its supply does so only while nothing leads from it to that supply.",
      "catalogue: the pin's driver; voltages by nodal analysis")  # fmt: skip
def tolerance_lost(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for pin_id, ties in c.holders.items():
        driver = c.board.drivers[c.board.pins[pin_id].driver]
        rail = c.board.rails[driver.rail]
        pulled = [t for t in ties if t.pull == "up"]
        worst = max(pin_volts(c, facts.points, pin_id), key=lambda r: r.max, default=None)
        if pulled and worst is not None and rail.volts.max + 0.3 < worst.max <= driver.max_v:
            contact = f"{BOARD}.{pin_id}"
            yield Draft(f"{c.full_title(contact)} sees {show(worst.max, 'V')} while its own pull-up leads to the "
                        f"{rail.title}; it {driver.note or 'bears that only without'}.",
                        (contact, *(t.lead for t in pulled)),
                        (Number("most voltage", worst.max, "V", rail.volts.max),),
                        partial(tuple, [remedy("Leave the pin's pull off", edits.set_pull, pulled[0].id, "none")]))  # fmt: skip


@rule("bus-mixed", "Leads of one part on different buses", "stop",
      "Data and clock belong together: on two instances, or on two groups of pins of one, they never meet.",
      "catalogue: functions of the pins")  # fmt: skip
def bus_mixed(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for part_id in c.parts:
        for bus, ties in _bus_ties(c, part_id).items():
            if len(ties) > 1 and not bus_instances(c, part_id, bus) and not _all_any(c, ties):
                said = ", ".join(f"{c.title(t.lead)} on {c.full_title(t.to)} ({_bus_words(c, t)})" for t in ties)
                yield Draft(f"{said}.", tuple(t.lead for t in ties), remedies=partial(_together, facts, ties))  # fmt: skip


def _bus_ties(c: Circuit, part_id: str) -> dict[str, list[Tie]]:
    """The part's ties on pins that can play their roles, by kind of bus."""
    found: dict[str, list[Tie]] = {}
    for name in c.parts[part_id].leads:
        tie = c.tie_of(f"{part_id}.{name}")
        need, pin = c.need(f"{part_id}.{name}"), c.pin(tie.to) if tie else None
        if tie is not None and pin is not None and isinstance(need, Bus) and bus_jobs(need, pin):
            found.setdefault(need.bus, []).append(tie)
    return found


def _jobs(c: Circuit, tie: Tie) -> list[str]:
    need, pin = c.need(tie.lead), c.pin(tie.to)
    assert isinstance(need, Bus) and pin is not None
    return [job.unit + (f", group {job.remap}" if job.remap else "") for job in bus_jobs(need, pin)]


def _all_any(c: Circuit, ties: list[Tie]) -> bool:
    return all(unit.endswith(f":{ANY}") for t in ties for unit in _jobs(c, t))


def _bus_words(c: Circuit, tie: Tie) -> str:
    said = []
    for unit in _jobs(c, tie):
        name, _, group = unit.partition(",")
        said.append((c.board.peripherals[name].title if name in c.board.peripherals else name) + (f",{group}" if group else ""))
    return " or ".join(said)


def _together(facts: Facts, ties: list[Tie]) -> Iterator[Remedy]:
    """All of them on the first instance that has room for each."""
    c = facts.circuit
    needs: list[tuple[Tie, Need]] = [(t, c.need(t.lead)) for t in ties]
    for instance in dict.fromkeys(f.unit + f.remap for p in c.board.pins.values() for n in {n for _, n in needs}
                                  if isinstance(n, Bus) for f in bus_jobs(n, p)):  # fmt: skip
        steps, free = [], True
        for tie, need in needs:
            assert isinstance(need, Bus)
            able = [f.contact for f in candidates(c, tie.lead) if (pin := c.pin(f.contact)) is not None and not pin.reserved and
                    instance in {j.unit + j.remap for j in bus_jobs(need, pin)}]  # fmt: skip
            here = tie.to if tie.to in able else next(iter(able), "")
            free = free and bool(here)
            steps += [Step(edits.tie, (tie.lead, here))] if here != tie.to else []
        if free and steps:
            said = " and ".join(f"{c.title(step.arguments[0])} to {c.full_title(step.arguments[1])}" for step in steps)
            yield Remedy(f"Move {said}", tuple(steps))
            return


@rule("remap-mixed", "One unit led to two groups of pins", "stop",
      "The unit is led to one group of its pins or to another, never to some of each.",
      "catalogue: functions of the pins")  # fmt: skip
def remap_mixed(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for unit, groups in remap_use(c).items():
        if len(groups) > 1:
            first, *rest = groups.values()
            title = c.board.peripherals[unit].title if unit in c.board.peripherals else unit
            lead = rest[0][0]
            tie = c.tie_of(lead)
            assert tie is not None
            said = " and ".join(f"{c.title(g[0])} on {c.full_title(c.tie_of(g[0]).to)}" for g in groups.values())  # type: ignore[union-attr]
            yield Draft(f"{title[0].upper()}{title[1:]} would have to be led to two groups of pins at once, for {said}.",
                        (first[0], lead),
                        remedies=partial(move, facts, lead, tie.to, verb=f"Move {c.title(lead)} to"))  # fmt: skip


@rule("pool-over", "More pulse outputs than the board has", "stop",
      "Any pin will do, but the units behind the pins are counted.",
      "catalogue: pools of the board")  # fmt: skip
def pool_over(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    pool = c.board.pool("pwm")
    uses = pulse_use(c).get(ANY, [])
    if pool is None or not uses:
        return
    hertz = list(dict.fromkeys(hz for _, _, hz in uses))
    if len(uses) > pool.channels:
        yield Draft(f"{len(uses)} leads want one of the {pool.title}; the board has {pool.channels}.",
                    tuple(lead for _, lead, _ in uses), (Number("wanted", len(uses), "", pool.channels),))  # fmt: skip
    elif pool.frequencies and len(hertz) > pool.frequencies:
        said = ", ".join(show(hz, "Hz") for hz in hertz)
        yield Draft(f"{said}: of different frequencies the {pool.title} give at most {pool.frequencies} at a time.",
                    tuple(lead for _, lead, _ in uses), (Number("wanted", len(hertz), "", pool.frequencies),))  # fmt: skip

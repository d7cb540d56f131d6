"""Rules about voltages at inputs and outputs, running and at power-on."""

from collections.abc import Iterator
from functools import partial

from msgspec import Struct

from knotplan.catalog.elements import Opto
from knotplan.catalog.needs import Input, Output, Pulse, Stream
from knotplan.core import edits
from knotplan.core.beads import PullDown, PullUp, SeriesResistor
from knotplan.core.circuit import Circuit
from knotplan.core.edits import Remedy, remedy
from knotplan.core.fit import Grade, candidates
from knotplan.core.nearby import nearby
from knotplan.core.plan import Tie, split
from knotplan.core.points import operating_points
from knotplan.core.quantity import show
from knotplan.core.readings import Reading, pin_volts
from knotplan.core.rules.remedies import logic_supply, move, weakest_pull
from knotplan.core.rules.rule import Draft, Facts, rule
from knotplan.core.working import Number


@rule("input-over-voltage", "More voltage than the pin bears", "stop",
      "A pin that sees more than its maximum leads current into the chip through its protection, "
      "and that damages it, at once or by and by.",
      "catalogue: absolute maximum voltage of the pin's driver; voltages by nodal analysis")  # fmt: skip
def input_over_voltage(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for pin_id, ties in c.holders.items():
        driver = c.driver(pin_id)
        worst = max(pin_volts(c, facts.points, pin_id), key=lambda r: r.max, default=None)
        if worst is None or worst.max <= driver.max_v:
            continue
        contact = pin_id
        parts = list(dict.fromkeys(split(t.lead)[0] for t in ties))
        yield Draft(f"{c.full_title(contact)} sees {show(worst.typ, 'V')}, up to {show(worst.max, 'V')} "
                    f"({worst.case.words(c)}); it bears {show(driver.max_v, 'V')}.",
                    (contact, *(t.lead for t in ties)),
                    (Number("typical voltage", worst.typ, "V"), Number("most voltage", worst.max, "V", driver.max_v)),
                    partial(_bearable, facts, parts, ties[0].lead, contact, worst.max))  # fmt: skip


def _bearable(facts: Facts, parts: list[str], lead: str, contact: str, volts: float) -> Iterator[Remedy]:
    """A lower supply for the signal, or a pin that bears what comes."""
    c = facts.circuit
    yield from logic_supply(facts, parts, c.driver(contact).max_v)
    if volts <= max(d.max_v for d in c.board.drivers.values()):
        able = (f.contact for f in candidates(c, lead) if f.grade <= Grade.GOOD)
        for other in able:
            there = c.pin(other)
            if there is not None and there.kind == "io" and there.driver and c.driver(other).max_v >= volts:
                yield remedy(f"Move to {c.full_title(other)}, which bears it", edits.tie, lead, other)
                return


class _Drive(Struct, frozen=True):
    """A pin that drives a module's input."""

    tie: Tie
    pin: str
    need: Output | Pulse | Stream
    part: str
    opto: str = ""
    element: Opto | None = None

    def state(self, on: bool) -> str:
        return "high" if (isinstance(self.need, Stream) or self.need.active == "high") == on else "low"


def _drives(c: Circuit) -> Iterator[_Drive]:
    for pin_id, ties in c.holders.items():
        for tie in ties:
            need = c.need(tie.lead)
            part_id, lead = split(tie.lead)
            if isinstance(need, Output | Pulse | Stream):
                found = next(((n, e) for n, e in c.parts[part_id].elements.items()
                              if isinstance(e, Opto) and lead in (e.a, e.b)), ("", None))  # fmt: skip
                yield _Drive(tie, pin_id, need, part_id, *found)


def _in_state(readings: list[Reading], pin: str, state: str) -> list[Reading]:
    return [r for r in readings if r.case.moment == "running" and r.case.pin(pin) == state]


@rule("output-level", "Output does not reach the input's level", "stop",
      "The pin's high or low does not take the input safely to its other state, so the load never lets go, "
      "or never answers.",
      "catalogue: input levels of the part; levels by nodal analysis")  # fmt: skip
def output_level(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for d in _drives(c):
        if d.element:
            yield from _opto_levels(facts, d, d.element)
            continue
        volts = facts.points.volts.get(c.net(d.tie.lead), [])
        high = min((r.min for r in _in_state(volts, d.pin, "high")), default=None)
        low = max((r.max for r in _in_state(volts, d.pin, "low")), default=None)
        for wanted, got, short in ((d.need.high_v, high, "high"), (d.need.low_v, low, "low")):
            if wanted is None or got is None or (got >= wanted if short == "high" else got <= wanted):
                continue
            most = "at least" if short == "high" else "at most"
            yield Draft(f"{c.title(d.tie.lead)} gets {show(got, 'V')} when {c.full_title(d.tie.to)} is {short}; "
                        f"it needs {most} {show(wanted, 'V')}.", (d.tie.lead, d.tie.to),
                        (Number(f"voltage when {short}", got, "V", wanted),), partial(_stiffer, d.tie))  # fmt: skip


def _stiffer(tie: Tie) -> tuple[Remedy, ...]:
    """Without the series resistor that eats the level."""
    return tuple(remedy(f"Take out the {show(b.ohm, 'Ω')} resistor", edits.remove_bead, tie.id, k)
                 for k, b in enumerate(tie.beads) if isinstance(b, SeriesResistor))  # fmt: skip


def _opto_levels(facts: Facts, d: _Drive, e: Opto) -> Iterator[Draft]:
    c = facts.circuit
    readings = facts.points.junctions.get(f"{d.part}/{d.opto}", [])
    off = max(_in_state(readings, d.pin, d.state(False)), key=lambda r: r.max, default=None)
    on = min(_in_state(readings, d.pin, d.state(True)), key=lambda r: r.min, default=None)
    logic = c.rail_volts(d.pin)
    name, where = c.title(d.tie.lead), c.full_title(d.tie.to)
    if off and off.max > e.off_a:
        yield Draft(f"{name} never lets go: {show(off.max, 'A')} still flow when {where} is {d.state(False)}; "
                    f"off is below {show(e.off_a, 'A')}.", (d.tie.lead, d.tie.to),
                    (Number("current when off", off.max, "A", e.off_a),),
                    partial(logic_supply, facts, [d.part], logic.max if logic else 0.0))  # fmt: skip
    elif on and on.max > 1e-9 and on.min < e.on_a:
        yield Draft(f"{name} may not answer: {show(on.min, 'A')} flow when {where} is {d.state(True)}; "
                    f"on is above {show(e.on_a, 'A')}.", (d.tie.lead, d.tie.to),
                    (Number("current when on", on.min, "A", e.on_a),), partial(_stiffer, d.tie))  # fmt: skip




@rule("wakes-load", "Load may switch at power-on", "care",
      "Until the program runs the pin is what the chip makes it; a load that answers to that level moves "
      "by itself at every start.",
      "catalogue: state of the pin at power-on; currents by nodal analysis")  # fmt: skip
def wakes_load(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for d in _drives(c):
        if isinstance(d.need, Stream) or not d.need.wakes_load or d.element is None:
            continue
        amps = _at_power_on(facts.points.junctions.get(f"{d.part}/{d.opto}", []))
        if amps <= d.element.off_a:
            continue
        name = c.placed[d.part].name
        yield Draft(f"{name} may switch on at power-on: {c.full_title(d.tie.to)} is {c.pins[d.pin].wakes_words} then, "
                    f"{c.title(d.tie.lead)} is active {d.need.active}, and {show(amps, 'A')} flow; "
                    f"off is below {show(d.element.off_a, 'A')}.", (d.tie.lead, d.tie.to),
                    (Number("current at power-on", amps, "A", d.element.off_a),),
                    partial(_kept_off, facts, d))  # fmt: skip


def _kept_off(facts: Facts, d: _Drive) -> Iterator[Remedy]:
    yield from _fed(facts, d)
    yield from weakest_pull(facts, d.tie, d.state(True) == "low", partial(_stays_off, facts, d))
    yield from _moved(facts, d)


def _at_power_on(readings: list[Reading]) -> float:
    return max((r.max for r in readings if r.case.moment == "power-on"), default=0.0)


def _fed(facts: Facts, d: _Drive) -> Iterator[Remedy]:
    """The input side on the logic's own rail, where that keeps the load off."""
    logic = facts.circuit.rail_volts(d.pin)
    return (r for r in logic_supply(facts, [d.part], logic.max if logic else 0.0) if _stays_off(facts, d, r))


def _moved(facts: Facts, d: _Drive) -> Iterator[Remedy]:
    """Another pin, where that one keeps the load off."""
    return (r for r in move(facts, d.tie.lead, d.tie.to) if _stays_off(facts, d, r))


def _stays_off(facts: Facts, d: _Drive, wanted: Remedy) -> bool:
    assert d.element is not None
    changed = wanted.apply(facts.circuit.plan)
    near = Circuit(nearby(facts.circuit, changed, d.part), facts.catalog)
    return _at_power_on(operating_points(near).junctions[f"{d.part}/{d.opto}"]) <= d.element.off_a


def _pulled(c: Circuit, pin_id: str) -> bool:
    ties = c.holders[pin_id]
    beads = any(isinstance(b, PullUp | PullDown) for t in ties for b in t.beads)
    return beads or bool(c.pins[pin_id].fitted_pull_ohm) or any(t.pull != "none" for t in ties)


def _contacts(c: Circuit) -> Iterator[tuple[str, Tie]]:
    """(pin, tie) of bare contacts on pins."""
    for pin_id, ties in c.holders.items():
        for tie in ties:
            need = c.need(tie.lead)
            if isinstance(need, Input) and need.contact:
                yield pin_id, tie


@rule("floating-input", "Input left floating", "care",
      "While the contact is open nothing holds the pin's level, and a hand nearby is enough to change it.",
      "CMOS inputs draw no current; a level needs a path to a supply")  # fmt: skip
def floating_input(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for pin_id, tie in _contacts(c):
        if not _pulled(c, pin_id):
            yield Draft(f"Nothing holds {c.full_title(tie.to)} while {c.placed[split(tie.lead)[0]].name} is open.",
                        (tie.lead, tie.to), remedies=partial(_holds, c, pin_id, tie))  # fmt: skip


def _holds(c: Circuit, pin_id: str, tie: Tie) -> Iterator[Remedy]:
    """The pull away from the level that the closed contact gives."""
    part_id = split(tie.lead)[0]
    others = [f"{part_id}.{n}" for n in c.parts[part_id].leads if f"{part_id}.{n}" != tie.lead]
    to_ground = not any(c.origin(o) for o in others)
    driver = c.driver(pin_id)
    if to_ground and driver.pull_up_ohm:
        yield remedy("Let the program switch on the pin's pull-up", edits.set_pull, tie.id, "up")
    if not to_ground and driver.pull_down_ohm:
        yield remedy("Let the program switch on the pin's pull-down", edits.set_pull, tie.id, "down")
    if to_ground:
        bead = PullUp(10e3, rail=c.rail_contact(pin_id))
        yield remedy("Add a 10 kΩ pull-up", edits.add_bead, tie.id, bead)
    else:
        yield remedy("Add a 10 kΩ pull-down", edits.add_bead, tie.id, PullDown(10e3))


@rule("contact-unread", "Contact makes no difference", "stop",
      "Open and closed have to lie on the two sides of the input's thresholds, or the program sees no change.",
      "catalogue: thresholds of the pin's driver; voltages by nodal analysis")  # fmt: skip
def contact_unread(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for pin_id, tie in _contacts(c):
        part_id = split(tie.lead)[0]
        loose = any(f"{part_id}.{n}" not in c.ties_at for n in c.parts[part_id].leads)
        if loose or not _pulled(c, pin_id) or len(c.holders[pin_id]) > 1:
            continue
        driver = c.driver(pin_id)
        running = [r for r in pin_volts(c, facts.points, pin_id) if r.case.moment == "running"]
        levels = {_stands(r, part_id): r for r in running}
        if not {"open", "closed"} <= levels.keys():
            continue
        low, high = sorted((levels["open"], levels["closed"]), key=lambda r: r.typ)
        if low.max > driver.input_low_v or high.min < driver.input_high_v:
            yield Draft(f"{c.full_title(tie.to)} sees {show(levels['open'].typ, 'V')} while "
                        f"{c.placed[part_id].name} is open and {show(levels['closed'].typ, 'V')} while it is closed; "
                        f"low is below {show(driver.input_low_v, 'V')}, high above {show(driver.input_high_v, 'V')}.",
                        (tie.lead, tie.to),
                        (Number("lower voltage", low.max, "V", driver.input_low_v),
                         Number("higher voltage", high.min, "V", driver.input_high_v)),
                        partial(_turned_round, tie))  # fmt: skip


def _stands(reading: Reading, part_id: str) -> str:
    """How the part's contact stands."""
    return next((state for key, state in reading.case.contacts if key.startswith(f"{part_id}/")), "")


def _turned_round(tie: Tie) -> Iterator[Remedy]:
    if tie.pull == "down":
        yield remedy("Use the pin's pull-up instead", edits.set_pull, tie.id, "up")
    elif tie.pull == "up":
        yield remedy("Use the pin's pull-down instead", edits.set_pull, tie.id, "down")

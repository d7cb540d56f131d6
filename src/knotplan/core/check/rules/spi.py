"""Rules about SPI: selects, the common data line, modes and clocks, and what a program drives by itself."""

from collections.abc import Iterator

from knotplan.catalog.board.function import ANY
from knotplan.catalog.part.needs import Bus
from knotplan.core.buses.spi import Controller, Device, by_program, controllers
from knotplan.core.check.asked import from_circuit, from_facts, given
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, parts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import BusUnit, buses_at
from knotplan.core.match.fit import candidates
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import BOARD, Plan, Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

HOLD_OHM = 10e3
BETWEEN_OHM = 1e3
"""between two that may drive one line"""


def _lead(c: Circuit, part_id: str, role: str) -> str:
    """The lead of a part that plays a role."""
    return next(
        (
            f"{part_id}.{n}"
            for n, lead in c.parts[part_id].leads.items()
            if isinstance(x := lead.needs[0], Bus) and x.bus == "spi" and x.role == role
        ),
        "",
    )


def _names(c: Circuit, devices: list[Device]) -> str:
    return " and ".join(c.placed[d.part].name for d in devices)


@rule(
    "select-unheld",
    "Select that nobody holds at power-on",
    "care",
    "Until the program sets it, a floating select may pick its part: it then listens to what is meant for "
    "another, or answers into it.",
    "catalogue: state of the pin at power-on, resistors of the part",
    each=of_circuit(controllers),
)
def select_unheld(facts: Facts, bus: Controller) -> Iterator[Observation]:
    c = facts.circuit
    loose = [s for s in bus.selects if s.idle in ("floats at power-on", "selected at power-on")]
    for select in loose if len(bus.selects) > 1 else ():
        lead = _lead(c, select.devices[0].part, "select")
        tie = c.ties.of(lead)
        pin = c.contacts.pin(select.contact)
        spec = c.parts[select.devices[0].part].facts.spi
        if tie is None or pin is None or spec is None:
            continue
        way = "down" if spec.select_high else "up"
        bead = (
            PullDown(HOLD_OHM)
            if spec.select_high
            else PullUp(HOLD_OHM, rail=c.supplies.rail_contact(select.contact))
        )
        held = remedy(f"Add a {show(HOLD_OHM, 'Ω')} pull-{way}", edits.add_bead, tie.id, bead)
        yield Observation(
            f"{c.titles.of(lead)} on {c.titles.full(select.contact)} is {pin.power_on_words} until the "
            f"program runs, and shares {bus.title} with {_others(c, bus, select.devices[0])}.",
            (lead, select.contact),
            (_held_current(c, select.contact),),
            given(held),
        )


def _held_current(c: Circuit, contact: str) -> Number:
    """What a pull of the usual size costs while the pin is at its other level."""
    volts, driver = c.supplies.rail_volts(contact), c.hardware.driver(contact)
    return Number(
        "current of a pull while it is selected",
        volts.max / HOLD_OHM if volts else 0.0,
        "A",
        driver.absolute_a,
    )


def _others(c: Circuit, bus: Controller, but: Device) -> str:
    return _names(c, [d for d in bus.devices if d.part != but.part])


@rule(
    "data-held",
    "Data line that two hold",
    "stop",
    "A part that drives its data out whether selected or not fights with every other on the line, and nobody "
    "can be read.",
    "catalogue: whether the part lets go of its data out",
    each=of_circuit(controllers),
)
def data_held(facts: Facts, bus: Controller) -> Iterator[Observation]:
    c = facts.circuit
    on: dict[str, list[Device]] = {}
    for d in bus.devices:
        if "miso" in d.ties and split(d.ties["miso"])[0] == BOARD:
            on.setdefault(d.ties["miso"], []).append(d)
    for contact, devices in on.items():
        holding = [d for d in devices if (f := c.parts[d.part].facts.spi) is not None and f.holds_out]
        if holding and len(devices) > 1:
            lead = _lead(c, holding[0].part, "miso")
            yield Observation(
                f"{_names(c, holding)} never lets go of {c.titles.full(contact)}, where "
                f"{_names(c, [d for d in devices if d not in holding[:1]])} answers as well.",
                (lead, contact),
                (Number("parts that drive it", len(devices), "", 1),),
                from_circuit(_on_controller, holding[0].part, bus.unit),
            )


@rule(
    "spi-modes",
    "Modes that differ on one controller",
    "note",
    "Clock polarity and phase belong to each part. The program has to set them anew whenever it turns to "
    "another one.",
    "catalogue: modes and bit order of the parts",
    each=of_circuit(controllers),
)
def spi_modes(facts: Facts, bus: Controller) -> Iterator[Observation]:
    c = facts.circuit
    specs = [(d, f) for d in bus.devices if (f := c.parts[d.part].facts.spi) is not None]
    orders = {f.msb_first for _, f in specs}
    if bus.modes and len(orders) == 1:
        return
    text = "; ".join(
        f"{c.placed[d.part].name} mode {' or '.join(map(str, f.modes))}, "
        f"{'most' if f.msb_first else 'least'} significant bit first"
        for d, f in specs
    )
    odd = next(
        (
            d
            for d, f in specs
            if not {*f.modes} & {*specs[0][1].modes} or f.msb_first != specs[0][1].msb_first
        ),
        specs[-1][0],
    )
    yield Observation(
        f"{bus.title}: {text}.",
        tuple(d.part for d, _ in specs),
        tuple(Number(f"mode of {c.placed[d.part].name}", f.modes[0], "") for d, f in specs),
        from_circuit(_on_controller, odd.part, bus.unit),
    )


@rule(
    "spi-clock",
    "Clock faster than part or cord",
    "care",
    "The slowest part and the longest cord decide: half a clock has to do for the way there and back, the "
    "answer and the edges.",
    "catalogue: fastest clock, time to the answer; 5 ns/m along cords, 2.2 · R · C for edges",
    each=of_circuit(controllers),
)
def spi_clock(facts: Facts, bus: Controller) -> Iterator[Observation]:
    if bus.wish_hz > bus.most_hz * (1 + 1e-9):
        yield Observation(
            f"{bus.title} is to run at {show(bus.wish_hz, 'Hz')}; {bus.limited_by} bears "
            f"{show(bus.most_hz, 'Hz')}.",
            tuple(d.part for d in bus.devices),
            (Number("clock", bus.wish_hz, "Hz", bus.most_hz),),
            given(remedy("Run it as fast as all bear", edits.set_clock, bus.id, 0.0)),
        )


@rule(
    "spi-by-program",
    "SPI made by the program",
    "note",
    "Where a pin lacks the function, a program can set and read each edge itself: allowed, and slow.",
    "catalogue: functions of the pins",
    each=of_circuit(controllers),
)
def spi_by_program(facts: Facts, bus: Controller) -> Iterator[Observation]:
    c = facts.circuit
    if not bus.software:
        return
    for d in bus.devices:
        ties = [
            t
            for n in c.parts[d.part].leads
            if (t := c.ties.of(f"{d.part}.{n}")) is not None and by_program(c, t)
        ]
        spec = c.parts[d.part].facts.spi
        if ties and spec is not None:
            text = ", ".join(f"{c.titles.of(t.lead)} on {c.titles.full(t.to)}" for t in ties)
            yield Observation(
                f"{text}: no controller reaches this pin, so the program has to make each edge, at about "
                f"{show(bus.most_hz, 'Hz')}; the part can take {show(spec.most_hz, 'Hz')}.",
                tuple(t.lead for t in ties),
                (Number("clock", bus.most_hz, "Hz", spec.most_hz),),
                from_circuit(_on_controller, d.part),
            )


def _on_controller(c: Circuit, part_id: str, but: UnitId | None = None) -> Iterator[Remedy]:
    """All of its lines on one controller that has room for each, other than `but`."""
    roles = [r for r in ("sclk", "mosi", "miso") if _lead(c, part_id, r)]
    leads = [_lead(c, part_id, r) for r in roles]
    able = {lead: [f.contact for f in candidates(c, lead)] for lead in leads}
    buses = dict.fromkeys(b for lead in leads for contact in able[lead] for b in _at(c, lead, contact))
    for bus in (b for b in buses if b.unit != but):
        contacts = [next((x for x in able[lead] if bus in _at(c, lead, x)), "") for lead in leads]
        if all(contacts):
            steps = tuple(
                Step(edits.tie, (lead, x))
                for lead, x in zip(leads, contacts, strict=True)
                if (t := c.ties.of(lead)) is None or t.to != x
            )
            where = ", ".join(c.titles.full(x) for x in contacts)
            yield Remedy(f"Put {c.placed[part_id].name} on {where}", steps)
            return


def _at(c: Circuit, lead: str, contact: str) -> list[BusUnit]:
    need = c.needs.of(lead)
    return buses_at(c, need, contact) if isinstance(need, Bus) else []


@rule(
    "three-wire-deaf",
    "Three wires, and nobody listens",
    "stop",
    "A part with one line for data both ways has to reach the controller's data in as well, and its data out "
    "only through a resistor, so that the two can speak in turn.",
    "catalogue: the part has one data line",
    each=parts,
)
def three_wire_deaf(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    spi = c.parts[part_id].facts.spi
    lead = _lead(c, part_id, "mosi") if spi is not None and spi.three_wire else ""
    ties = [t for t in c.ties.at.get(lead, ()) if t.lead == lead]
    tie = next((t for t in ties if c.needs.driven_over(t)), c.ties.of(lead))
    if tie is None or split(tie.to)[0] != BOARD:
        return
    if not any(_hears(c, t, tie) for t in ties):
        yield Observation(
            f"{c.titles.of(tie.lead)} answers on the line on which it is spoken to; that reaches only "
            f"{c.titles.full(tie.to)}, and no data input.",
            (tie.lead,),
            (Number("pins that hear it", 0, "", 1, lower=True),),
            from_facts(_heard, tie),
        )
    elif not any(isinstance(b, SeriesResistor) for b in tie.beads):
        amps = _against(c, tie)
        yield Observation(
            f"{c.titles.of(tie.lead)} answers on the line that {c.titles.full(tie.to)} drives, with no "
            "resistor between: where both speak at once they short each other out.",
            (tie.lead, tie.to),
            (Number("current of one against the other", amps, "A", c.hardware.driver(tie.to).absolute_a),),
            given(
                remedy(
                    f"Add {show(BETWEEN_OHM, 'Ω')} in the tie",
                    edits.add_bead,
                    tie.id,
                    SeriesResistor(BETWEEN_OHM),
                )
            ),
            "care",
            "Three wires, and nothing between the two that speak",
        )


def _hears(c: Circuit, tie: Tie, spoken: Tie) -> bool:
    """A tie leads to the controller's data in: to a pin that has that, or that can have any function and is
    not the one over which the part is spoken to."""
    pin = c.contacts.pin(tie.to)
    jobs = pin.jobs("spi") if pin is not None else []
    return any(j.channel == "miso" or (j.instance == ANY and tie != spoken) for j in jobs)


def _against(c: Circuit, tie: Tie) -> float:
    """At most through the pin's own resistance, the part's counted as nothing, A."""
    volts, driver = c.supplies.rail_volts(tie.to), c.hardware.driver(tie.to)
    return volts.max / driver.high_ohm.min if volts and driver.high_ohm.min else 0.0


def _heard(facts: Facts, tie: Tie) -> Iterator[Remedy]:
    """A second tie to the data in of the same controller, and a resistor in the first one."""
    c = facts.circuit
    unit = next((b.unit for b in _at(c, tie.lead, tie.to)), None)
    for contact, pin in c.contacts.pins.items():
        jobs = pin.jobs("spi") if split(contact)[0] == BOARD else []
        free = contact not in c.ties.holders and not pin.reserved and not pin.strap and pin.reads
        own = any(j.channel == "miso" and c.hardware.unit_id(contact, j) == unit for j in jobs)
        if own or (free and any(j.instance == ANY for j in jobs)):
            steps = [Step(_extra, (tie.lead, contact))]
            if not any(isinstance(b, SeriesResistor) for b in tie.beads):
                steps.append(Step(edits.add_bead, (tie.id, SeriesResistor(BETWEEN_OHM))))
            yield Remedy(
                f"Tie it to {c.titles.full(contact)} as well, its data out through a resistor", tuple(steps)
            )
            return


def _extra(plan: Plan, lead: str, contact: str) -> Plan:
    return edits.tie(plan, lead, contact, extra=True)

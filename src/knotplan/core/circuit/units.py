"""The units in use, of the board and of hubs: which timer, converter or bus stands behind each tied pin.

Needs and offers (`knotplan.core.match.fit`), rules and views ask here who shares what.
"""

from typing import NamedTuple

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.function import ANY, Function
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.part.needs import Bus, Pulse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import held_for
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.memory.question import each, table
from knotplan.core.plan.document import BOARD, split


def software_hz(board: Board) -> float:
    """The clock that a program makes of plain pins, Hz: about; with an operating system around it less."""
    return 200e3 if "digital" in board.keeps_time else 50e3


def off(circuit: Circuit, contact: str, job: Function) -> tuple[str, ...]:
    """That the unit behind a job is off until its owner switches it on, and how; nothing where it is on."""
    unit = circuit.hardware.unit(contact, job)
    if unit is None or not unit.setting or circuit.hardware.is_on(unit.setting):
        return ()
    setting = circuit.board.settings[unit.setting]
    return (f"{unit.title} is off until switched on: {setting.how}",)


def bus_jobs(need: Bus, pin: Pin) -> list[Function]:
    """The functions of a pin that can play a role on a bus."""
    role = need.role
    return [
        f
        for f in pin.jobs(need.bus)
        if f.instance == ANY or f.channel == role or (role == "select" and f.channel.startswith("select"))
    ]


class BusUnit(NamedTuple):
    """One bus: a controller of the board led to one group of its pins, or a branch behind a bus switch."""

    unit: UnitId
    remap: str = ""

    def __str__(self) -> str:
        """The id of a bus, as views and the command line name it."""
        return f"{self.unit}~{self.remap}" if self.remap else str(self.unit)

    @property
    def any_pin(self) -> bool:
        """Whichever controller the board leads there."""
        return self.unit.any_pin


def upstream(circuit: Circuit, contact: str) -> str:
    """The pin at the head of a daisy chain: where the data come from that a part's output hands on."""
    passed: set[str] = set()
    while contact not in passed:
        passed.add(contact)
        lead = circuit.contacts.lead(contact)
        if lead is None or lead.offers is None or not lead.offers.via:
            break
        tie = circuit.ties.of(f"{split(contact)[0]}.{lead.offers.via}")
        if tie is None:
            break
        contact = tie.to
    return contact


def buses_at(circuit: Circuit, need: Bus, contact: str) -> list[BusUnit]:
    """The buses that a pin can be on in a role; a daisy chain is on the bus that it began on."""
    head = upstream(circuit, contact)
    pin = circuit.contacts.pin(head)
    return (
        [BusUnit(circuit.hardware.unit_id(head, f), f.remap) for f in bus_jobs(need, pin)]
        if pin is not None
        else []
    )


def bus_instances(circuit: Circuit, part: str, bus: str, but: str = "") -> set[BusUnit]:
    """The buses on which all the part's tied leads of one kind of bus could be
    together; `but` leaves one lead out."""
    common: set[BusUnit] | None = None
    for name in circuit.parts[part].leads:
        lead = f"{part}.{name}"
        tie = circuit.ties.of(lead)
        need = circuit.needs.of(lead)
        if lead != but and tie is not None and isinstance(need, Bus) and need.bus == bus:
            here = set(buses_at(circuit, need, tie.to))
            if here and not any(u.any_pin for u in here):
                common = here if common is None else common & here
    return common or set()


@each(held_for(Pulse, Bus))
def _led_to(c: Circuit, tie_id: str) -> tuple[UnitId, str] | None:
    """(unit, remap) of a lead whose unit is led to its pins as a whole."""
    tie = c.ties.held[tie_id]
    need, pin = c.needs.of(tie.lead), c.contacts.pins[tie.to]
    job = pulse_job(c, tie.to) if isinstance(need, Pulse) else None
    if isinstance(need, Bus):
        here = bus_instances(c, split(tie.lead)[0], need.bus)
        jobs = bus_jobs(need, pin)
        job = next((f for f in jobs if BusUnit(c.hardware.unit_id(tie.to, f), f.remap) in here), None)
    return (c.hardware.unit_id(tie.to, job), job.remap) if job and job.remap else None


@table
def remap_use(c: Circuit) -> dict[UnitId, dict[str, list[str]]]:
    """The leads on units that are led to their pins as a whole: {unit: {remap: leads}}."""
    used: dict[UnitId, dict[str, list[str]]] = {}
    for tie_id, led in _led_to.all(c).items():
        if led is not None:
            unit, remap = led
            used.setdefault(unit, {}).setdefault(remap, []).append(c.ties.held[tie_id].lead)
    return used


def led_elsewhere(circuit: Circuit, contact: str, job: Function, lead: str) -> str:
    """A lead for which the job's unit is led to another group of pins; empty where there is none."""
    if not job.remap:
        return ""
    groups = remap_use(circuit).get(circuit.hardware.unit_id(contact, job), {})
    others = ((remap, [one for one in leads if one != lead]) for remap, leads in groups.items())
    return next((leads[0] for remap, leads in others if remap != job.remap and leads), "")


PulseUse = dict[UnitId, list[tuple[str, str, float]]]
"""timed outputs in use: {unit: [(channel, lead, Hz)]}"""


@each(held_for(Pulse))
def pulsed(c: Circuit, tie_id: str) -> tuple[tuple[str, str, float], ...]:
    """(contact, lead, Hz) of a timed output that its pin can give."""
    tie = c.ties.held[tie_id]
    need = c.needs.of(tie.lead)
    able = isinstance(need, Pulse) and c.contacts.pins[tie.to].jobs("pwm")
    return ((tie.to, tie.lead, need.frequency_hz),) if able and isinstance(need, Pulse) else ()


@table
def pulsed_by(c: Circuit) -> dict[str, list[tuple[str, str, float]]]:
    """The timed outputs of the board, and of each hub: no two of them share a unit."""
    by_owner: dict[str, list[tuple[str, str, float]]] = {}
    for (use,) in pulsed.all(c).values():
        by_owner.setdefault(split(use[0])[0], []).append(use)
    return by_owner


@each(pulsed_by)
def _jobs_of(c: Circuit, owner: str) -> dict[str, Function]:
    """Which of its pulse functions each pin in use plays. Pins with one have no choice; the others take
    the first whose channel is free and whose timer runs at their frequency, or at none yet."""
    functions: dict[str, Function] = {}
    hertz: dict[UnitId, float] = {}
    taken: set[tuple[UnitId, str]] = set()
    offers = {use[0]: c.contacts.pins[use[0]].jobs("pwm") for use in pulsed_by(c)[owner]}
    for contact, _, hz in sorted(pulsed_by(c)[owner], key=lambda use: len(offers[use[0]])):
        jobs = [(c.hardware.unit_id(contact, j), j) for j in offers[contact]]
        free = (j for j in jobs if (j[0], j[1].channel) not in taken and hertz.get(j[0], hz) == hz)
        unit, job = jobs[0] if len(jobs) == 1 else next(free, jobs[0])
        functions.setdefault(contact, job)
        taken.add((unit, job.channel))
        hertz.setdefault(unit, hz)
    return functions


def pulse_job(c: Circuit, contact: str) -> Function | None:
    """The pulse function that a pin in use plays; nothing where it plays none."""
    owner = split(contact)[0]
    return _jobs_of(c, owner).get(contact) if owner in pulsed_by(c) else None


@each(pulsed_by)
def use_of(c: Circuit, owner: str) -> PulseUse:
    """Every timed output of the board or of a hub, by the unit that gives it."""
    used: PulseUse = {}
    jobs = _jobs_of(c, owner)
    for contact, lead, hertz in pulsed_by(c)[owner]:
        job = jobs[contact]
        # of a pool, each pin takes a channel of its own
        channel = job.channel or contact
        used.setdefault(c.hardware.unit_id(contact, job), []).append((channel, lead, hertz))
    return used


@table
def pulse_use(c: Circuit) -> PulseUse:
    """Every timed output in use, by the unit that gives it."""
    return {unit: uses for used in use_of.all(c).values() for unit, uses in used.items()}


def pulse_use_beside(circuit: Circuit, unit: UnitId, lead: str) -> list[tuple[str, str, float]]:
    """The timed outputs of a unit other than one lead's: (channel, lead, Hz) of each."""
    return [use for use in pulse_use(circuit).get(unit, ()) if use[1] != lead]


def keeps_time(circuit: Circuit, contact: str, both_ways: bool = False) -> bool:
    """A program times this pin's level to a microsecond, or (for what
    only goes out) hardware behind it does."""
    pin = circuit.contacts.pin(contact)
    kinds = [k for k in circuit.board.keeps_time if not both_ways or k in ("digital", "input")]
    return pin is not None and split(contact)[0] == BOARD and any(_speaks(pin, kind) for kind in kinds)


def _speaks(pin: Pin, kind: str) -> bool:
    """A pin has a function of a kind that puts out what a program says: of SPI the data output alone, not
    its clock, its selects or its data input."""
    return any(kind != "spi" or f.instance == ANY or f.channel == "mosi" for f in pin.jobs(kind))

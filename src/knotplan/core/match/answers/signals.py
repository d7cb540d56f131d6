"""Answers to needs of signals: the function, and who shares it."""

from knotplan.catalog.board.function import ANY, Function
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.part.needs import Analog, Bus, Input, Need, Output, Pulse, Stream, Switched, words
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.units import (
    BusUnit,
    bus_instances,
    bus_jobs,
    buses_at,
    keeps_time,
    led_elsewhere,
    off,
    pulse_use_beside,
    software_hz,
    upstream,
)
from knotplan.core.match.answers.answer import Answer, no
from knotplan.core.match.answers.power import switched
from knotplan.core.plan.document import BOARD, split
from knotplan.core.quantity.written import show


def job_answer(circuit: Circuit, lead: str, need: Need, contact: str, pin: Pin, alone: bool) -> Answer:
    """Whether the pin has the function at all, and who shares it."""
    match need:
        case Pulse():
            jobs = pin.jobs("pwm")
            if not jobs:
                return no("no pulse output")
            return min(
                (_pulse_answer(circuit, lead, need, contact, job, alone) for job in jobs),
                key=lambda a: (not a.ok, len(a.minus), a.cost),
            )
        case Analog():
            jobs = pin.jobs("adc")
            if not jobs:
                return no("no analogue input")
            return min((_analog_answer(circuit, contact, job) for job in jobs), key=lambda a: len(a.minus))
        case Bus():
            return _bus_answer(circuit, lead, need, contact, pin, alone)
        case Stream():
            return _stream_answer(circuit, need, contact, pin)
        case Switched():
            return switched(circuit, need, contact, pin)
        case Output():
            return Answer(True, ("output",)) if pin.drives else _by_switch(need, pin)
        case Input():
            return _input_answer(circuit, need, contact, pin)
    return no("cannot do this")


def _input_answer(circuit: Circuit, need: Input, contact: str, pin: Pin) -> Answer:
    if not pin.reads:
        return no("output only" if pin.drives else "cannot be read as a level")
    minus: tuple[str, ...] = ()
    if (
        (need.contact or need.open_drain)
        and not circuit.hardware.driver(contact).pull_up_ohm
        and not pin.fitted_pull_ohm
    ):
        minus = ("no pull-up of its own",)
    if need.measured_s is not None:
        if pin.jobs("capture"):
            return Answer(True, ("measures pulses by hardware",), minus)
        if not keeps_time(circuit, contact, both_ways=True):
            return Answer(True, (), (f"cannot time pulses to {show(need.measured_s, 's')}", *minus), 8.0)
        return Answer(True, ("pulses timed by the program",), minus, 2.0)
    if minus:
        return Answer(True, (), minus)
    return Answer(True, ("input with its own pull-up",) if need.contact else ("input",))


def _by_switch(need: Output, pin: Pin) -> Answer:
    """What switches a load to ground or to a supply can do so for a light as well."""
    if ("sink" in pin.functions and need.active == "low") or (
        "source" in pin.functions and need.active == "high"
    ):
        return Answer(True, ("switched",), (), 2.0)
    return _no_output(pin)


def _no_output(pin: Pin) -> Answer:
    return no("input only" if pin.reads else "cannot be an output")


def _stream_answer(circuit: Circuit, need: Stream, contact: str, pin: Pin) -> Answer:
    """A protocol on one line: handed on by the part before, or made where time is kept."""
    if f"stream:{need.protocol}" in pin.functions:
        return Answer(True, ("next in the chain",))
    if pin.hands_on and len(pin.jobs("stream")) == len(pin.functions):
        return no("hands on another protocol")
    if split(contact)[0] != BOARD:
        return no(f"is set over a bus, and {words(need)} are timed to {show(need.finest_s, 's')}")
    if not pin.drives or (need.answers and not pin.reads):
        return no("cannot both speak and listen" if need.answers else "cannot be an output")
    if need.protocol == "one-wire" and "digital" not in circuit.board.keeps_time:
        return Answer(True, ("the system's own driver keeps the time",))
    if keeps_time(circuit, contact, both_ways=need.answers):
        return Answer(True, ("keeps time",))
    return Answer(
        True,
        (),
        (f"cannot keep time to {show(need.finest_s, 's')}: the system interrupts the program",),
        30.0,
    )


def _analog_answer(circuit: Circuit, contact: str, job: Function) -> Answer:
    unit = circuit.contacts.owner(contact).converters.get(job.unit)
    if unit is None:
        return Answer(True, ("analogue input",), off(circuit, contact, job))
    blocked = unit.blocked_by and circuit.hardware.is_on(unit.blocked_by)
    minus = (
        (f"{unit.title} cannot be used while {circuit.board.settings[unit.blocked_by].title} is on",)
        if blocked
        else ()
    )
    return Answer(True, (f"{unit.title}, channel {job.channel}",), minus + off(circuit, contact, job))


def _bus_answer(circuit: Circuit, lead: str, need: Bus, contact: str, pin: Pin, alone: bool) -> Answer:
    """One answer for each instance that the pin can be on; the part's
    other leads say which one it has to be."""
    jobs = bus_jobs(need, pin)
    if not jobs:
        if need.role == "select" and pin.drives and split(contact)[0] == BOARD:
            return Answer(True, (), ("the program has to set this select itself",), 2.0)
        if (
            need.bus == "spi"
            and split(contact)[0] == BOARD
            and (pin.reads if need.role == "miso" else pin.drives)
        ):
            slow = show(software_hz(circuit.board), "Hz")
            return Answer(
                True,
                (),
                (f"no {words(need)} here: the program would make each edge itself, at about {slow}",),
                60.0,
            )
        return no(f"no {words(need)}")
    taken: set[BusUnit] = set() if alone else bus_instances(circuit, split(lead)[0], need.bus, lead)
    here = set(buses_at(circuit, need, contact))
    answers = []
    for job in jobs:
        unit = circuit.hardware.unit(contact, job)
        if unit:
            title = unit.title
        elif split(contact)[0] != BOARD:
            title = "next in the chain"
        else:
            title = "any pin will do"
        head = upstream(circuit, contact)
        own = {BusUnit(circuit.hardware.unit_id(contact, job), job.remap)} if head == contact else here
        apart = bool(taken) and job.instance != ANY and not own & taken
        minus = ("the part's other lead is on another bus",) if apart else ()
        answers.append(Answer(True, (title,), minus + off(circuit, contact, job)))
    return min(answers, key=lambda a: len(a.minus))


def _pulse_answer(
    circuit: Circuit, lead: str, need: Pulse, contact: str, job: Function, alone: bool
) -> Answer:
    if job.instance == ANY:
        return _pool_answer(circuit, lead, need, contact, job, alone)
    unit = circuit.hardware.unit(contact, job)
    title = unit.title if unit else str(job)
    if unit is not None and not unit.least_hz <= need.frequency_hz <= unit.most_hz:
        return no(f"{title} gives {show(unit.least_hz, 'Hz')} to {show(unit.most_hz, 'Hz')}")
    others = [] if alone else pulse_use_beside(circuit, circuit.hardware.unit_id(contact, job), lead)
    for channel, other, _ in others:
        if channel == job.channel:
            return no(f"the same channel of {title} drives {circuit.titles.of(other)}")
    elsewhere = None if alone else led_elsewhere(circuit, contact, job, lead)
    if elsewhere:
        return Answer(True, (), (f"{title} is led to other pins for {circuit.titles.of(elsewhere)}",), 3.0)
    for _, other, frequency in others:
        if frequency != need.frequency_hz:
            return Answer(
                True,
                (),
                (f"shares {title} with {circuit.placed[split(other)[0]].name} ({show(frequency, 'Hz')})",),
            )
    if others:
        return Answer(True, (f"shares {title} at the same frequency",), off(circuit, contact, job), 1.0)
    keeps_time = (unit.note,) if unit and unit.time_base else ()
    return Answer(True, (f"own {title}",), keeps_time + off(circuit, contact, job))


def _pool_answer(
    circuit: Circuit, lead: str, need: Pulse, contact: str, job: Function, alone: bool
) -> Answer:
    """A channel of the board's pool, as long as there is one, and a frequency for it."""
    pool = circuit.hardware.pool(contact, "pwm")
    used = [] if alone else pulse_use_beside(circuit, circuit.hardware.unit_id(contact, job), lead)
    if pool is None or len(used) >= pool.channels:
        return no(f"all {pool.channels if pool else 0} {pool.title if pool else 'channels'} are taken")
    hertz = {hz for _, _, hz in used}
    if pool.frequencies and need.frequency_hz not in hertz and len(hertz) >= pool.frequencies:
        return no(f"the {pool.title} give {pool.frequencies} frequencies, and all are taken")
    return Answer(True, (f"one of the {pool.title}, {pool.channels - len(used)} free",))

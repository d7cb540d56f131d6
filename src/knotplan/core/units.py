"""The board's units in use: which timer, converter or bus stands behind each tied pin.

Needs and offers (`knotplan.core.fit`), rules and views ask here who shares what.
"""

from functools import lru_cache

from knotplan.catalog.boards import ANY, Function, Pin
from knotplan.catalog.needs import Bus, Pulse
from knotplan.core.circuit import Circuit
from knotplan.core.plan import split


def off(circuit: Circuit, job: Function) -> tuple[str, ...]:
    """That the unit behind a job is off until its owner switches it on, and how; nothing where it is on."""
    unit = circuit.board.peripherals.get(job.unit)
    if unit is None or not unit.setting or circuit.is_on(unit.setting):
        return ()
    setting = circuit.board.settings[unit.setting]
    return (f"{unit.title} is off until switched on: {setting.how}",)


def bus_jobs(need: Bus, pin: Pin) -> list[Function]:
    """The functions of a pin that can play a role on a bus."""
    role = need.role
    return [f for f in pin.jobs(need.bus) if f.instance == ANY or f.channel == role or
            (role == "select" and f.channel.startswith("select"))]  # fmt: skip


def bus_instances(circuit: Circuit, part: str, bus: str, but: str = "") -> set[tuple[str, str]]:
    """(instance, remap) on which all the part's tied leads of one bus could be together; `but` leaves one out."""
    common: set[tuple[str, str]] | None = None
    for name in circuit.parts[part].leads:
        lead = f"{part}.{name}"
        tie = circuit.tie_of(lead)
        need, pin = circuit.need(lead), circuit.pin(tie.to) if tie else None
        if lead != but and pin is not None and isinstance(need, Bus) and need.bus == bus:
            here = {(f.instance, f.remap) for f in bus_jobs(need, pin)}
            if not any(instance == ANY for instance, _ in here):
                common = here if common is None else common & here
    return common or set()


def remap_use(circuit: Circuit) -> dict[str, dict[str, list[str]]]:
    """The leads on units that are led to their pins as a whole: {unit: {remap: leads}}."""
    used: dict[str, dict[str, list[str]]] = {}
    for pin_id, pin, tie in circuit.on_pins():
        need = circuit.need(tie.lead)
        job = pulse_jobs(circuit).get(pin_id) if isinstance(need, Pulse) else None
        if isinstance(need, Bus):
            here = bus_instances(circuit, split(tie.lead)[0], need.bus)
            job = next((f for f in bus_jobs(need, pin) if (f.instance, f.remap) in here), None)
        if job and job.remap:
            used.setdefault(job.unit, {}).setdefault(job.remap, []).append(tie.lead)
    return used


def led_elsewhere(circuit: Circuit, job: Function, lead: str) -> str:
    """A lead for which the job's unit is led to another group of pins; empty where there is none."""
    if not job.remap:
        return ""
    others = ((remap, [one for one in leads if one != lead]) for remap, leads in remap_use(circuit).get(job.unit, {}).items())
    return next((leads[0] for remap, leads in others if remap != job.remap and leads), "")


def pulse_use(circuit: Circuit, but: str = "") -> dict[str, list[tuple[str, str, float]]]:
    """Timed outputs in use: {instance: [(channel, lead, Hz)]}, those of the lead `but` left out."""
    used: dict[str, list[tuple[str, str, float]]] = {}
    jobs = pulse_jobs(circuit)
    for pin_id, lead, hertz in _pulsed(circuit):
        if lead != but:
            job = jobs[pin_id]
            # of a pool, each pin takes a channel of its own
            used.setdefault(job.instance, []).append((job.channel or pin_id, lead, hertz))
    return used


def _pulsed(circuit: Circuit) -> list[tuple[str, str, float]]:
    """(pin, lead, Hz) of every timed output in use that its pin can give."""
    return [(pin_id, tie.lead, need.frequency_hz) for pin_id, pin, tie in circuit.on_pins()
            if isinstance(need := circuit.need(tie.lead), Pulse) and pin.jobs("pwm")]  # fmt: skip


@lru_cache(4)
def pulse_jobs(circuit: Circuit) -> dict[str, Function]:
    """Which of its pulse functions each pin in use plays. Pins with one have no choice; the others take the first
    whose channel is free and whose timer runs at their frequency, or at none yet."""
    made: dict[str, Function] = {}
    hertz: dict[str, float] = {}
    taken: set[tuple[str, str]] = set()
    for pin_id, _, hz in sorted(_pulsed(circuit), key=lambda use: len(circuit.board.pins[use[0]].jobs("pwm"))):
        jobs = circuit.board.pins[pin_id].jobs("pwm")
        free = (j for j in jobs if (j.unit, j.channel) not in taken and hertz.get(j.unit, hz) == hz)
        job = jobs[0] if len(jobs) == 1 else next(free, jobs[0])
        made.setdefault(pin_id, job)
        taken.add((job.unit, job.channel))
        hertz.setdefault(job.unit, hz)
    return made

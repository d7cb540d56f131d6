"""Steppers: sequences of coils, or steps and a direction."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import show
from knotplan.core.timing import stepper
from knotplan.core.timing.lanes.lane import Lanes, made
from knotplan.core.timing.wave import Mark, bits_wave, pulses, steady


def steppers(c: Circuit) -> Lanes:
    """The driver's inputs, coil by coil, or step and direction."""
    for part_id, part in c.parts.items():
        if part.facts.stepper is None:
            continue
        driver = stepper.driver_of(c, part_id)
        if driver:
            yield from _step_and_direction(c, part_id, driver)
        elif (w := stepper.wired(c, part_id)) is not None:
            yield from _coils(c, part_id, w)


def _coils(c: Circuit, part_id: str, w: stepper.Wired) -> Lanes:
    facts = c.parts[part_id].facts.stepper
    assert facts is not None
    mode, rpm = stepper.asked_mode(c, part_id), stepper.asked_rpm(c, part_id)
    rows = stepper.SEQUENCES[mode]
    back = c.placed[part_id].settings.get("way") == "backwards"
    step_s = 1 / stepper.step_hz(facts, mode, rpm)
    marks = tuple(Mark(k * step_s, (k + 1) * step_s, str(k + 1)) for k in range(len(rows)))
    for k, tie in enumerate(stepper.input_ties(c, w)):
        row = [r[k] for r in (reversed(rows) if back else rows)]
        wave = bits_wave(row, step_s, step_s * len(row), rest=row[-1], marks=marks)
        about = f"{mode} steps of {show(step_s, 's')}, {rpm:g} turns a minute"
        yield made(c, tie.lead, tie.to, "coil", about, wave, part=part_id)


def _step_and_direction(c: Circuit, part_id: str, driver: str) -> Lanes:
    facts = c.parts[part_id].facts.stepper
    assert facts is not None
    rpm, micro = stepper.asked_rpm(c, part_id), stepper.microsteps(c, driver)
    hz = stepper.step_hz(facts, "full", rpm) * micro
    for name in ("step", "dir"):
        tie = c.ties.of(f"{driver}.{name}")
        if tie is None or (pin := c.contacts.pin(tie.to)) is None or pin.kind != "io":
            continue
        if name == "step":
            yield made(
                c,
                tie.lead,
                tie.to,
                "step",
                f"{show(hz, 'Hz')}: {rpm:g} turns a minute of {c.placed[part_id].name}",
                pulses(1 / hz, min(0.5 / hz, 10e-6)),
                part=part_id,
            )
        else:
            back = c.placed[part_id].settings.get("way") == "backwards"
            yield made(
                c,
                tie.lead,
                tie.to,
                "level",
                "backwards" if back else "forwards",
                steady(0 if back else 1),
                part=part_id,
            )

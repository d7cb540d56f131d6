"""Pulses that a timer makes: servos, lights, tones."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show
from knotplan.core.timing import servo
from knotplan.core.timing.lanes.lane import Lanes, made
from knotplan.core.timing.pulses import phase_of, timer_of, wanted
from knotplan.core.timing.wave import pulses

HALF = 0.5
"""brightness, or share of the time on, where nobody says"""


def pulsed(c: Circuit) -> Lanes:
    """The lanes of pulse outputs: servos, dimmed lights, tones."""
    for contact, pin, tie in c.ties.on_pins():
        need = wanted(c, tie.lead)
        if need is None or not pin.jobs("pwm"):
            continue
        part_id = split(tie.lead)[0]
        facts = c.parts[part_id].facts.servo
        shared = timer_of(c, tie.lead)
        if shared is None:
            continue
        t, late = shared.timer, phase_of(c, shared, tie.lead)
        low = need.active == "low"
        if facts is not None:
            at = c.placed[part_id].setting("at", servo.middle(facts))
            long = t.pulse_s(t.count(servo.pulse(facts, at)))
            says = servo.says(facts, at)
            yield made(
                c,
                tie.lead,
                contact,
                "servo",
                f"{says}: {show(long, 's', 4)} every {show(1 / t.hz, 's')}",
                pulses(1 / t.hz, long, late, low),
            )
        else:
            duty = c.placed[part_id].setting("duty", HALF)
            high = t.pulse_s(t.count(duty / t.hz))
            yield made(
                c,
                tie.lead,
                contact,
                "pulses",
                f"{show(duty, '%')} of {show(1 / t.hz, 's')}, {show(t.hz, 'Hz', 4)}",
                pulses(1 / t.hz, high, late, low),
            )

"""What comes in and is measured."""

from knotplan.catalog.part.needs import Input
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show
from knotplan.core.timing.lanes.lane import Lanes, made
from knotplan.core.timing.wave import pulses

SOUND_M_PER_S = 343.0
"""in air of 20 °C"""
USUAL_M = 1.0
ECHO_AFTER_S = 0.5e-3
"""from the trigger until the echo's pulse begins"""


def measured(c: Circuit) -> Lanes:
    """Pulses that a part gives and that are measured: a radio-control channel, an echo."""
    for contact, _, tie in c.ties.on_pins():
        need, part_id = c.needs.of(tie.lead), split(tie.lead)[0]
        facts = c.parts[part_id].facts
        if not isinstance(need, Input) or need.measured_s is None:
            continue
        if facts.radio is not None:
            long = c.placed[part_id].setting("pulse", facts.radio.middle_s, 0.0)
            yield made(
                c,
                tie.lead,
                contact,
                "measured",
                f"{show(long, 's')} every {show(facts.radio.frame_s, 's')}",
                pulses(facts.radio.frame_s, long),
            )
        elif facts.sensor is not None and facts.sensor.echo:
            metres = c.placed[part_id].setting("metres", USUAL_M, 0.0)
            long = 2 * metres / SOUND_M_PER_S
            yield made(
                c,
                tie.lead,
                contact,
                "measured",
                f"{show(long, 's')}: there and back over {metres:g} m",
                pulses(facts.sensor.seconds, min(long, 0.9 * facts.sensor.seconds), ECHO_AFTER_S),
            )

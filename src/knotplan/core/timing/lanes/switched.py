"""Levels: what is switched on and off, and the contacts that follow."""

from knotplan.catalog.part.needs import Output, Pulse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show
from knotplan.core.timing import relay, stepper
from knotplan.core.timing.lanes.lane import Lanes, made
from knotplan.core.timing.wave import Wave, pulses, steady

TRIGGER_S = 10e-6
"""of a sensor that is told to measure by a pulse"""


def on_off(c: Circuit, part_id: str) -> tuple[float, float]:
    """For how long the program has something on, and off: a sensor is
    triggered, everything else blinks slowly."""
    sensor = c.parts[part_id].facts.sensor
    on, off = (TRIGGER_S, sensor.seconds) if sensor is not None else (relay.USUAL_S, relay.USUAL_S)
    return relay.asked_s(c, part_id, "on_s", on), relay.asked_s(c, part_id, "off_s", off)


def switched(c: Circuit) -> Lanes:
    """Relays, lights and whatever else a level switches on and off; behind a relay its contact."""
    coils = {t.lead for p in c.parts if (w := stepper.wired(c, p)) for t in stepper.input_ties(c, w)}
    drivers = {stepper.driver_of(c, p) for p in c.parts if c.parts[p].facts.stepper}
    for contact, pin, tie in c.ties.on_pins():
        need, part_id = c.needs.of(tie.lead), split(tie.lead)[0]
        plain = isinstance(need, Output) or (isinstance(need, Pulse) and not pin.jobs("pwm"))
        if not plain or tie.lead in coils or part_id in drivers or not pin.drives:
            continue
        on, off = on_off(c, part_id)
        low = getattr(need, "active", "high") == "low"
        is_relay = c.parts[part_id].facts.relay is not None
        about = f"on for {show(on, 's')}, off for {show(off, 's')}"
        yield made(
            c, tie.lead, contact, "relay" if is_relay else "level", about, pulses(on + off, on, inverted=low)
        )
        if is_relay:
            yield from _contact(c, tie.lead, on, off)


def _contact(c: Circuit, lead: str, on: float, off: float) -> Lanes:
    """The contact behind a relay's input: it follows later, and where it cannot follow it stays."""
    part_id, name = split(lead)
    facts = c.parts[part_id].facts.relay
    assert facts is not None
    outputs = [
        n
        for n, x in c.parts[part_id].leads.items()
        if x.offers and x.offers.driven_by == name and x.offers.rests == "open"
    ]
    if not outputs:
        return
    if on <= facts.operate_s:
        wave, about = steady(0), "never closes: it is switched off before"
    elif off <= facts.release_s:
        wave, about = Wave(0.0, [facts.operate_s], [1], rest=0), "never opens: it is switched on again before"
    else:
        wave = pulses(on + off, on - facts.operate_s + facts.release_s, facts.operate_s)
        about = f"closes {show(facts.operate_s, 's')} later, opens {show(facts.release_s, 's')} later"
    yield made(c, f"{part_id}.{outputs[0]}", "", "contact", about, wave)

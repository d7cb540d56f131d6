"""Rules about LEDs."""

from collections.abc import Iterator
from functools import partial

from knotplan.catalog.elements import Led
from knotplan.core.beads import SeriesResistor
from knotplan.core.circuit import Circuit
from knotplan.core.led import led_of, lit
from knotplan.core.quantity import show
from knotplan.core.readings import Reading
from knotplan.core.rules.remedies import led_resistor
from knotplan.core.rules.rule import Draft, Facts, rule
from knotplan.core.working import Number

WISH_LOW, WISH_HIGH = 0.6, 1.5
"""a typical current within these shares of the wish is what the eye takes for the same brightness"""


def _leds(facts: Facts) -> Iterator[tuple[str, Led, Reading, bool]]:
    """(part id, element, brightest reading, whether a resistor limits it) of each LED that is tied up."""
    c = facts.circuit
    for part_id in c.parts:
        found = led_of(c, part_id)
        leads = [f"{part_id}.{n}" for n in c.parts[part_id].leads]
        if found is None or not all(lead in c.ties_at for lead in leads):
            continue
        reading = lit(facts.points.junctions.get(f"{part_id}/{found[0]}", []))
        if reading is not None:
            yield part_id, found[1], reading, _limited(c, leads)


def _limited(c: Circuit, leads: list[str]) -> bool:
    return any(isinstance(b, SeriesResistor) for lead in leads for t in c.ties_at[lead] for b in t.beads)


def _numbers(led: Led, r: Reading) -> tuple[Number, ...]:
    return (Number("wished current", led.wished_a, "A", origin="plan"), Number("least current", r.min, "A"),
            Number("typical current", r.typ, "A"), Number("most current", r.max, "A", led.most_a))  # fmt: skip


@rule("led-no-resistor", "LED without a resistor", "stop",
      "An LED hardly limits its own current: only the pin's inner resistance does, until one of them gives up.",
      "Shockley's junction law; currents by nodal analysis")  # fmt: skip
def led_no_resistor(facts: Facts) -> Iterator[Draft]:
    for part_id, led, r, limited in _leds(facts):
        if not limited and r.max > 1e-4:
            yield Draft(f"{facts.circuit.placed[part_id].name} would draw {show(r.typ, 'A')}, up to {show(r.max, 'A')}, "
                        f"where {show(led.wished_a, 'A')} is wished.", (part_id,), _numbers(led, r),
                        partial(led_resistor, facts, part_id))  # fmt: skip


@rule("led-current", "LED current off its wish", "care",
      "Too little current cannot be seen, too much ages the LED and loads the pin.",
      "catalogue: the LED's limits; currents by nodal analysis at all corners")  # fmt: skip
def led_current(facts: Facts) -> Iterator[Draft]:
    for part_id, led, r, limited in _leds(facts):
        name = facts.circuit.placed[part_id].name
        said = f"{name} gets {show(r.min, 'A')} to {show(r.max, 'A')}, typically {show(r.typ, 'A')}"
        if r.max < 1e-6:
            yield Draft(f"{name} never lights: no current flows from anode to cathode in any state.", (part_id,),
                        _numbers(led, r), severity="stop", title="LED never lights")  # fmt: skip
        elif not limited:
            continue
        elif r.max > led.most_a:
            yield Draft(f"{said}; it bears {show(led.most_a, 'A')}.", (part_id,), _numbers(led, r),
                        partial(led_resistor, facts, part_id), "stop")  # fmt: skip
        elif r.min < led.visible_a:
            yield Draft(f"{said}; below {show(led.visible_a, 'A')} it can hardly be seen.", (part_id,),
                        _numbers(led, r), partial(led_resistor, facts, part_id), title="LED may stay dark")  # fmt: skip
        elif not WISH_LOW * led.wished_a <= r.typ <= WISH_HIGH * led.wished_a:
            yield Draft(f"{said}; {show(led.wished_a, 'A')} is wished.", (part_id,), _numbers(led, r),
                        partial(led_resistor, facts, part_id))  # fmt: skip

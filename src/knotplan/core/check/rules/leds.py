"""Rules about LEDs."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.elements import Led
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import exchanged, led_resistor
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.leds import leds_of
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.led import lit
from knotplan.core.engine.readings import Reading
from knotplan.core.match.exchanged import reversed_leds
from knotplan.core.plan.beads import SeriesResistor
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

WISH_LOW, WISH_HIGH = 0.6, 1.5
"""a typical current within these shares of the wish is what the eye takes for the same brightness"""


class _Lit(Struct, frozen=True):
    """An LED that is tied up: in its brightest state, and whether a resistor limits it."""

    part: str
    element: str
    led: Led
    reading: Reading
    limited: bool
    title: str

    @property
    def ends(self) -> tuple[str, str]:
        """(anode, cathode)."""
        return f"{self.part}.{self.led.a}", f"{self.part}.{self.led.b}"


def _leds(facts: Facts) -> Iterator[_Lit]:
    c = facts.circuit
    for part_id in c.parts:
        several = leds_of(c, part_id)
        for name, led in several:
            ends = [f"{part_id}.{n}" for n in (led.a, led.b)]
            reading = lit(facts.points.junctions.get(of_part(part_id, name), []))
            if reading is not None and all(lead in c.ties.at for lead in ends):
                title = c.placed[part_id].name + (f" {name}" if len(several) > 1 else "")
                yield _Lit(part_id, name, led, reading, _limited(c, ends), title)


def _limited(c: Circuit, leads: list[str]) -> bool:
    return any(isinstance(b, SeriesResistor) for lead in leads for t in c.ties.at[lead] for b in t.beads)


def _numbers(led: Led, r: Reading) -> tuple[Number, ...]:
    return (
        Number("wished current", led.wished_a, "A", origin="plan"),
        Number("least current", r.min, "A"),
        Number("typical current", r.typ, "A"),
        Number("most current", r.max, "A", led.most_a),
    )


@rule(
    "led-no-resistor",
    "LED without a resistor",
    "stop",
    "An LED hardly limits its own current: only the pin's inner resistance does, until one of them gives up.",
    "Shockley's junction law; currents by nodal analysis",
    each=_leds,
)
def led_no_resistor(facts: Facts, x: _Lit) -> Iterator[Observation]:
    r = x.reading
    if not x.limited and r.max > 1e-4:
        yield Observation(
            f"{x.title} would draw {show(r.typ, 'A')}, up to {show(r.max, 'A')}, where "
            f"{show(x.led.wished_a, 'A')} is wished.",
            (x.part,),
            _numbers(x.led, r),
            from_facts(led_resistor, x.part, x.element),
        )


@rule(
    "led-current",
    "LED current off its wish",
    "care",
    "Too little current cannot be seen, too much ages the LED and loads the pin.",
    "catalogue: the LED's limits; currents by nodal analysis at all corners",
    each=_leds,
)
def led_current(facts: Facts, x: _Lit) -> Iterator[Observation]:
    r, led = x.reading, x.led
    text = f"{x.title} gets {show(r.min, 'A')} to {show(r.max, 'A')}, typically {show(r.typ, 'A')}"
    finder = from_facts(led_resistor, x.part, x.element)
    if r.max < 1e-6:
        if x.ends not in reversed_leds(facts.circuit):
            yield Observation(
                f"{x.title} never lights: no current flows from anode to cathode in any state.",
                (x.part,),
                _numbers(led, r),
                severity="stop",
                title="LED never lights",
            )
    elif not x.limited:
        return
    elif r.max > led.most_a:
        yield Observation(
            f"{text}; it bears {show(led.most_a, 'A')}.", (x.part,), _numbers(led, r), finder, "stop"
        )
    elif r.min < led.visible_a:
        yield Observation(
            f"{text}; below {show(led.visible_a, 'A')} it can hardly be seen.",
            (x.part,),
            _numbers(led, r),
            finder,
            title="LED may stay dark",
        )
    elif not WISH_LOW * led.wished_a <= r.typ <= WISH_HIGH * led.wished_a:
        yield Observation(
            f"{text}; {show(led.wished_a, 'A')} is wished.", (x.part,), _numbers(led, r), finder
        )


@rule(
    "led-reversed",
    "LED the wrong way round",
    "stop",
    "An LED conducts from its anode to its cathode only; the other way it stays dark, and much above 5 V it "
    "breaks down.",
    "Shockley's junction law",
    each=_leds,
)
def led_reversed(facts: Facts, x: _Lit) -> Iterator[Observation]:
    c = facts.circuit
    if x.reading.max < 1e-6 and x.ends in reversed_leds(c):
        a, b = x.ends
        yield Observation(
            f"{c.titles.of(a)} is on {_end(c, a)} and {c.titles.of(b)} on {_end(c, b)}: no current can flow.",
            (a, b),
            remedies=from_facts(exchanged, a, b),
        )


def _end(c: Circuit, lead: str) -> str:
    tie = c.ties.of(lead)
    return c.titles.full(tie.to) if tie else "nothing"

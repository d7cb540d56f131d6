"""Rules about LEDs."""

from collections.abc import Iterator
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.part.elements import Led
from knotplan.core.check.asked import from_circuit, from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import exchanged, ground_pin, led_resistor, other_choices
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, of_each_fact
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having
from knotplan.core.circuit.leds import is_wished, leds_of
from knotplan.core.circuit.limited import LedId, Shared, is_limited, shared_resistors
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.led import lit
from knotplan.core.engine.readings import Reading
from knotplan.core.match.exchanged import reversed_leds
from knotplan.core.memory.question import each
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Diode, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

WISH_LOW, WISH_HIGH = 0.6, 1.5
"""a typical current within these shares of the wish is what the eye takes for the same brightness"""
NOISE = 1e-6
"""what the solver leaves of a figure that lies right on a limit"""
DARK_SHARE = 0.02
"""below this share of what can just be seen by daylight an LED is dark"""
LIT_SHARE, ALIKE = 0.02, 0.8
"""below the first share of its most an LED is off; above the second the others hardly darken it"""


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


def _with_leds(facts: Facts) -> list[str]:
    return having(facts.circuit, Led)


@each(_with_leds)
def _leds(facts: Facts, part_id: str) -> tuple[_Lit, ...]:
    """A part's LEDs that current could flow through."""
    c = facts.circuit
    several, found = leds_of(c, part_id), []
    for name, led in several:
        ends = [f"{part_id}.{n}" for n in (led.a, led.b)]
        reading = lit(facts.points.junctions.get(of_part(part_id, name), []))
        if reading is not None and all(lead in c.ties.at for lead in ends):
            title = c.placed[part_id].name + (f" {name}" if len(several) > 1 else "")
            limited = is_limited(c, part_id, led, name) or reading.max <= _bearable(c, led, ends)
            found.append(_Lit(part_id, name, led, reading, limited, title))
    return tuple(found)


def _bearable(c: Circuit, led: Led, leads: list[str]) -> float:
    """What the LED and the pins on its way bear: a weak pin may limit the current by itself."""
    drivers = [c.hardware.driver_at(t.to) for lead in leads for t in c.ties.at[lead]]
    return min([led.most_a, *(d.recommended_a for d in drivers if d is not None)])


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
    "An LED hardly limits its own current: only what feeds it does, until one of them gives up.",
    "Shockley's junction law; currents by nodal analysis",
    each=of_each_fact(_leds),
)
def led_no_resistor(facts: Facts, x: _Lit) -> Iterator[Observation]:
    r = x.reading
    if not x.limited and r.max > 1e-4:
        wish = is_wished(facts.circuit, x.part)
        fits = f"{show(x.led.wished_a, 'A')} is wished" if wish else f"it bears {show(x.led.most_a, 'A')}"
        yield Observation(
            f"{x.title} has no resistor: it would draw {show(r.typ, 'A')}, up to {show(r.max, 'A')}; {fits}.",
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
    each=of_each_fact(_leds),
)
def led_current(facts: Facts, x: _Lit) -> Iterator[Observation]:
    r, led = x.reading, x.led
    text = f"{x.title} gets {show(r.min, 'A')} to {show(r.max, 'A')}, typically {show(r.typ, 'A')}"
    finder = from_facts(led_resistor, x.part, x.element)
    if r.max < 1e-6 or (r.typ < DARK_SHARE * led.visible_a and not _shares(facts.circuit, x)):
        if x.ends not in reversed_leds(facts.circuit):
            yield Observation(
                f"{x.title} never lights: {_next_to(r)} flows from anode to cathode in any state.",
                (x.part,),
                _numbers(led, r),
                from_circuit(_diodes_turned, x),
                severity="stop",
                title="LED never lights",
            )
    elif not x.limited:
        return
    elif r.max > led.most_a * (1 + NOISE):
        yield Observation(
            f"{text}; it bears {show(led.most_a, 'A')}.", (x.part,), _numbers(led, r), finder, "stop"
        )
    elif _shares(facts.circuit, x):
        return  # a rule of its own says it
    elif r.min < led.visible_a:
        yield Observation(
            f"{text}; below {show(led.visible_a, 'A')} it can hardly be seen.",
            (x.part,),
            _numbers(led, r),
            finder,
            None if r.typ < led.visible_a else "note",
            "LED may stay dark",
        )
    elif (
        is_wished(facts.circuit, x.part) and not WISH_LOW * led.wished_a <= r.typ <= WISH_HIGH * led.wished_a
    ):
        yield Observation(
            f"{text}; {show(led.wished_a, 'A')} is wished.", (x.part,), _numbers(led, r), finder
        )


def _diodes_turned(c: Circuit, x: _Lit) -> Iterator[Remedy]:
    """Each diode in its ties the other way round."""
    for tie in (t for end in x.ends if (t := c.ties.of(end)) is not None):
        for k, bead in enumerate(tie.beads):
            if isinstance(bead, Diode):
                way: Literal["lead", "pin"] = "pin" if bead.towards == "lead" else "lead"
                turned = replace(bead, towards=way)
                yield remedy("Turn its diode round", edits.change_bead, tie.id, k, turned)


def _next_to(r: Reading) -> str:
    return "no current" if r.max < 1e-6 else f"no more than {show(r.max, 'A')}"


def _shares(c: Circuit, x: _Lit) -> bool:
    return any((x.part, x.element) in shared.leds for shared in shared_resistors(c))


@rule(
    "led-shared-resistor",
    "LEDs share one resistor",
    "care",
    "The current of one resistor is divided among the LEDs that are lit: each gets darker when another one "
    "is switched on, and of different colours only the one with the least forward voltage is seen.",
    "Kirchhoff's current law; currents by nodal analysis",
    each=of_circuit(shared_resistors),
)
def led_shared_resistor(facts: Facts, shared: Shared) -> Iterator[Observation]:
    c = facts.circuit
    amps = {led: _alone_and_least(facts.points.junctions.get(of_part(*led), [])) for led in shared.leds}
    # of those that are alike the first, not the one that rounding favours
    part, element = max(shared.leds, key=lambda led: round(amps[led][0] - amps[led][1], 9))
    alone, least = amps[part, element]
    if alone < 1e-6 or least > ALIKE * alone:
        return  # they are always lit alone, or together
    parts = tuple(dict.fromkeys(p for p, _ in shared.leds))
    title = c.placed[part].name + (f" {element}" if len(parts) < len(shared.leds) else "")
    yield Observation(
        f"{len(shared.leds)} LEDs of {' and '.join(c.placed[p].name for p in parts)} share one resistor: "
        f"{title} gets {show(alone, 'A')} alone, and {show(least, 'A')} when the others are lit as well.",
        parts,
        (Number("alone", alone, "A"), Number("with the others", least, "A")),
        from_circuit(_one_each, shared),
    )


def _alone_and_least(readings: list[Reading]) -> tuple[float, float]:
    """(most, least) typical current of an LED among the running cases in which its own end is driven."""
    lit = [r.typ for r in readings if r.case.moment == "running"]
    most = max(lit, default=0.0)
    driven = [r for r in lit if r > LIT_SHARE * most]
    return most, min(driven, default=0.0)


def _one_each(c: Circuit, shared: Shared) -> Iterator[Remedy]:
    """The resistor out of the common tie, and one of the same value into the tie of each LED."""
    ties = {t.id: t for m in c.nets.members.get(shared.net, [shared.net]) for t in c.ties.at.get(m, ())}
    common = [
        (t, k, b) for t in ties.values() for k, b in enumerate(t.beads) if isinstance(b, SeriesResistor)
    ]
    own = [_own_tie(c, led, shared.net) for led in shared.leds]
    if len(common) != 1 or any(tie is None for tie in own):
        return
    tie, at, bead = common[0]
    steps = [Step(edits.add_bead, (t.id, bead)) for t in own if t is not None]
    title = f"Give each LED a {show(bead.ohm, 'Ω')} resistor of its own"
    yield Remedy(title, (Step(edits.remove_bead, (tie.id, at)), *steps))


def _own_tie(c: Circuit, led: LedId, net: str) -> Tie | None:
    """The tie of that end of an LED that it does not share."""
    part_id, name = led
    e = c.parts[part_id].elements[name]
    leads = [f"{part_id}.{end}" for end in (e.a, e.b)]
    return next((c.ties.of(lead) for lead in leads if c.nets.of(lead) != net), None)


@rule(
    "led-reversed",
    "LED the wrong way round",
    "stop",
    "An LED conducts from its anode to its cathode only; the other way it stays dark, and much above 5 V it "
    "breaks down.",
    "Shockley's junction law",
    each=of_each_fact(_leds),
)
def led_reversed(facts: Facts, x: _Lit) -> Iterator[Observation]:
    c = facts.circuit
    if x.reading.max >= 1e-6 or x.ends not in reversed_leds(c):
        return
    turned = [pair for pair in reversed_leds(c) if split(pair[0])[0] == x.part]
    if len(turned) > 1:
        if x.ends == turned[0]:  # said once for all that have an end in common
            yield from _common_turned(c, x.part, turned)
    else:
        a, b = x.ends
        yield Observation(
            f"{c.titles.of(a)} is on {_end(c, a)} and {c.titles.of(b)} on {_end(c, b)}: no current can flow.",
            (a, b),
            remedies=from_facts(exchanged, a, b),
        )


def _common_turned(c: Circuit, part_id: str, turned: list[tuple[str, str]]) -> Iterator[Observation]:
    """Several LEDs of a part whose common end is on the wrong side."""
    common = next(iter(set(turned[0]) & set(turned[1])), turned[0][0])
    ends, other = ("anodes", "cathodes") if common == turned[0][0] else ("cathodes", "anodes")
    yield Observation(
        f"{c.titles.of(common)} is on {_end(c, common)}, and there lie the {ends} of {len(turned)} LEDs: no "
        f"current can flow. {c.placed[part_id].name} is one with common {ends}; with common {other} it would "
        "light.",
        (common, *(lead for pair in turned for lead in pair if lead != common)),
        remedies=from_facts(_other_kind, part_id, common),
    )


def _other_kind(facts: Facts, part_id: str, common: str) -> Iterator[Remedy]:
    """The part with its other end in common, or this end on the other side."""
    c = facts.circuit
    yield from other_choices(facts, part_id, "common end")
    pins = [t.to for ties in c.ties.holders.values() for t in ties if split(t.lead)[0] == part_id]
    there = c.supplies.rail_contact(pins[0]) if c.nets.is_ground(common) and pins else ground_pin(c)
    if there:
        yield remedy(f"Tie {c.titles.of(common)} to {c.titles.full(there)}", edits.tie, common, there)


def _end(c: Circuit, lead: str) -> str:
    tie = c.ties.of(lead)
    return c.titles.full(tie.to) if tie else "nothing"

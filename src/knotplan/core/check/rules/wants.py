"""Rules about small components that parts want beside them, and about
sensors that are only half of a divider."""

import math
from collections.abc import Iterator

from knotplan.catalog.part.elements import Resistor, Track, Varies
from knotplan.catalog.part.facts import Component
from knotplan.catalog.part.needs import Analog
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import supply_of
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import parts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Bead, Capacitor, Clamp, PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.quantity import series
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

KINDS: dict[str, tuple[type, str, str]] = {
    "series": (SeriesResistor, "Ω", "a {} resistor in its tie"),
    "pull-up": (PullUp, "Ω", "a {} pull-up"),
    "pull-down": (PullDown, "Ω", "a {} pull-down"),
    "capacitor": (Capacitor, "F", "a capacitor of {} to ground"),
    "clamp": (Clamp, "A", "a clamp diode"),
}
"""(bead, unit, in words) of each component"""
CALLED = {
    "series": "series resistor",
    "pull-up": "pull-up",
    "pull-down": "pull-down resistor",
    "capacitor": "capacitor",
    "clamp": "clamp diode",
}
"""what a component is called in a title"""


@rule(
    "component-missing",
    "A small component is missing",
    "care",
    "The part needs something beside it that is not on it.",
    "catalogue: what the part wants",
    each=parts,
)
def component_missing(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    part = c.parts[part_id]
    for want in part.facts.wants:
        lead = f"{part_id}.{want.lead}"
        tie = c.ties.of(lead)
        if tie is None or _not_needed(c, part_id, want, tie):
            continue
        there = [_value(b) for b in _beads(c, lead, want)]
        if any(want.least <= v <= want.most for v in there):
            continue
        _, unit, words = KINDS[want.kind]
        has = f" (it has {show(there[0], unit)})" if there else ""
        yield Observation(
            f"{c.titles.of(lead)} wants {words.format(show(want.value, unit))}{has}; "
            f"{show(want.least, unit)} to {show(want.most, unit)} will do: {want.reason}.",
            (lead,),
            (Number("usual value", want.value, unit),),
            from_facts(_put_in, want, tie),
            want.severity,
            f"{'Wrong' if there else 'Missing'}: {CALLED[want.kind]}",
        )


def _not_needed(c: Circuit, part_id: str, want: Component, tie: Tie) -> bool:
    pixels = c.parts[part_id].facts.pixels
    if pixels is not None and pixels.count < want.from_count:
        return True
    pin = c.contacts.pin(tie.to)
    if pin is None:
        return False
    # where the part before drives it, it is a hand's breadth away
    return (want.kind == "series" and pin.hands_on) or (want.kind == "pull-up" and bool(pin.fitted_pull_ohm))


def _beads(c: Circuit, lead: str, want: Component) -> list[Bead]:
    """The beads of the kind on the lead's ties, or for what leads to a rail anywhere on its net."""
    kind = KINDS[want.kind][0]
    where = [lead] if want.kind == "series" else c.nets.members.get(c.nets.of(lead), [lead])
    ties = {t.id: t for m in where for t in c.ties.at.get(m, ())}
    return [b for t in ties.values() for b in t.beads if isinstance(b, kind)]


def _value(bead: Bead) -> float:
    match bead:
        case SeriesResistor(ohm=ohm) | PullUp(ohm=ohm) | PullDown(ohm=ohm):
            return ohm
        case Capacitor(farad=farad):
            return farad
    return 1.0


def _put_in(facts: Facts, want: Component, tie: Tie) -> Iterator[Remedy]:
    c = facts.circuit
    value = show(want.value, KINDS[want.kind][1])
    old = next((k for k, b in enumerate(tie.beads) if isinstance(b, KINDS[want.kind][0])), None)
    bead = _bead(c, want, tie)
    if bead is None:
        return
    if old is not None:
        yield remedy(f"Change it to {value}", edits.change_bead, tie.id, old, bead)
    else:
        yield remedy(
            f"Add {KINDS[want.kind][2].format(value).replace(' in its tie', '')}",
            edits.add_bead,
            tie.id,
            bead,
        )


def _bead(c: Circuit, want: Component, tie: Tie) -> Bead | None:
    match want.kind:
        case "series":
            return SeriesResistor(want.value)
        case "pull-down":
            return PullDown(want.value)
        case "capacitor":
            origin = c.supplies.origin(tie.to)
            return Capacitor(want.value, volts=max(6.3, 2 * (origin.volts.max if origin else 8.0)))
        case "pull-up":
            pin = c.contacts.pin(tie.to)
            rail = (
                c.supplies.rail_contact(tie.to) if pin is not None and pin.driver and pin.kind == "io" else ""
            )
            rail = rail or supply_of(c, split(tie.lead)[0])
            return PullUp(want.value, rail=rail) if rail else None
    return None


@rule(
    "one-sided-sensor",
    "Sensor without its second resistor",
    "stop",
    "A resistor that varies makes no voltage by itself: with nothing on its other side the converter reads "
    "one end of its scale, whatever happens.",
    "voltage divider; Kirchhoff's laws",
    each=parts,
)
def one_sided_sensor(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    part = c.parts[part_id]
    for e in part.elements.values():
        if not isinstance(e, Varies):
            continue
        for own, other in ((e.a, e.b), (e.b, e.a)):
            lead = f"{part_id}.{own}"
            tie = c.ties.of(lead)
            measured = tie is not None and tie.to in c.ties.holders and isinstance(c.needs.of(lead), Analog)
            if tie is not None and measured and not _has_other_side(c, part_id, lead):
                middle = math.sqrt(e.least_ohm * e.most_ohm)
                yield Observation(
                    f"{c.placed[part_id].name} varies from {show(e.least_ohm, 'Ω')} to "
                    f"{show(e.most_ohm, 'Ω')}; without a second resistor at {c.titles.full(tie.to)} "
                    "the pin sees no change.",
                    (lead, tie.to),
                    (Number("middle of its range", middle, "Ω"),),
                    from_facts(_second, f"{part_id}.{other}", tie, middle),
                )


def _has_other_side(c: Circuit, part_id: str, lead: str) -> bool:
    members = c.nets.members.get(c.nets.of(lead), [lead])
    beads = (b for m in members for t in c.ties.at.get(m, ()) for b in t.beads)
    if any(isinstance(b, PullUp | PullDown) for b in beads):
        return True
    pin = next((pin for m in members if (pin := c.contacts.pin(m)) and pin.fitted_pull_ohm), None)
    own = (
        e
        for m in members
        if split(m)[0] in c.parts
        for e in c.parts[split(m)[0]].elements.values()
        if isinstance(e, Resistor | Track | Varies) and split(m)[1] in (e.a, e.b, getattr(e, "wiper", ""))
    )
    return pin is not None or sum(1 for _ in own) > 1


def _second(facts: Facts, other: str, tie: Tie, middle: float) -> Iterator[Remedy]:
    """Towards the side where the sensor is not: the preferred value next to the middle of its range."""
    c = facts.circuit
    ohm = series.at_or_above(middle / 1.1, c.plan.series)
    rail, grounded = c.supplies.rail_contact(tie.to), c.ties.of(other) is None or c.nets.is_ground(other)
    if grounded and rail:
        yield remedy(
            f"Add {show(ohm, 'Ω')} to {c.supplies.rail_title(tie.to)}",
            edits.add_bead,
            tie.id,
            PullUp(ohm, rail=rail),
        )
    elif not grounded:
        yield remedy(f"Add {show(ohm, 'Ω')} to ground", edits.add_bead, tie.id, PullDown(ohm))

"""The rule about small components that parts want beside them."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Talks
from knotplan.catalog.part.facts import Component
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
    if want.kind == "pull-down" and any(_is_output(c, t) for t in c.ties.at.get(tie.lead, ())):
        return True  # an output of another part holds it at all times
    pin = c.contacts.pin(tie.to)
    if pin is None:
        return False
    # where the part before drives it, it is a hand's breadth away
    return (want.kind == "series" and pin.hands_on) or (want.kind == "pull-up" and bool(pin.fitted_pull_ohm))


def _is_output(c: Circuit, tie: Tie) -> bool:
    """A tie leads to what a part's output drives all the time."""
    part_id, name = split(tie.to)
    elements = c.parts[part_id].elements.values() if part_id in c.parts else ()
    return any(isinstance(e, Talks) and e.a == name for e in elements)


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

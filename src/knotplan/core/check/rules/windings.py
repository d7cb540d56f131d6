"""Rules about the windings of steppers: each on one bridge, and at the current that it is made for."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Coil, Motor
from knotplan.core.check.asked import from_circuit, on_demand
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import parts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

OVER, FAR_OVER = 1.1, 2.0
"""times the winding's own current: up to the first it only gets warmer, above the second it burns"""
Ends = tuple[str, str]


def windings(c: Circuit, part_id: str) -> list[Ends]:
    """(lead, lead) of each winding of a motor whose ends both lead to bridges."""
    ends = [
        (f"{part_id}.{e.a}", f"{part_id}.{e.b}")
        for e in c.parts[part_id].elements.values()
        if isinstance(e, Coil | Motor) and {e.a, e.b} <= c.parts[part_id].leads.keys()
    ]
    return [pair for pair in ends if all(_bridge(c, lead) for lead in pair)]


def _bridge(c: Circuit, lead: str) -> str:
    """The contact of a bridge that a lead is tied to; empty where it is none."""
    tie = c.ties.of(lead)
    pin = c.contacts.pin(tie.to) if tie is not None else None
    return tie.to if tie is not None and pin is not None and "bridge" in pin.functions else ""


def other_end(c: Circuit, contact: str) -> str:
    """The other end of a bridge, where the catalogue says which that is."""
    spec = c.contacts.lead(contact)
    name = spec.offers.bridge_with if spec is not None and spec.offers is not None else ""
    return f"{split(contact)[0]}.{name}" if name else ""


def crossed(c: Circuit, part_id: str) -> list[Ends]:
    """The windings whose two ends lie on two bridges."""
    return [
        pair
        for pair in windings(c, part_id)
        if (end := other_end(c, _bridge(c, pair[0])))
        and _bridge(c, pair[1]) not in (end, _bridge(c, pair[0]))
    ]


@rule(
    "coils-crossed",
    "Windings crossed between bridges",
    "stop",
    "A bridge drives its current from one of its ends to the other. With the two ends of a winding on two "
    "bridges no current flows where it should, and the motor hums or does nothing.",
    "catalogue: windings of the motor, ends of each bridge",
    each=parts,
)
def coils_crossed(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    pairs = crossed(c, part_id)
    if not pairs:
        return
    (one, other), *_ = pairs
    steps = c.parts[part_id].facts.stepper is not None
    what = "winding" if steps else "motor"
    yield Observation(
        f"{c.titles.of(one)} and {c.titles.own(other)} are the ends of one {what}, and lie on "
        f"{c.titles.full(_bridge(c, one))} and {c.titles.full(_bridge(c, other))}: two bridges. The other "
        f"end of the first one is {c.titles.full(other_end(c, _bridge(c, one)))}.",
        tuple(lead for pair in pairs for lead in pair),
        remedies=from_circuit(_paired, part_id),
        severity=None if steps else "care",  # two halves can drive it, in programs that know
    )


def _paired(c: Circuit, part_id: str) -> Iterator[Remedy]:
    """Each winding on the two ends of one bridge, in the order of the bridges."""
    pairs = windings(c, part_id)
    contacts = [_bridge(c, lead) for pair in pairs for lead in pair]
    bridges = [(x, other_end(c, x)) for k, x in enumerate(contacts) if other_end(c, x) not in contacts[:k]]
    if len(bridges) < len(pairs):
        return
    steps = [
        Step(edits.tie, (lead, contact))
        for pair, bridge in zip(pairs, bridges, strict=False)
        for lead, contact in zip(pair, bridge, strict=True)
        if _bridge(c, lead) != contact
    ]
    title = "Put each winding on one bridge" if len(pairs) > 1 else "Put its two ends on one bridge"
    yield Remedy(title, tuple(steps))


@rule(
    "step-current",
    "Current limit above the winding's",
    "care",
    "A step driver raises the voltage until its limit flows. Above what the winding is made for, the motor "
    "gets too hot to touch, and its insulation ages.",
    "catalogue: current of a winding; the driver's current limit",
    each=parts,
)
def step_current(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    stepper = c.parts[part_id].facts.stepper
    if stepper is None or not stepper.phase_a:
        return
    for hub in dict.fromkeys(split(_bridge(c, pair[0]))[0] for pair in windings(c, part_id)):
        name = c.parts[hub].parameter("current limit")
        if not name:
            continue
        limit = float(c.placed[hub].params.get(name, c.parts[hub].params[name].default))
        if limit <= OVER * stepper.phase_a:
            continue
        yield Observation(
            f"{c.placed[hub].name} is set to {show(limit, 'A')}; a winding of {c.placed[part_id].name} is "
            f"made for {show(stepper.phase_a, 'A')}.",
            (hub, part_id),
            (Number("current limit", limit, "A", stepper.phase_a),),
            on_demand(_limited, hub, name, stepper.phase_a),
            "stop" if limit > FAR_OVER * stepper.phase_a else None,
        )


def _limited(hub: str, name: str, amps: float) -> Iterator[Remedy]:
    yield remedy(f"Set the limit to {show(amps, 'A')}", edits.set_param, hub, name, amps)

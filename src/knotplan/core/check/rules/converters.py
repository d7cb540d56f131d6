"""Rules about what converters measure."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Track
from knotplan.catalog.part.needs import Analog
from knotplan.core.check.asked import from_circuit, on_demand
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_each
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import held_for
from knotplan.core.finders.in_plan import converter_of, proposals
from knotplan.core.memory.question import each
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Capacitor
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

USED = 0.75
"""a knob that reaches less than this of the scale is fed from the wrong voltage"""
SOURCE_OHM = 10e3
"""what most converters allow before them"""
BUFFER_F = 100e-9


@each(held_for(Analog))
def _measured(c: Circuit, tie_id: str) -> tuple[tuple[Tie, float, str], ...]:
    """(tie, reference, title) of a tied analogue lead."""
    tie = c.ties.held[tie_id]
    unit = converter_of(c, tie.to) if isinstance(c.needs.of(tie.lead), Analog) else None
    return ((tie, unit[1], unit[2]),) if unit is not None else ()


@rule(
    "scale-missing",
    "Part of the scale is missing",
    "care",
    "A knob fed from another voltage than the converter measures against either stops short of the scale's "
    "end, or reaches it long before its own.",
    "code = V/V_ref 2^n; voltages by nodal analysis",
    each=of_each(_measured),
)
def scale_missing(facts: Facts, measured: tuple[Tie, float, str]) -> Iterator[Observation]:
    c = facts.circuit
    tie, reference, title = measured
    part_id = split(tie.lead)[0]
    tracks = (e for e in c.parts[part_id].elements.values() if isinstance(e, Track))
    track = next((e for e in tracks if e.wiper == split(tie.lead)[1]), None)
    most = max(
        (r.typ for r in facts.points.volts.get(c.nets.of(tie.to), []) if r.case.moment == "running"),
        default=0.0,
    )
    if track is None or most < 1e-3 or USED <= most / reference <= 1.02:
        return
    text = (
        f"only {most / reference * 100:.0f} % of the scale are in use"
        if most < reference
        else f"the last {(1 - reference / most) * 100:.0f} % of its way change nothing"
    )
    yield Observation(
        f"{c.titles.of(tie.lead)} reaches {show(most, 'V')}, and {title} measures against "
        f"{show(reference, 'V')}: {text}.",
        (tie.lead,),
        (Number("most voltage", most, "V", reference, lower=most < reference),),
        from_circuit(_from_reference, tie, f"{part_id}.{track.a}"),
    )


def _from_reference(c: Circuit, tie: Tie, top: str) -> Iterator[Remedy]:
    """The knob's top on the rail that the converter measures against."""
    owner = split(tie.to)[0]
    pin = c.contacts.pin(tie.to)
    jobs = pin.jobs("adc") if pin else []
    unit = next((u for j in jobs if (u := c.contacts.owner(tie.to).converters.get(j.unit))), None)
    if unit is None:
        contact = ""
    elif owner == BOARD:
        contact = c.contacts.supply_contact(unit.reference)
    else:
        contact = f"{owner}.{unit.reference}"
    if contact and c.supplies.origin(contact) is not None:
        yield remedy(f"Feed {c.titles.of(top)} from {c.titles.full(contact)}", edits.tie, top, contact)


@rule(
    "source-weak",
    "Source too weak for the converter",
    "note",
    "A converter charges a small capacitor from what it measures; behind a large resistance that takes "
    "longer than it waits, and the reading drags behind or mixes with its neighbour's.",
    "source resistance of the divider; data sheets of converters ask for 10 kΩ at most",
    each=of_each(_measured),
)
def source_weak(facts: Facts, measured: tuple[Tie, float, str]) -> Iterator[Observation]:
    c = facts.circuit
    tie, _, title = measured
    net = c.nets.members.get(c.nets.of(tie.to), [tie.to])
    if any(isinstance(b, Capacitor) for m in net for t in c.ties.at.get(m, ()) for b in t.beads):
        return
    ohm = max((_ohm(p.values) for p in proposals(c, facts.points, tie)), default=0.0)
    if ohm > SOURCE_OHM:
        yield Observation(
            f"{c.titles.of(tie.lead)} is a source of up to {show(ohm, 'Ω')}; {title} wants "
            f"{show(SOURCE_OHM, 'Ω')} at most, or a capacitor at its pin.",
            (tie.lead,),
            (Number("source resistance", ohm, "Ω", SOURCE_OHM),),
            on_demand(_buffered, tie),
        )


def _ohm(values: dict[str, float | str]) -> float:
    """The source resistance that a converter's or a reading's inputs say."""
    if "source" in values:
        return float(values["source"])
    if "second" in values:
        second, most = float(values["second"]), float(values["most"])
        return second * most / (second + most)
    return 0.0


def _buffered(tie: Tie) -> Iterator[Remedy]:
    yield remedy(f"Add a capacitor of {show(BUFFER_F, 'F')}", edits.add_bead, tie.id, Capacitor(BUFFER_F))

"""Rules about sensors that are resistors: each is half of a divider."""

import math
from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.elements import Resistor, Track, Varies
from knotplan.catalog.part.needs import Analog
from knotplan.catalog.quantities import Range
from knotplan.core.check.asked import from_circuit
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, parts
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.readings import Reading
from knotplan.core.finders.in_plan import converter_of
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity import series
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

TRACKS = (1e3, 2.2e3, 4.7e3, 10e3, 22e3, 47e3, 100e3)
"""resistances that knobs are sold with"""
NO_CHANGE, FAIR_SHARE = 0.02, 1 / 3
"""of the scale: below the first the pin sees nothing, below the second it wastes most of its codes"""


class Measured(Struct, frozen=True):
    """A resistor that senses, on a pin that measures."""

    part: str
    name: str
    cell: Varies
    tie: Tie
    """of the end that is measured"""
    other: str
    """the lead at its other end"""
    reference: float
    """against which the pin measures, V"""

    @property
    def middle_ohm(self) -> float:
        """The geometric middle of its range: with a second resistor like that, most of the scale is used."""
        return math.sqrt(self.cell.least_ohm * self.cell.most_ohm)


def measured(c: Circuit) -> Iterator[Measured]:
    """Every sensing resistor with an end on a pin that measures."""
    for part_id in having(c, Varies):
        for name, e in c.parts[part_id].elements.items():
            if not isinstance(e, Varies):
                continue
            for own, other in ((e.a, e.b), (e.b, e.a)):
                tie = c.ties.of(f"{part_id}.{own}")
                on_pin = tie is not None and tie.to in c.ties.holders
                if tie is not None and on_pin and isinstance(c.needs.of(tie.lead), Analog):
                    unit = converter_of(c, tie.to)
                    yield Measured(part_id, name, e, tie, f"{part_id}.{other}", unit[1] if unit else 0.0)


def _ends(facts: Facts, m: Measured) -> tuple[float, float] | None:
    """(lowest, highest) typical voltage at the pin over the sensor's range; nothing where it is not known."""
    c = facts.circuit
    volts = [
        r.typ
        for r in facts.points.volts.get(c.nets.of(m.tie.to), [])
        if r.case.moment == "running" and r.case.contact(m.part, m.name)
    ]
    return (min(volts), max(volts)) if volts else None


@rule(
    "one-sided-sensor",
    "Sensor without its second resistor",
    "stop",
    "A resistor that varies makes no voltage by itself: with nothing on its other side, or with both on "
    "one side, the converter reads the same whatever happens.",
    "voltage divider; Kirchhoff's laws; voltages by nodal analysis",
    each=of_circuit(measured),
)
def one_sided_sensor(facts: Facts, m: Measured) -> Iterator[Observation]:
    c = facts.circuit
    ends = _ends(facts, m)
    if c.ties.of(m.other) is None:
        return  # an end that is not tied yet is still to be done
    there = [b for _, _, b in _second(c, m)]
    change = ends[1] - ends[0] if ends else 0.0
    if _has_other_side(c, m) and (not m.reference or change >= NO_CHANGE * m.reference):
        return
    why = (
        f"its {show(there[0].ohm, 'Ω')} resistor leads to the same side as its other end"
        if there
        else f"there is no second resistor at {c.titles.full(m.tie.to)}"
    )
    yield Observation(
        f"{c.placed[m.part].name} varies from {show(m.cell.least_ohm, 'Ω')} to "
        f"{show(m.cell.most_ohm, 'Ω')}, but "
        f"{why}: the pin sees no change.",
        (m.tie.lead, m.tie.to),
        (Number("middle of its range", m.middle_ohm, "Ω"), Number("change at the pin", change, "V")),
        from_circuit(_second_resistor, m),
        title="Sensor with both resistors on one side" if there else "",
    )


def _second(c: Circuit, m: Measured) -> list[tuple[Tie, int, PullUp | PullDown]]:
    """The resistors to a rail or to ground at the measured pin: (tie, place, bead)."""
    net = c.nets.members.get(c.nets.of(m.tie.to), [m.tie.to])
    ties = {t.id: t for contact in net for t in c.ties.at.get(contact, ())}
    return [
        (t, k, b) for t in ties.values() for k, b in enumerate(t.beads) if isinstance(b, PullUp | PullDown)
    ]


def _has_other_side(c: Circuit, m: Measured) -> bool:
    """Something besides the sensor leads on from the measured pin: a resistor, a pull, another part."""
    net = c.nets.members.get(c.nets.of(m.tie.to), [m.tie.to])
    fitted = any((pin := c.contacts.pin(x)) is not None and pin.fitted_pull_ohm for x in net)
    own = [
        (split(x)[0], name)
        for x in net
        if split(x)[0] in c.parts
        for name, e in c.parts[split(x)[0]].elements.items()
        if isinstance(e, Resistor | Track | Varies) and split(x)[1] in (e.a, e.b, getattr(e, "wiper", ""))
    ]
    in_tie = any(isinstance(b, SeriesResistor) for b in m.tie.beads)
    return bool(_second(c, m)) or fitted or len(set(own)) > 1 or in_tie


def _second_resistor(c: Circuit, m: Measured) -> Iterator[Remedy]:
    """Towards the side where the sensor is not: the preferred value next to the middle of its range."""
    ohm = series.at_or_above(m.middle_ohm / 1.1, c.series)
    rail = c.supplies.rail_contact(m.tie.to)
    grounded = c.nets.is_ground(m.other)
    if grounded and not rail:
        return
    bead = PullUp(ohm, rail=rail) if grounded else PullDown(ohm)
    where = c.titles.full(rail) if grounded else "ground"
    now = _second(c, m)
    away = tuple(Step(edits.remove_bead, (t.id, k)) for t, k, _ in reversed(now))
    verb = "Lead" if now else "Add"
    yield Remedy(f"{verb} {show(ohm, 'Ω')} to {where}", (*away, Step(edits.add_bead, (m.tie.id, bead))))


@rule(
    "sensor-range",
    "Little of the scale is used",
    "care",
    "A second resistor far from the sensor's own range squeezes all that it says into a few codes of the "
    "converter.",
    "voltage divider; R = sqrt(R_least R_most) uses the most of the scale",
    each=of_circuit(measured),
)
def sensor_range(facts: Facts, m: Measured) -> Iterator[Observation]:
    c = facts.circuit
    ends = _ends(facts, m)
    if ends is None or not m.reference or not _has_other_side(c, m):
        return
    share = (ends[1] - ends[0]) / m.reference
    if not NO_CHANGE <= share < FAIR_SHARE:
        return
    yield Observation(
        f"{c.titles.full(m.tie.to)} sees {show(ends[0], 'V')} to {show(ends[1], 'V')} over the whole range "
        f"of {c.placed[m.part].name}: {share * 100:.0f} % of the scale of {show(m.reference, 'V')}. With "
        f"{show(m.middle_ohm, 'Ω')} as the second resistor most of it is used.",
        (m.tie.lead, m.tie.to),
        (
            Number("share of the scale", share, "%", FAIR_SHARE, lower=True),
            Number("middle of its range", m.middle_ohm, "Ω"),
        ),
        from_circuit(_better_second, m),
    )


def _better_second(c: Circuit, m: Measured) -> Iterator[Remedy]:
    ohm = series.at_or_above(m.middle_ohm / 1.1, c.series)
    for tie, at, bead in _second(c, m):
        other = (
            PullUp(ohm, bead.tolerance, bead.rail)
            if isinstance(bead, PullUp)
            else PullDown(ohm, bead.tolerance)
        )
        yield remedy(f"Take {show(ohm, 'Ω')} instead", edits.change_bead, tie.id, at, other)


@rule(
    "sensor-heats",
    "Sensor warms itself",
    "care",
    "The current that measures a thermistor warms it: it then reads its own warmth along with the air's.",
    "P = I² R by nodal analysis; dT = P / (power for a kelvin), catalogue; the sensor's own accuracy",
    each=of_circuit(measured),
)
def sensor_heats(facts: Facts, m: Measured) -> Iterator[Observation]:
    c = facts.circuit
    sensor = c.parts[m.part].facts.sensor
    if not m.cell.watt_per_kelvin or sensor is None:
        return
    watt = max((_watt(m, r) for r in facts.points.bars.get(of_part(m.part, m.name), [])), default=0.0)
    kelvin = watt / m.cell.watt_per_kelvin
    if kelvin <= sensor.accuracy:
        return
    yield Observation(
        f"{c.placed[m.part].name} takes up to {show(watt, 'W', 2)} and reads {show(kelvin, 'K', 2)} too "
        f"warm; it is accurate to {show(sensor.accuracy, 'K')}.",
        (m.tie.lead,),
        (Number("power", watt, "W"), Number("warmer by", kelvin, "K", sensor.accuracy)),
        from_circuit(_better_second, m),
    )


def _watt(m: Measured, r: Reading) -> float:
    """Power in the sensor where it stands in a case."""
    stands = r.case.contact(m.part, m.name)
    if r.case.moment != "running" or not stands:
        return 0.0
    ohm = m.cell.least_ohm * (m.cell.most_ohm / m.cell.least_ohm) ** float(stands)
    return r.most * r.most * float(ohm)


@rule(
    "track-hot",
    "Knob's track too hot",
    "care",
    "The whole voltage lies across the track whatever its wiper does; above its rating the track burns "
    "through.",
    "P = V² / R at the most voltage and the least resistance; catalogue: what the track bears",
    each=parts,
)
def track_hot(facts: Facts, part_id: str) -> Iterator[Observation]:
    c = facts.circuit
    for e in c.parts[part_id].elements.values():
        if not isinstance(e, Track) or not e.most_w:
            continue
        ends = [_fixed_volts(c, f"{part_id}.{name}") for name in (e.a, e.b)]
        if ends[0] is None or ends[1] is None:
            continue
        volts, most = (
            abs(ends[0].typ - ends[1].typ),
            max(ends[0].max - ends[1].min, ends[1].max - ends[0].min),
        )
        watt, usual = most**2 / (e.ohm * (1 - e.tolerance)), volts**2 / e.ohm
        if watt > e.most_w:
            yield Observation(
                f"{c.placed[part_id].name}, of {show(e.ohm, 'Ω')}, turns {show(usual, 'W')} into heat at "
                f"{show(volts, 'V')}, and {show(watt, 'W')} at worst; its track bears {show(e.most_w, 'W')}.",
                (part_id,),
                (Number("heat", watt, "W", e.most_w), Number("usual heat", usual, "W")),
                from_circuit(_larger_track, part_id, most**2 / (e.most_w * (1 - e.tolerance))),
                "stop" if usual > 2 * e.most_w else None,
            )


def _fixed_volts(c: Circuit, lead: str) -> Range | None:
    """The voltage of a lead that lies on a supply or on ground."""
    if c.nets.is_ground(lead):
        return Range.exactly(0.0)
    origin = c.supplies.origins.get(c.nets.of(lead))
    return origin.volts if origin is not None else None


def _larger_track(c: Circuit, part_id: str, least_ohm: float) -> Iterator[Remedy]:
    ohm = next((x for x in TRACKS if x >= least_ohm), None)
    name = c.parts[part_id].parameter("track")
    if ohm is not None and name:
        yield remedy(f"Take one of {show(ohm, 'Ω')}", edits.set_param, part_id, name, ohm)

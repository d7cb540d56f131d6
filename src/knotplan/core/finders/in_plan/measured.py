"""What inputs and converters ask for: dividers, pull-ups, debouncing, second resistors, readings."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Switch, Track, Varies
from knotplan.catalog.part.needs import Analog, Input
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.engine.readings import Points
from knotplan.core.finders.in_plan.proposal import Proposal, elements_at
from knotplan.core.plan.beads import Bead, Capacitor, PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import BOARD, Tie, split


def of_inputs(c: Circuit, points: Points, tie: Tie) -> Iterator[Proposal]:
    """What to ask about an input: pulls, dividers, converters, debouncing."""
    pin, need = c.contacts.pin(tie.to), c.needs.of(tie.lead)
    if pin is None or pin.kind != "io" or not pin.driver or not isinstance(need, Input | Analog):
        return
    driver, volts, where = (
        as_fed(c, tie.to),
        c.supplies.rail_volts(tie.to),
        f"catalogue, {c.titles.full(tie.to)}",
    )
    if volts is None:
        return
    about, part_id = c.titles.of(tie.lead), split(tie.lead)[0]
    most = max((r.max for r in points.volts.get(c.nets.of(tie.lead), [])), default=0.0)
    divided = any(isinstance(b, SeriesResistor) for b in tie.beads) and any(
        isinstance(b, PullDown) for b in tie.beads
    )
    if most > min(driver.max_v, volts.max + 0.3) or divided:
        yield Proposal(
            "divider",
            tie,
            about,
            {
                "volts": (max(most, volts.max * 1.01), "engine: most at the lead"),
                "wanted": (volts.min, where),
                "load": (volts.typ / driver.leak_a, where),
                "series": (c.series, "plan"),
            },
            SeriesResistor(1000.0),
        )
    if isinstance(need, Input) and (need.contact or need.open_drain):
        yield Proposal(
            "pull",
            tie,
            about,
            {
                "supply": (volts.typ, where),
                "leak": (driver.leak_a, where),
                "high_share": (min(0.99, max(0.31, driver.input_high_v / volts.typ)), where),
                "series": (c.series, "plan"),
            },
            PullUp(10e3, rail=c.supplies.rail_contact(tie.to)),
        )
    if isinstance(need, Input) and need.contact and any(isinstance(e, Switch) for e in elements_at(c, tie)):
        pull = next(
            (b.ohm for b in tie.beads if isinstance(b, PullUp)),
            driver.pull_up_ohm.typ if driver.pull_up_ohm else 10e3,
        )
        series_ohm = next((b.ohm for b in tie.beads if isinstance(b, SeriesResistor)), 0.0)
        yield Proposal(
            "debounce",
            tie,
            about,
            {
                "supply": (volts.typ, where),
                "pull": (pull, "plan, or the pin's own"),
                "series_ohm": (series_ohm, "plan"),
                "low_share": (driver.input_low_v / volts.typ, where),
                "high_share": (min(0.95, driver.input_high_v / volts.typ), where),
            },
            Capacitor(1e-6),
        )
    if isinstance(need, Analog):
        yield from _measured(c, points, tie, part_id)


def converter_of(c: Circuit, contact: str) -> tuple[int, float, str] | None:
    """(bits, reference V, title) of the converter behind a pin in use."""
    pin = c.contacts.pin(contact)
    for job in pin.jobs("adc") if pin else ():
        unit = c.contacts.owner(contact).converters.get(job.unit)
        if unit is None:
            continue
        if split(contact)[0] == BOARD:
            rail = c.board.rails.get(unit.reference)
            return (unit.bits, rail.volts.typ, unit.title) if rail else None
        origin = c.supplies.origin(f"{split(contact)[0]}.{unit.reference}")
        return (unit.bits, origin.volts.typ, unit.title) if origin else None
    return None


def _measured(c: Circuit, points: Points, tie: Tie, part_id: str) -> Iterator[Proposal]:
    unit, about, name = converter_of(c, tie.to), c.titles.of(tie.lead), c.placed[part_id].name
    if unit is None:
        return
    bits, reference, title = unit
    sensor, rail = c.parts[part_id].facts.sensor, c.supplies.rail_contact(tie.to)
    e = next((e for e in elements_at(c, tie) if isinstance(e, Varies)), None)
    if e is not None:
        other = f"{part_id}.{e.b if split(tie.lead)[1] == e.a else e.a}"
        grounded = c.nets.is_ground(other) or c.ties.of(other) is None
        bead: Bead = PullUp(10e3, rail=rail) if grounded else PullDown(10e3)
        yield Proposal(
            "sensor",
            tie,
            about,
            {
                "least": (e.least_ohm, f"catalogue, {name}"),
                "most": (e.most_ohm, f"catalogue, {name}"),
                "supply": (reference, title),
                "bits": (float(bits), title),
                "place": ("between pin and ground" if grounded else "between supply and pin", "plan"),
                "series": (c.series, "plan"),
            },
            bead,
        )
        second = next((b.ohm for b in tie.beads if isinstance(b, PullUp | PullDown)), None)
        if second is not None and sensor is not None and sensor.law:
            yield _read_back(c, tie, e, second, grounded, bits)
            return
    readings = [r for r in points.volts.get(c.nets.of(tie.to), []) if r.case.moment == "running"]
    low, high = min((r.typ for r in readings), default=0.0), max((r.typ for r in readings), default=0.0)
    if high - low < 1e-3:
        return
    track = next((t for t in elements_at(c, tie) if isinstance(t, Track)), None)
    ohm = track.ohm / 4 if track is not None else _source_ohm(tie, e)
    ends = (sensor.least, sensor.most, sensor.unit) if sensor is not None else (0.0, 100.0, "%")
    yield Proposal(
        "converter",
        tie,
        about,
        {
            "reference": (reference, title),
            "bits": (float(bits), title),
            "low": (max(0.0, low), "engine"),
            "high": (high, "engine"),
            "at_low": (ends[0], f"catalogue, {name}"),
            "at_high": (ends[1], f"catalogue, {name}"),
            "unit": (ends[2], "catalogue"),
            "source": (ohm, "engine: at the worst position"),
        },
    )


def _read_back(c: Circuit, tie: Tie, e: Varies, second: float, grounded: bool, bits: int) -> Proposal:
    """What a sensor with its second resistor is read as."""
    part_id = split(tie.lead)[0]
    sensor, where = c.parts[part_id].facts.sensor, f"catalogue, {c.placed[part_id].name}"
    assert sensor is not None
    at_least, at_most = (sensor.most, sensor.least) if sensor.falls else (sensor.least, sensor.most)
    return Proposal(
        "reading",
        tie,
        c.titles.of(tie.lead),
        {
            "least": (e.least_ohm, where),
            "most": (e.most_ohm, where),
            "at_least": (at_least, where),
            "at_most": (at_most, where),
            "law": (sensor.law, where),
            "second": (second, "plan"),
            "bits": (float(bits), "catalogue"),
            "place": ("between pin and ground" if grounded else "between supply and pin", "plan"),
            "unit": (sensor.unit, "catalogue"),
        },
    )


def _source_ohm(tie: Tie, e: Varies | None) -> float:
    """The greatest resistance that a converter sees into a divider: of both sides in parallel."""
    second = next((b.ohm for b in tie.beads if isinstance(b, PullUp | PullDown)), 0.0)
    if e is not None and second:
        return second * e.most_ohm / (second + e.most_ohm)
    return sum(b.ohm for b in tie.beads if isinstance(b, SeriesResistor))

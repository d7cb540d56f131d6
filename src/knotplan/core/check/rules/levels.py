"""Rules about voltages at inputs and outputs while the program runs."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Opto
from knotplan.catalog.part.needs import Bus, Input, Pulse, Stream
from knotplan.core.check.asked import from_facts, on_demand
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.drive import Drive, drives, in_state
from knotplan.core.check.rules.level_remedies import divided, shifted
from knotplan.core.check.rules.remedies import logic_supply, lower_gate, supply_of
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_each, pins
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.nearby import nearby
from knotplan.core.engine.operating_points import operating_points
from knotplan.core.engine.readings import Reading, pin_volts
from knotplan.core.match.exchanged import undriven_loads
from knotplan.core.match.fit import Grade, candidates
from knotplan.core.plan import edits
from knotplan.core.plan.beads import LevelShifter, PullUp, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


@rule(
    "input-over-voltage",
    "More voltage than the pin bears",
    "stop",
    "A pin that sees more than its maximum leads current into the chip through its protection, "
    "and that damages it, at once or by and by.",
    "catalogue: absolute maximum voltage of the pin's driver; voltages by nodal analysis",
    each=pins,
)
def input_over_voltage(facts: Facts, pin_id: str) -> Iterator[Observation]:
    c = facts.circuit
    ties = c.ties.holders[pin_id]
    driver = as_fed(c, pin_id)
    worst = max(pin_volts(c, facts.points, pin_id), key=lambda r: r.max, default=None)
    if (
        worst is None
        or worst.max <= driver.max_v
        or all(t in undriven_loads(c).get(split(t.lead)[0], ()) for t in ties)
    ):
        return
    contact = pin_id
    parts = list(dict.fromkeys(split(t.lead)[0] for t in ties))
    yield Observation(
        f"{c.titles.full(contact)} sees {show(worst.typ, 'V')}, up to {show(worst.max, 'V')} "
        f"({worst.case.words(c)}); it bears {show(driver.max_v, 'V')}.",
        (contact, *(t.lead for t in ties)),
        (Number("typical voltage", worst.typ, "V"), Number("most voltage", worst.max, "V", driver.max_v)),
        from_facts(_bearable, parts, ties[0].lead, contact, worst.max),
        None if worst.typ > driver.max_v else "care",
    )


def _bearable(facts: Facts, parts: list[str], lead: str, contact: str, volts: float) -> Iterator[Remedy]:
    """A lower supply for the signal, or a pin that bears what comes."""
    c = facts.circuit
    yield from logic_supply(facts, parts, as_fed(c, contact).max_v)
    yield from _lower_pulls(c, contact)
    yield from _own_pulls_off(c, parts)
    if volts <= max(d.max_v for d in c.board.drivers.values()):
        able = (f.contact for f in candidates(c, lead) if f.grade <= Grade.GOOD)
        for other in able:
            there = c.contacts.pin(other)
            if there is not None and there.kind == "io" and there.driver and as_fed(c, other).max_v >= volts:
                yield remedy(f"Move to {c.titles.full(other)}, which bears it", edits.tie, lead, other)
                break
    tie = c.ties.of(lead)
    if tie is not None and tie.to == contact and isinstance(c.needs.of(lead), Input):
        yield from (r for r in _stepped_down(c, tie, volts) if _bears(facts, r, lead))


def _lower_pulls(c: Circuit, contact: str) -> Iterator[Remedy]:
    """Pull-ups that lead above the pin's own rail, led to that one: on a bus those of both lines."""
    rail, volts = c.supplies.rail_contact(contact), c.supplies.rail_volts(contact)
    parts = {split(t.lead)[0] for t in c.ties.holders.get(contact, ())}
    steps = tuple(
        Step(edits.change_bead, (t.id, k, PullUp(b.ohm, b.tolerance, rail)))
        for t in c.ties
        if split(t.lead)[0] in parts and t.to in c.ties.holders
        for k, b in enumerate(t.beads)
        if isinstance(b, PullUp)
        and volts is not None
        and (high := c.supplies.origin(b.rail)) is not None
        and high.volts.typ > volts.max
    )
    if rail and steps:
        yield Remedy(f"Lead its pull-ups to {c.titles.full(rail)}", steps)


def _own_pulls_off(c: Circuit, parts: list[str]) -> Iterator[Remedy]:
    """The pull-ups of modules taken off, and a level shifter in both lines."""
    for part_id in parts:
        part = c.parts[part_id]
        name = part.parameter("pull-ups")
        if name:
            title = f"Take the pull-ups off {c.placed[part_id].name}"
            yield remedy(title, edits.set_param, part_id, name, part.params[name].choices[-1])
        lines = [t for n in part.leads if (t := c.ties.of(f"{part_id}.{n}")) is not None]
        bus = [t for t in lines if isinstance(n := c.needs.of(t.lead), Bus) and n.bus == "i2c"]
        if bus:
            yield from shifted(c, bus[0])


def _stepped_down(c: Circuit, tie: Tie, volts: float) -> Iterator[Remedy]:
    """A level shifter between, or a divider: U = U_in * R2/(R1 + R2)."""
    own, pin_rail, rail = (
        supply_of(c, split(tie.lead)[0]),
        c.supplies.rail_contact(tie.to),
        c.supplies.rail_volts(tie.to),
    )
    if own and pin_rail and not any(isinstance(b, LevelShifter) for b in tie.beads):
        shifter = LevelShifter("buffer", lead_rail=own, pin_rail=pin_rail)
        yield Remedy(
            f"Add a level shifter from {c.titles.full(own)}",
            (Step(edits.put_bead, (tie.id, shifter, "pin")),),
        )
    if rail is not None and volts > rail.min and not tie.beads:
        yield divided(c, tie, volts, rail)


def _bears(facts: Facts, wanted: Remedy, lead: str) -> bool:
    c = facts.circuit
    near = Circuit(nearby(c, wanted.apply(c.plan), split(lead)[0]), facts.catalog)
    tie = near.ties.of(lead)
    most = max((r.max for r in pin_volts(near, operating_points(near), tie.to)), default=0.0) if tie else 0.0
    return tie is not None and most <= as_fed(near, tie.to).max_v


@rule(
    "output-level",
    "Output does not reach the input's level",
    "stop",
    "The pin's high or low does not take the input safely to its other state, so the load never lets go, "
    "or never answers.",
    "catalogue: input levels of the part; levels by nodal analysis",
    each=of_each(drives),
)
def output_level(facts: Facts, d: Drive) -> Iterator[Observation]:
    c = facts.circuit
    if d.element:
        yield from _opto_levels(facts, d, d.element)
        return
    volts = facts.points.volts.get(c.nets.of(d.tie.lead), [])
    high = min(in_state(volts, d.pin, "high"), key=lambda r: r.min, default=None)
    low = max(in_state(volts, d.pin, "low"), key=lambda r: r.max, default=None)
    least, most = c.needs.levels(d.tie.lead)
    if least is not None and high is not None and high.min < least:
        yield _off_level(facts, d, "high", high, least)
    if most is not None and low is not None and low.max > most:
        yield _off_level(facts, d, "low", low, most)


def _off_level(facts: Facts, d: Drive, state: str, r: Reading, wanted: float) -> Observation:
    c = facts.circuit
    got = r.min if state == "high" else r.max
    misses = r.typ < wanted if state == "high" else r.typ > wanted
    name, where = c.titles.of(d.tie.lead), c.titles.full(d.tie.to)
    own = c.supplies.origin(f"{d.part}.{d.need.of}") if d.need.of else None
    of = (
        f", {wanted / own.volts.max:.2g} of its own {show(own.volts.max, 'V')}"
        if own and state == "high"
        else ""
    )
    return Observation(
        f"{name} gets {show(r.typ, 'V')}, at worst {show(got, 'V')}, when {where} is {state}; it needs at "
        f"{'least' if state == 'high' else 'most'} {show(wanted, 'V')}{of}.",
        (d.tie.lead, d.tie.to),
        (
            Number(f"usual voltage when {state}", r.typ, "V", wanted, lower=state == "high"),
            Number(f"at worst when {state}", got, "V", wanted, lower=state == "high"),
        ),
        from_facts(_reached, d.tie),
        None if misses else "care",
        "Data level too low" if isinstance(d.need, Stream) else "",
    )


def _reached(facts: Facts, tie: Tie) -> Iterator[Remedy]:
    """Without the series resistor that eats the level, or with a level
    shifter between; whatever settles it."""
    c = facts.circuit

    def settles(wanted: Remedy) -> bool:
        near = Circuit(nearby(c, wanted.apply(c.plan), split(tie.lead)[0]), facts.catalog)
        points = operating_points(near)
        least, _ = near.needs.levels(tie.lead)
        volts = in_state(points.volts.get(near.nets.of(tie.lead), []), tie.to, "high")
        return least is None or not volts or min(r.min for r in volts) >= least

    yield from _stiffer(tie)
    yield from lower_gate(facts, split(tie.lead)[0])
    fast = isinstance(c.needs.of(tie.lead), Stream | Bus | Pulse)
    own, pin_rail = supply_of(c, split(tie.lead)[0]), c.supplies.rail_contact(tie.to)
    if own and pin_rail and not any(isinstance(b, LevelShifter) for b in tie.beads):
        shifter = LevelShifter("buffer" if fast else "mosfet", lead_rail=own, pin_rail=pin_rail)
        added = Remedy(
            f"Add a level shifter to {c.titles.full(own)}", (Step(edits.put_bead, (tie.id, shifter, "pin")),)
        )
        if settles(added):
            yield added


def _stiffer(tie: Tie) -> tuple[Remedy, ...]:
    """Without the series resistor that eats the level."""
    return tuple(
        remedy(f"Take out the {show(b.ohm, 'Ω')} resistor", edits.remove_bead, tie.id, k)
        for k, b in enumerate(tie.beads)
        if isinstance(b, SeriesResistor)
    )


def _opto_levels(facts: Facts, d: Drive, e: Opto) -> Iterator[Observation]:
    c = facts.circuit
    readings = facts.points.junctions.get(of_part(d.part, d.opto), [])
    off = max(in_state(readings, d.pin, d.state(False)), key=lambda r: r.max, default=None)
    on = min(in_state(readings, d.pin, d.state(True)), key=lambda r: r.min, default=None)
    logic = c.supplies.rail_volts(d.pin)
    name, where = c.titles.of(d.tie.lead), c.titles.full(d.tie.to)
    if off and off.max > e.off_a:
        yield Observation(
            f"{name} never lets go: {show(off.max, 'A')} still flow when {where} is {d.state(False)}; "
            f"it is off below {show(e.off_a, 'A')}.",
            (d.tie.lead, d.tie.to),
            (Number("current when off", off.max, "A", e.off_a),),
            from_facts(logic_supply, [d.part], logic.max if logic else 0.0),
            None if off.typ > e.off_a else "care",
        )
    elif on and on.max > 1e-9 and on.min < e.on_a:
        yield Observation(
            f"{name} may not answer: {show(on.min, 'A')} flow when {where} is {d.state(True)}; "
            f"on is above {show(e.on_a, 'A')}.",
            (d.tie.lead, d.tie.to),
            (Number("current when on", on.min, "A", e.on_a, lower=True),),
            on_demand(_stiffer, d.tie),
            None if on.typ < e.on_a else "care",
        )

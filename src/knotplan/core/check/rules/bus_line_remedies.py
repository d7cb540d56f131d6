"""What helps the lines of I2C: pull-ups, fewer of them, slower clocks, shifters, other buses."""

from collections.abc import Callable, Iterator
from itertools import islice

from msgspec.structs import replace

from knotplan.catalog.quantities import Range
from knotplan.core.buses.addresses import trunk
from knotplan.core.buses.apart import behind_switch, branches, bus_switch, i2c_leads
from knotplan.core.buses.i2c import I2cBus, i2c_buses, some
from knotplan.core.buses.lines import LOW_V, Section, mode_for
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import logic_supply
from knotplan.core.check.rules.remedies import supply_of as supply_contact
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Capacitor, LevelShifter, PullUp
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity import series
from knotplan.core.quantity.written import show


def all_sections(c: Circuit) -> Iterator[tuple[I2cBus, Section]]:
    """Every section with a device on it."""
    for bus in i2c_buses(c):
        for section in bus.sections:
            if section.devices:
                yield bus, section


def added_pulls(facts: Facts, pulls: list[tuple[I2cBus, Section]]) -> Iterator[Remedy]:
    """The preferred value in the middle of what the mode allows, to the rail of each line's pin."""
    c = facts.circuit
    steps, values = [], []
    for bus, section in pulls:
        tie = c.ties.of(section_leads(c, section)[0])
        rail = _rail(c, section, tie.to) if tie else ""
        origin = c.supplies.origin(rail) if rail else None
        if tie is None or origin is None:
            return
        values.append(_best(section, bus, origin.volts, c.series))
        steps.append((tie.id, rail))
    if not all(values):
        return
    ohm = max(values)
    rails = " and ".join(dict.fromkeys(c.titles.full(rail) for _, rail in steps))
    yield Remedy(
        f"Add {show(ohm, 'Ω')} pull-ups to {rails}"
        if len(steps) > 1
        else f"Add a {show(ohm, 'Ω')} pull-up to {rails}",
        tuple(Step(edits.add_bead, (tie_id, PullUp(ohm, rail=rail))) for tie_id, rail in steps),
    )


def _rail(c: Circuit, section: Section, contact: str) -> str:
    """Where a pull-up leads: to the rail of the line's pin, or of a device
    where a level shifter lies between."""
    pin = c.contacts.pin(contact)
    own = (
        c.supplies.rail_contact(contact)
        if pin is not None and pin.kind == "io" and c.nets.of(contact) in section.nets
        else ""
    )
    return own if own and c.supplies.origin(own) is not None else supply_contact(c, section.devices[0])


def _best(section: Section, bus: I2cBus, volts: Range, name: str) -> float:
    """A value between R_p(min) and R_p(max), beside the pull-ups that are there:
    their geometric mean; 0 where none is."""
    weak = section.weakest
    least = (volts.max - LOW_V) / weak.amps if weak else 100.0
    most = section.most_ohm(bus.mode) / 1.05
    there = 1 / section.ohm.typ if section.ohm else 0.0
    if least >= most:
        return 0.0
    wanted = (least * most) ** 0.5
    if 1 / wanted <= there:
        return 0.0
    value = series.at_or_above(1 / (1 / wanted - there), name)
    return value if least <= 1 / (1 / value + there) <= most else series.below(value, name)


def modules_with_pulls(section: Section) -> list[str]:
    """The modules that carry pull-ups which can be taken off, the strongest first."""
    return [p.part for p in sorted(section.pulls, key=lambda p: p.ohm.typ) if p.part]


def fewer_pulls(facts: Facts, bus: I2cBus) -> Iterator[Remedy]:
    """The pull-ups of as few modules as it takes taken off; the others, and
    the board's, still pull fast enough."""
    c = facts.circuit
    gone: list[str] = []
    able = [p for s in bus.sections for p in modules_with_pulls(s) if c.parts[p].parameter("pull-ups")]
    for part_id in dict.fromkeys(able):
        if all(_bearable(_without(s, gone)) for s in bus.sections):
            break
        gone.append(part_id)
    after = [_without(s, gone) for s in bus.sections]
    if gone and all(s.ohm is not None and _bearable(s) for s in after):
        names = [c.placed[p].name for p in gone]
        yield Remedy(f"Take the pull-ups off {some(names)}", tuple(_pulls_off(c, p) for p in gone))
    steps = [step for s in bus.sections for step in _taken_out(c, section_ties(c, s), PullUp)]
    if steps:
        yield Remedy("Take the pull-ups out of its cords", tuple(steps))


def section_ties(c: Circuit, section: Section) -> list[Tie]:
    """The ties on a section, each once."""
    nets = {m for n in section.nets for m in c.nets.members.get(n, [n])}
    return list({t.id: t for m in nets for t in c.ties.at.get(m, ())}.values())


def _taken_out(c: Circuit, ties: list[Tie], kind: type) -> list[Step]:
    """All beads of a kind out of some ties, the last of each first."""
    return [
        Step(edits.remove_bead, (t.id, k))
        for t in sorted(ties, key=lambda t: t.id)
        for k in range(len(t.beads) - 1, -1, -1)
        if isinstance(t.beads[k], kind)
    ]


def _pulls_off(c: Circuit, part_id: str) -> Step:
    """A module's own pull-ups taken off: the last choice of its parameter."""
    part = c.parts[part_id]
    name = part.parameter("pull-ups")
    return Step(edits.set_param, (part_id, name, part.params[name].choices[-1]))


def _without(section: Section, parts: list[str]) -> Section:
    return replace(section, pulls=tuple(p for p in section.pulls if p.part not in parts))


def _bearable(section: Section) -> bool:
    return section.weakest is None or section.pulled_a <= section.weakest.amps


def faster_rise(facts: Facts, bus: I2cBus, section: Section) -> Iterator[Remedy]:
    """Without the capacitors on it; a further pull-up, where the drivers bear it; or a slower clock."""
    c = facts.circuit
    capacitors = _taken_out(c, section_ties(c, section), Capacitor)
    if capacitors:
        yield Remedy("Take the capacitor off the line", tuple(capacitors))
    tie = c.ties.of(section_leads(c, section)[0])
    rail = _rail(c, section, tie.to) if tie else ""
    if tie is not None and rail and section.volts:
        ohm = _best(section, bus, section.volts, c.series)
        if ohm:
            text = f"Add a {show(ohm, 'Ω')} pull-up to {c.titles.full(rail)}"
            yield remedy(text, edits.add_bead, tie.id, PullUp(ohm, rail=rail))
    yield from slower_clock(
        c, bus, lambda hz: section.rise is not None and section.rise.max <= mode_for(hz).rise_s
    )


def slower_clock(c: Circuit, bus: I2cBus, holds: Callable[[float], bool]) -> Iterator[Remedy]:
    """The fastest clock of the controller that is slower and will do."""
    root = trunk(c, bus.bus)[-1]
    unit = c.hardware.unit_spec(root.unit)
    able = sorted((hz for hz in (unit.speeds if unit else ()) if hz < bus.hz and holds(hz)), reverse=True)
    if able:
        yield remedy(f"Run it at {show(able[0], 'Hz')}", edits.set_clock, str(root), able[0])


def less_capacitance(facts: Facts, section: Section) -> Iterator[Remedy]:
    """Its cords laid loose, or the devices with the longest cords behind a bus
    switch: what brings it below the limit."""
    c = facts.circuit
    ties = {
        p: [t for lead in i2c_leads(c, p).values() if (t := c.ties.of(lead)) is not None]
        for p in section.devices
    }
    tight = [t for ts in ties.values() for t in ts if t.lay]
    ways = [
        Remedy(
            "Lay its cords loose, each on its own way", tuple(Step(edits.lay_cord, (t.id, "")) for t in tight)
        )
    ]
    farthest = sorted(ties, key=lambda p: max((t.length_m for t in ties[p]), default=0.0), reverse=True)
    switch = bus_switch(facts.catalog)
    most = min(len(branches(switch)) if switch is not None else 0, len(farthest) - 1)
    behind = (behind_switch(c, facts.catalog, farthest[:n]) for n in range(1, most + 1))
    ways += [remedy for remedy in behind if remedy is not None]
    yield from islice(
        (r for r in ways if r.steps and _light(Circuit(r.apply(c.plan), facts.catalog), section.devices)), 2
    )


def _light(c: Circuit, part_ids: tuple[str, ...]) -> bool:
    """No line with one of these devices has more capacitance than the standard counts with."""
    return all(s.farad <= bus.mode.farad for bus, s in all_sections(c) if {*s.devices} & {*part_ids})


def to_one_level(facts: Facts, part_id: str, volts: Range, pulls: bool) -> Iterator[Remedy]:
    """The part on the higher rail fed from the lower one, where it bears that, or without its pull-ups
    where it is those that matter, or shifted."""
    if part_id:
        c = facts.circuit
        yield from logic_supply(facts, [part_id], volts.max)
        if c.parts[part_id].parameter("pull-ups") and pulls:
            yield Remedy(f"Take the pull-ups off {c.placed[part_id].name}", (_pulls_off(c, part_id),))
        yield from _shifted(facts, part_id)


def _shifted(facts: Facts, part_id: str) -> Iterator[Remedy]:
    """Both lines of a part through level shifters."""
    c = facts.circuit
    ties = [t for lead in i2c_leads(c, part_id).values() if (t := c.ties.of(lead)) is not None]
    own, rail = (
        supply_contact(c, part_id),
        next((c.supplies.rail_contact(t.to) for t in ties if split(t.to)[0] == BOARD), ""),
    )
    if own and rail and not any(isinstance(b, LevelShifter) for t in ties for b in t.beads):
        steps = tuple(Step(edits.put_bead, (t.id, LevelShifter("mosfet", own, rail), "pin")) for t in ties)
        yield Remedy(f"Put level shifters before {c.placed[part_id].name}", steps)


def shifters_before_all(facts: Facts, section: Section) -> Iterator[Remedy]:
    """Every device of a line through level shifters, so that the
    controller's side is pulled to its own rail."""
    shifted = [r for p in section.devices for r in _shifted(facts, p)]
    if len(shifted) == len(section.devices):
        names = some([facts.circuit.placed[p].name for p in section.devices])
        yield Remedy(f"Put level shifters before {names}", tuple(step for r in shifted for step in r.steps))


def controller_pins(c: Circuit, section: Section) -> Iterator[str]:
    """The controller's pins on a section, where it is the board's."""
    for contact in c.ties.holders:
        if split(contact)[0] == BOARD and c.nets.of(contact) in section.nets:
            yield contact


def section_leads(c: Circuit, section: Section) -> tuple[str, ...]:
    """The leads of a section's devices, those first that the message is about."""
    return tuple(lead for p in section.devices if (lead := i2c_leads(c, p).get(section.role, "")))

"""Rules about the lines of I2C as wires: pull-ups, edges, levels, clocks."""

from collections.abc import Callable, Iterator
from functools import partial
from itertools import islice

from msgspec.structs import replace

from knotplan.catalog.quantities import Range
from knotplan.core.buses.addresses import named, trunk
from knotplan.core.buses.apart import BRANCHES, behind_switch, i2c_leads
from knotplan.core.buses.i2c import I2cBus, bus_id, i2c_buses, most_hz, slowest, some
from knotplan.core.buses.lines import LOW_V, Section, mode_for, supply_of
from knotplan.core.check.rules.remedies import logic_supply
from knotplan.core.check.rules.remedies import supply_of as supply_contact
from knotplan.core.check.rules.rule import Draft, Facts, rule
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import LevelShifter, PullUp
from knotplan.core.plan.document import BOARD, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity import series
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import counted, show

SAME_V = 0.3
"""rails that lie closer together than this are one level"""
HIGH_SHARE = 0.7
"""of the supply: what an I2C input takes as high (NXP UM10204 table 10)"""
CRAWL_HZ = 10e3
"""so slowly that a device which holds the clock for some microseconds is done in time"""


def _sections(c: Circuit) -> Iterator[tuple[I2cBus, Section]]:
    """Every section with a device on it."""
    for bus in i2c_buses(c):
        for section in bus.sections:
            if section.devices:
                yield bus, section


LINES = {"sda": "data", "scl": "clock"}


def _worst(c: Circuit, badness: Callable[[I2cBus, Section], float]) -> Iterator[tuple[I2cBus, Section]]:
    """Of each bus the worst section, where that is beyond 1: both lines of a bus mostly have the same trouble."""
    worst: dict[str, tuple[float, I2cBus, Section]] = {}
    for bus, section in _sections(c):
        bad = badness(bus, section)
        if bad > 1 + 1e-9 and (bus.id not in worst or bad > worst[bus.id][0]):
            worst[bus.id] = bad, bus, section
    yield from ((bus, section) for _, bus, section in worst.values())


def _leads(c: Circuit, section: Section) -> tuple[str, ...]:
    """The leads of a section's devices, those first that the message is about."""
    return tuple(lead for p in section.devices if (lead := i2c_leads(c, p).get(section.role, "")))


@rule("bus-unpulled", "Bus line without a pull-up", "stop",
      "Nobody on I2C ever drives a line high; without a resistor it stays low, and nothing answers.",
      "NXP UM10204 clause 3.1.1; catalogue: resistors fitted on board and modules")  # fmt: skip
def bus_unpulled(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    bare: dict[str, list[tuple[I2cBus, Section]]] = {}
    for bus, section in _sections(c):
        if section.ohm is None:
            bare.setdefault(bus.id, []).append((bus, section))
    for found in bare.values():
        bus, section = found[0]
        which = " and the ".join(dict.fromkeys(LINES[s.role] for _, s in found))
        yield Draft(f"Nothing pulls the {which} line of {bus.title} up ({_who(c, section)}).",
                    tuple(lead for _, s in found for lead in _leads(c, s)[:1]),
                    (Number("capacitance", section.farad, "F", bus.mode.farad),
                     Number("largest resistor", section.most_ohm(bus.mode), "Ω")),
                    partial(_pulled, facts, found))  # fmt: skip


def _who(c: Circuit, section: Section) -> str:
    return some([c.placed[p].name for p in section.devices])


def _pulled(facts: Facts, found: list[tuple[I2cBus, Section]]) -> Iterator[Remedy]:
    """The preferred value in the middle of what the mode allows, to the rail of each line's pin."""
    c = facts.circuit
    steps, values = [], []
    for bus, section in found:
        tie = c.tie_of(_leads(c, section)[0])
        rail = _rail(c, section, tie.to) if tie else ""
        origin = c.origin(rail) if rail else None
        if tie is None or origin is None:
            return
        values.append(_best(section, bus, origin.volts, c.plan.series))
        steps.append((tie.id, rail))
    if not all(values):
        return
    ohm = max(values)
    rails = " and ".join(dict.fromkeys(c.full_title(rail) for _, rail in steps))
    yield Remedy(f"Add {show(ohm, 'Ω')} pull-ups to {rails}" if len(steps) > 1 else f"Add a {show(ohm, 'Ω')} pull-up to {rails}",
                 tuple(Step(edits.add_bead, (tie_id, PullUp(ohm, rail=rail))) for tie_id, rail in steps))  # fmt: skip


def _rail(c: Circuit, section: Section, contact: str) -> str:
    """Where a pull-up leads: to the rail of the line's pin, or of a device where a level shifter lies between."""
    pin = c.pin(contact)
    own = c.rail_contact(contact) if pin is not None and pin.kind == "io" and c.net(contact) in section.nets else ""
    return own if own and c.origin(own) is not None else supply_contact(c, section.devices[0])


def _best(section: Section, bus: I2cBus, volts: Range, name: str) -> float:
    """A value between R_p(min) and R_p(max), beside the pull-ups that are there: their geometric mean; 0 where none is."""
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


@rule("bus-pulled-hard", "Pull-ups together too strong", "care",
      "All pull-ups of a bus act together. Who pulls a line low has to take the current of them all, and leaves it at a level "
      "that others no longer take for low.",
      "NXP UM10204 clause 7.1, R_p(min) = (V_DD − V_OL) / I_OL, and table 10")  # fmt: skip
def bus_pulled_hard(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for bus, section in _worst(c, lambda _, s: s.pulled_a / s.weakest.amps if s.weakest else 0.0):
        weak, ohm = section.weakest, section.ohm
        assert weak is not None and ohm is not None
        yield Draft(f"{counted(len(section.pulls), 'pull-up')} on the {LINES[section.role]} line of {bus.title} make "
                    f"{show(ohm.typ, 'Ω')} together, {show(section.pulled_a, 'A')} at worst; {weak.what} pulls "
                    f"{show(weak.amps, 'A')} to 0.4 V.", (*_carriers(section)[:2], *_leads(c, section)[:1]),
                    (Number("current at 0.4 V", section.pulled_a, "A", weak.amps), Number("together", ohm.min, "Ω"),
                     Number("least resistor", section.least_ohm, "Ω"),
                     Number("level that is left", section.low_v(weak), "V", 0.4)),
                    partial(_fewer, facts, bus))  # fmt: skip


def _carriers(section: Section) -> list[str]:
    """The modules that carry pull-ups which can be taken off, the strongest first."""
    return [p.part for p in sorted(section.pulls, key=lambda p: p.ohm.typ) if p.part]


def _fewer(facts: Facts, bus: I2cBus) -> Iterator[Remedy]:
    """The pull-ups of as few modules as it takes taken off; the others, and the board's, still pull fast enough."""
    c = facts.circuit
    gone: list[str] = []
    able = [p for s in bus.sections for p in _carriers(s) if "pulls" in c.parts[p].params]
    for part_id in dict.fromkeys(able):
        if all(_bearable(_without(s, gone)) for s in bus.sections):
            break
        gone.append(part_id)
    after = [_without(s, gone) for s in bus.sections]
    if gone and all(s.ohm is not None and _bearable(s) for s in after):
        names = [c.placed[p].name for p in gone]
        steps = tuple(Step(edits.set_param, (p, "pulls", "taken off")) for p in gone)
        yield Remedy(f"Take the pull-ups off {some(names)}", steps)


def _without(section: Section, parts: list[str]) -> Section:
    return replace(section, pulls=tuple(p for p in section.pulls if p.part not in parts))


def _bearable(section: Section) -> bool:
    return section.weakest is None or section.pulled_a <= section.weakest.amps


@rule("bus-slow", "Bus rises too slowly", "care",
      "A pull-up charges every device and every metre of cord. Where that takes longer than the mode allows, bits are read "
      "before they are there.",
      "NXP UM10204 clause 7.1, t_r = 0.8473 · R_p · C_b, and table 11")  # fmt: skip
def bus_slow(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for bus, section in _worst(c, lambda b, s: s.rise.max / b.mode.rise_s if s.rise else 0.0):
        rise, mode = section.rise, bus.mode
        assert rise is not None
        yield Draft(f"The {LINES[section.role]} line of {bus.title} takes {show(rise.max, 's')} to rise, "
                    f"{show(section.farad, 'F')} behind {show(section.ohm.typ if section.ohm else 0, 'Ω')}; {mode.title} allows "
                    f"{show(mode.rise_s, 's')}.", _leads(c, section)[:2],
                    (Number("rise time at worst", rise.max, "s", mode.rise_s),
                     Number("capacitance", section.farad, "F", mode.farad),
                     Number("largest resistor", section.most_ohm(mode), "Ω"),
                     Number("cord too long by", max(0.0, -section.more_metres(mode)), "m")),
                    partial(_faster, facts, bus, section))  # fmt: skip


def _faster(facts: Facts, bus: I2cBus, section: Section) -> Iterator[Remedy]:
    """A further pull-up, where the drivers bear it; or a slower clock."""
    c = facts.circuit
    tie = c.tie_of(_leads(c, section)[0])
    rail = _rail(c, section, tie.to) if tie else ""
    if tie is not None and rail and section.volts:
        ohm = _best(section, bus, section.volts, c.plan.series)
        if ohm:
            said = f"Add a {show(ohm, 'Ω')} pull-up to {c.full_title(rail)}"
            yield remedy(said, edits.add_bead, tie.id, PullUp(ohm, rail=rail))
    yield from _slower(c, bus, lambda hz: section.rise is not None and section.rise.max <= mode_for(hz).rise_s)


def _slower(c: Circuit, bus: I2cBus, holds: Callable[[float], bool]) -> Iterator[Remedy]:
    """The fastest clock of the controller that is slower and will do."""
    root = trunk(c, bus.bus)[-1]
    unit = c.unit_spec(root.unit)
    able = sorted((hz for hz in (unit.speeds if unit else ()) if hz < bus.hz and holds(hz)), reverse=True)
    if able:
        yield remedy(f"Run it at {show(able[0], 'Hz')}", edits.set_clock, bus_id(root), able[0])


@rule("bus-heavy", "More capacitance than the standard counts with", "note",
      "Up to its limit the standard's own figures hold; beyond it, edges and levels have to be looked at one by one, as is done "
      "here. Buffers or bus switches part such a bus.",
      "NXP UM10204 clause 7.2 and table 11: capacitive load of each line")  # fmt: skip
def bus_heavy(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for bus, section in _sections(c):
        if section.role == "sda" and section.farad > bus.mode.farad and (section.rise is None or
                                                                       section.rise.max <= bus.mode.rise_s):  # fmt: skip
            yield Draft(f"{bus.title} has {show(section.farad, 'F')} on each line; {bus.mode.title} counts with "
                        f"{show(bus.mode.farad, 'F')}. It still rises in time, in {show(section.rise.max, 's')}."
                        if section.rise else f"{bus.title} has {show(section.farad, 'F')} on each line.",
                        _leads(c, section)[:1], (Number("capacitance", section.farad, "F", bus.mode.farad),),
                        partial(_lighter, facts, section))  # fmt: skip


def _lighter(facts: Facts, section: Section) -> Iterator[Remedy]:
    """Its cords laid loose, or the devices with the longest cords behind a bus switch: what brings it below the limit."""
    c = facts.circuit
    ties = {p: [t for lead in i2c_leads(c, p).values() if (t := c.tie_of(lead)) is not None] for p in section.devices}
    tight = [t for ts in ties.values() for t in ts if t.lay]
    ways = [Remedy("Lay its cords loose, each on its own way", tuple(Step(edits.lay_cord, (t.id, "")) for t in tight))]
    farthest = sorted(ties, key=lambda p: max((t.length_m for t in ties[p]), default=0.0), reverse=True)
    ways += [r for n in range(1, min(BRANCHES, len(farthest) - 1) + 1)
             if (r := behind_switch(c, facts.catalog, farthest[:n])) is not None]  # fmt: skip
    yield from islice((r for r in ways if r.steps and _light(Circuit(r.apply(c.plan), facts.catalog), section.devices)), 2)


def _light(c: Circuit, part_ids: tuple[str, ...]) -> bool:
    """No line with one of these devices has more capacitance than the standard counts with."""
    return all(s.farad <= bus.mode.farad for bus, s in _sections(c) if {*s.devices} & {*part_ids})


@rule("bus-clock", "Clock faster than a device", "care",
      "The slowest device rules a bus: clocked faster it misses bits, and so does everybody who speaks after it.",
      "catalogue: fastest clock of each part; NXP UM10204 table 10")  # fmt: skip
def bus_clock(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for bus in i2c_buses(c):
        slow = slowest(c, bus) if bus.depth == 0 else None
        if slow is not None and bus.hz > most_hz(c, slow) * (1 + 1e-9):
            most = most_hz(c, slow)
            yield Draft(f"{bus.title} is to run at {show(bus.hz, 'Hz')}; {named(c, slow)} bears {show(most, 'Hz')}.",
                        (slow.part,), (Number("clock", bus.hz, "Hz", most),), partial(_slower, c, bus, most.__ge__))  # fmt: skip


@rule("bus-pulled-apart", "Pulled to two levels", "care",
      "Pull-ups to different rails fight: the line stands between them, and current flows from the higher rail through the "
      "devices of the lower one.",
      "NXP UM10204 clause 7.1; application of Kirchhoff's laws to all pull-ups of the line")  # fmt: skip
def bus_pulled_apart(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for bus, section in _sections(c):
        low, high = (f(section.pulls, key=lambda p: p.volts.typ) if section.pulls else None for f in (min, max))
        if low is None or high is None or high.volts.typ - low.volts.typ <= SAME_V or section.role != "sda" or not section.volts:
            continue
        yield Draft(f"{bus.title} is pulled to {show(low.volts.typ, 'V')} ({low.what}) and to {show(high.volts.typ, 'V')} "
                    f"({high.what}): it stands at {show(section.volts.typ, 'V')}.",
                    (*([high.part] if high.part else []), *_leads(c, section)[:1]),
                    (Number("level", section.volts.typ, "V"), Number("higher rail", high.volts.typ, "V", low.volts.typ)),
                    partial(_one_level, facts, high.part, low.volts, True))  # fmt: skip


def _one_level(facts: Facts, part_id: str, volts: Range, pulls: bool) -> Iterator[Remedy]:
    """The part on the higher rail fed from the lower one, where it bears that, or without its pull-ups where it is those that
    matter, or shifted."""
    if part_id:
        c = facts.circuit
        yield from logic_supply(facts, [part_id], volts.max)
        if "pulls" in c.parts[part_id].params and pulls:
            yield remedy(f"Take the pull-ups off {c.placed[part_id].name}", edits.set_param, part_id, "pulls", "taken off")
        yield from _shifted(facts, part_id)


def _shifted(facts: Facts, part_id: str) -> Iterator[Remedy]:
    """Both lines of a part through level shifters."""
    c = facts.circuit
    ties = [t for lead in i2c_leads(c, part_id).values() if (t := c.tie_of(lead)) is not None]
    own, rail = supply_contact(c, part_id), next((c.rail_contact(t.to) for t in ties if split(t.to)[0] == BOARD), "")
    if own and rail and not any(isinstance(b, LevelShifter) for t in ties for b in t.beads):
        steps = tuple(Step(edits.put_bead, (t.id, LevelShifter("mosfet", own, rail), "pin")) for t in ties)
        yield Remedy(f"Put level shifters before {c.placed[part_id].name}", steps)


@rule("bus-level", "Bus too low for a device", "care",
      "An I2C input takes 0.7 of its own supply for high. A device on a higher supply than the bus may read its highs for lows.",
      "NXP UM10204 table 10: V_IH = 0.7 V_DD")  # fmt: skip
def bus_level(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for bus, section in _sections(c):
        volts = section.volts
        if volts is None or section.role != "sda":
            continue
        for part_id in section.devices:
            own, need = supply_of(c, part_id), c.need(i2c_leads(c, part_id)[section.role])
            wanted = getattr(need, "high_v", None) or (HIGH_SHARE * own.max if own else 0.0)
            own_pull = any(p.part == part_id and p.volts.typ - volts.typ > SAME_V for p in section.pulls)
            if wanted > volts.min and not own_pull:  # else it is told of already: pulled to two levels
                yield Draft(f"{c.placed[part_id].name} takes {show(wanted, 'V')} for high"
                            + (f", 0.7 of its {show(own.max, 'V')}" if own else "")
                            + f"; {bus.title} rises to {show(volts.min, 'V')}.", (part_id, *_leads(c, section)[:1]),
                            (Number("level of high", volts.min, "V", wanted),),
                            partial(_one_level, facts, part_id, volts, False))  # fmt: skip
        for contact in (k for k in _own_pins(c, section) if c.driver(k).input_high_v > volts.min):
            least = c.driver(contact).input_high_v
            yield Draft(f"{c.full_title(contact)} takes {show(least, 'V')} for high; {bus.title} rises to "
                        f"{show(volts.min, 'V')}.", (contact, *_leads(c, section)[:1]),
                        (Number("level of high", volts.min, "V", least),), partial(_all_shifted, facts, section))  # fmt: skip


def _all_shifted(facts: Facts, section: Section) -> Iterator[Remedy]:
    """Every device of a line through level shifters, so that the controller's side is pulled to its own rail."""
    made = [r for p in section.devices for r in _shifted(facts, p)]
    if len(made) == len(section.devices):
        names = some([facts.circuit.placed[p].name for p in section.devices])
        yield Remedy(f"Put level shifters before {names}", tuple(step for r in made for step in r.steps))


def _own_pins(c: Circuit, section: Section) -> Iterator[str]:
    """The controller's pins on a section, where it is the board's."""
    for contact in c.holders:
        if split(contact)[0] == BOARD and c.net(contact) in section.nets:
            yield contact


@rule("stretch-unheard", "Clock held, and nobody waits", "care",
      "A device that is busy holds the clock low. A controller that does not wait goes on, and bits are lost now and then.",
      "NXP UM10204 clause 3.1.9; catalogue: whether the controller waits")  # fmt: skip
def stretch_unheard(facts: Facts) -> Iterator[Draft]:
    c = facts.circuit
    for bus in i2c_buses(c):
        root = trunk(c, bus.bus)[-1]
        unit = c.unit_spec(root.unit)
        holding = [p for p in bus.devices if p.part and (f := c.parts[p.part].facts.i2c) is not None and f.stretches]
        if unit is None or unit.waits or not holding or bus.hz <= CRAWL_HZ:
            continue
        slower = remedy(f"Run it at {show(CRAWL_HZ, 'Hz')}", edits.set_clock, bus_id(root), CRAWL_HZ)
        yield Draft(f"{some([named(c, p) for p in holding])} may hold the clock of {bus.title} low while busy, and its "
                    "controller does not wait.", tuple(p.part for p in holding),
                    (Number("clock", bus.hz, "Hz", CRAWL_HZ),), partial(iter, [slower]))  # fmt: skip



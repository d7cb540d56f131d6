"""Rules about the lines of I2C as wires: pull-ups, edges, levels, clocks."""

from collections.abc import Callable, Iterator

from knotplan.core.buses.addresses import named, trunk
from knotplan.core.buses.apart import i2c_leads
from knotplan.core.buses.i2c import I2cBus, i2c_buses, most_hz, slowest, some
from knotplan.core.buses.lines import Section, supply_of
from knotplan.core.check.asked import from_circuit, from_facts, given
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.bus_line_remedies import (
    added_pulls,
    all_sections,
    controller_pins,
    faster_rise,
    fewer_pulls,
    less_capacitance,
    modules_with_pulls,
    section_leads,
    shifters_before_all,
    slower_clock,
    to_one_level,
)
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.plan import edits
from knotplan.core.plan.remedy import remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import counted, show

ALIKE_V = 0.05
"""levels of data and clock that lie closer together than this have one cause"""
SAME_V = 0.3
"""rails that lie closer together than this are one level"""
HIGH_SHARE = 0.7
"""of the supply: what an I2C input takes as high (NXP UM10204 table 10)"""
HALF_CLOCK = 0.5
"""of a clock's period is all that there is for a line to rise"""
CRAWL_HZ = 10e3
"""so slowly that a device which holds the clock for some microseconds is done in time"""


LINES = {"sda": "data", "scl": "clock"}


def _like_its_data(bus: I2cBus, section: Section) -> bool:
    """A clock line whose data line is pulled alike: one finding is enough for both."""
    data = [s for s in bus.sections if s.role == "sda" and s.devices == section.devices]
    return section.role == "scl" and any(
        s.volts is not None and section.volts is not None and abs(s.volts.typ - section.volts.typ) < ALIKE_V
        for s in data
    )


def _worst(c: Circuit, badness: Callable[[I2cBus, Section], float]) -> Iterator[tuple[I2cBus, Section]]:
    """Of each bus the worst section, where that is beyond 1: both lines of
    a bus mostly have the same trouble."""
    worst: dict[str, tuple[float, I2cBus, Section]] = {}
    for bus, section in all_sections(c):
        bad = badness(bus, section)
        if bad > 1 + 1e-9 and (bus.id not in worst or bad > worst[bus.id][0]):
            worst[bus.id] = bad, bus, section
    yield from ((bus, section) for _, bus, section in worst.values())


@rule(
    "bus-unpulled",
    "Bus line without a pull-up",
    "stop",
    "Nobody on I2C ever drives a line high; without a resistor it stays low, and nothing answers.",
    "NXP UM10204 clause 3.1.1; catalogue: resistors fitted on board and modules",
)
def bus_unpulled(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    bare: dict[str, list[tuple[I2cBus, Section]]] = {}
    for bus, section in all_sections(c):
        if section.ohm is None:
            bare.setdefault(bus.id, []).append((bus, section))
    for unpulled in bare.values():
        bus, section = unpulled[0]
        which = " and the ".join(dict.fromkeys(LINES[s.role] for _, s in unpulled))
        yield Observation(
            f"Nothing pulls the {which} line of {bus.title} up ({_who(c, section)}).",
            tuple(lead for _, s in unpulled for lead in section_leads(c, s)[:1]),
            (
                Number("capacitance", section.farad, "F", bus.mode.farad),
                Number("largest resistor", section.most_ohm(bus.mode), "Ω"),
            ),
            from_facts(added_pulls, unpulled),
        )


def _who(c: Circuit, section: Section) -> str:
    return some([c.placed[p].name for p in section.devices])


@rule(
    "bus-pulled-hard",
    "Pull-ups together too strong",
    "care",
    "All pull-ups of a bus act together. Who pulls a line low has to take the current of them all, and "
    "leaves it at a level that others no longer take for low.",
    "NXP UM10204 clause 7.1, R_p(min) = (V_DD − V_OL) / I_OL, and table 10",
)
def bus_pulled_hard(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    for bus, section in _worst(c, lambda _, s: s.pulled_a / s.weakest.amps if s.weakest else 0.0):
        weak, ohm = section.weakest, section.ohm
        assert weak is not None and ohm is not None
        yield Observation(
            f"{counted(len(section.pulls), 'pull-up')} on the {LINES[section.role]} line of {bus.title} make "
            f"{show(ohm.typ, 'Ω')} together. To pull them low takes {show(section.pulled_a, 'A')} at worst; "
            f"{weak.what} can take {show(weak.amps, 'A')} at 0.4 V.",
            (*modules_with_pulls(section)[:2], *section_leads(c, section)[:1]),
            (
                Number("current at 0.4 V", section.pulled_a, "A", weak.amps),
                Number("together", ohm.min, "Ω"),
                Number("least resistor", section.least_ohm, "Ω"),
                Number("level that is left", section.low_v(weak), "V", 0.4),
            ),
            from_facts(fewer_pulls, bus),
        )


@rule(
    "bus-slow",
    "Bus rises too slowly",
    "care",
    "A pull-up charges every device and every metre of cord. Where that takes longer than the mode allows, "
    "bits are read before they are there.",
    "NXP UM10204 clause 7.1, t_r = 0.8473 · R_p · C_b, and table 11",
)
def bus_slow(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    for bus, section in _worst(c, lambda b, s: s.rise.max / b.mode.rise_s if s.rise else 0.0):
        rise, mode = section.rise, bus.mode
        assert rise is not None
        yield Observation(
            f"The {LINES[section.role]} line of {bus.title} takes {show(rise.max, 's')} to rise, "
            f"{show(section.farad, 'F')} behind {show(section.ohm.typ if section.ohm else 0, 'Ω')}; "
            f"{mode.title} allows {show(mode.rise_s, 's')}.",
            section_leads(c, section)[:2],
            (
                Number("rise time at worst", rise.max, "s", mode.rise_s),
                Number("capacitance", section.farad, "F", mode.farad),
                Number("largest resistor", section.most_ohm(mode), "Ω"),
                Number("cord too long by", max(0.0, -section.more_metres(mode)), "m"),
            ),
            from_facts(faster_rise, bus, section),
            "stop" if rise.max > HALF_CLOCK / bus.hz else None,
        )


@rule(
    "bus-heavy",
    "More capacitance than the standard counts with",
    "note",
    "Up to its limit the standard's own figures hold; beyond it, edges and levels have to be looked at one "
    "by one, as is done here. Buffers or bus switches part such a bus.",
    "NXP UM10204 clause 7.2 and table 11: capacitive load of each line",
    each=of_circuit(all_sections),
)
def bus_heavy(facts: Facts, on: tuple[I2cBus, Section]) -> Iterator[Observation]:
    c = facts.circuit
    bus, section = on
    if (
        section.role == "sda"
        and section.farad > bus.mode.farad
        and (section.rise is None or section.rise.max <= bus.mode.rise_s)
    ):
        yield Observation(
            f"{bus.title} has {show(section.farad, 'F')} on each line; {bus.mode.title} counts with "
            f"{show(bus.mode.farad, 'F')}. It still rises in time, in {show(section.rise.max, 's')}."
            if section.rise
            else f"{bus.title} has {show(section.farad, 'F')} on each line.",
            section_leads(c, section)[:1],
            (Number("capacitance", section.farad, "F", bus.mode.farad),),
            from_facts(less_capacitance, section),
        )


@rule(
    "bus-clock",
    "Clock faster than a device",
    "care",
    "The slowest device rules a bus: clocked faster it misses bits, and so does everybody who speaks after "
    "it.",
    "catalogue: fastest clock of each part; NXP UM10204 table 10",
    each=of_circuit(i2c_buses),
)
def bus_clock(facts: Facts, bus: I2cBus) -> Iterator[Observation]:
    c = facts.circuit
    slow = slowest(c, bus) if bus.depth == 0 else None
    if slow is not None and bus.hz > most_hz(c, slow) * (1 + 1e-9):
        most = most_hz(c, slow)
        yield Observation(
            f"{bus.title} is to run at {show(bus.hz, 'Hz')}; {named(c, slow)} bears {show(most, 'Hz')}.",
            (slow.part,),
            (Number("clock", bus.hz, "Hz", most),),
            from_circuit(slower_clock, bus, most.__ge__),
        )


@rule(
    "bus-pulled-apart",
    "Pulled to two levels",
    "care",
    "Pull-ups to different rails fight: the line stands between them, and current flows from the higher rail "
    "through the devices of the lower one.",
    "NXP UM10204 clause 7.1; application of Kirchhoff's laws to all pull-ups of the line",
    each=of_circuit(all_sections),
)
def bus_pulled_apart(facts: Facts, on: tuple[I2cBus, Section]) -> Iterator[Observation]:
    c = facts.circuit
    bus, section = on
    low, high = (f(section.pulls, key=lambda p: p.volts.typ) if section.pulls else None for f in (min, max))
    if (
        low is None
        or high is None
        or high.volts.typ - low.volts.typ <= SAME_V
        or not section.volts
        or _like_its_data(bus, section)
    ):
        return
    line = bus.title if section.role == "sda" else f"The clock line of {bus.title}"
    yield Observation(
        f"{line} is pulled to {show(low.volts.typ, 'V')} ({low.what}) and to "
        f"{show(high.volts.typ, 'V')} ({high.what}): it stands at {show(section.volts.typ, 'V')}.",
        (*([high.part] if high.part else []), *section_leads(c, section)[:1]),
        (Number("level", section.volts.typ, "V"), Number("higher rail", high.volts.typ, "V", low.volts.typ)),
        from_facts(to_one_level, high.part, low.volts, True),
    )


@rule(
    "bus-level",
    "Bus too low for a device",
    "care",
    "An I2C input takes 0.7 of its own supply for high. A device on a higher supply than the bus may read "
    "its highs for lows.",
    "NXP UM10204 table 10: V_IH = 0.7 V_DD",
    each=of_circuit(all_sections),
)
def bus_level(facts: Facts, on: tuple[I2cBus, Section]) -> Iterator[Observation]:
    c = facts.circuit
    bus, section = on
    volts = section.volts
    if volts is None or _like_its_data(bus, section):
        return
    for part_id in section.devices:
        own, need = supply_of(c, part_id), c.needs.of(i2c_leads(c, part_id)[section.role])
        wanted = getattr(need, "high_v", None) or (HIGH_SHARE * own.max if own else 0.0)
        own_pull = any(p.part == part_id and p.volts.typ - volts.typ > SAME_V for p in section.pulls)
        if wanted > volts.min and not own_pull:  # else it is told of already: pulled to two levels
            yield Observation(
                f"{c.placed[part_id].name} reads a high from {show(wanted, 'V')} on"
                + (f", 0.7 of its {show(own.max, 'V')}" if own else "")
                + f"; {bus.title} rises to {show(volts.min, 'V')}.",
                (part_id, *section_leads(c, section)[:1]),
                (Number("level of high", volts.min, "V", wanted, lower=True),),
                from_facts(to_one_level, part_id, volts, False),
            )
    for contact in (k for k in controller_pins(c, section) if as_fed(c, k).input_high_v > volts.min):
        least = as_fed(c, contact).input_high_v
        yield Observation(
            f"{c.titles.full(contact)} reads a high from {show(least, 'V')} on; {bus.title} rises to "
            f"{show(volts.min, 'V')}.",
            (contact, *section_leads(c, section)[:1]),
            (Number("level of high", volts.min, "V", least, lower=True),),
            from_facts(shifters_before_all, section),
        )


@rule(
    "stretch-unheard",
    "Clock held, and nobody waits",
    "care",
    "A device that is busy holds the clock low. A controller that does not wait goes on, and bits are lost "
    "now and then.",
    "NXP UM10204 clause 3.1.9; catalogue: whether the controller waits",
    each=of_circuit(i2c_buses),
)
def stretch_unheard(facts: Facts, bus: I2cBus) -> Iterator[Observation]:
    c = facts.circuit
    root = trunk(c, bus.bus)[-1]
    unit = c.hardware.unit_spec(root.unit)
    holding = [
        p for p in bus.devices if p.part and (f := c.parts[p.part].facts.i2c) is not None and f.stretches
    ]
    if unit is None or unit.waits or not holding or bus.hz <= CRAWL_HZ:
        return
    slower = remedy(f"Run it at {show(CRAWL_HZ, 'Hz')}", edits.set_clock, str(root), CRAWL_HZ)
    yield Observation(
        f"{some([named(c, p) for p in holding])} may hold the clock of {bus.title} low while busy, and its "
        "controller does not wait.",
        tuple(p.part for p in holding),
        (Number("clock", bus.hz, "Hz", CRAWL_HZ),),
        given(slower),
    )

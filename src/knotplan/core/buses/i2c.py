"""Every I2C bus of a plan: the board's own and those behind bus switches, each with
its map of addresses and its speed."""

from collections.abc import Iterable
from itertools import combinations
from typing import Literal

from msgspec import Struct

from knotplan.catalog.board.function import parse_function
from knotplan.core.buses.addresses import Place, bus_of, can_be, clash, meet, named, places, reserved, trunk
from knotplan.core.buses.lines import Mode, Section, mode_for, sections
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import BRANCHES, having
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import BusUnit
from knotplan.core.memory.question import question
from knotplan.core.plan.document import BOARD
from knotplan.core.quantity.written import listed, show

USUAL_HZ = 100e3
State = Literal["free", "reserved", "taken", "all-call", "clash", "elsewhere"]
"""of an address on a bus; elsewhere: who has it sits on a bus that is
heard here, before or behind a switch"""


class Cell(Struct, frozen=True):
    """One address on one bus."""

    address: int
    state: State
    who: tuple[str, ...] = ()
    """names of those who answer there"""
    parts: tuple[str, ...] = ()
    why: str = ""
    """what a reserved address is for"""


class I2cBus(Struct, frozen=True):
    """A bus with everything on it."""

    bus: BusUnit
    title: str
    depth: int
    """0 on the board, 1 behind a switch, and so on"""
    devices: tuple[Place, ...]
    """on this bus itself"""
    heard: tuple[Place, ...]
    """on the buses before it, which answer here as well, and behind its own switches"""
    hz: float
    """its clock: the maker's wish, or the usual one"""
    chosen: bool
    """the clock is the maker's wish"""
    sections: tuple[Section, ...]

    @property
    def mode(self) -> Mode:
        """The slowest mode of the standard that allows its clock."""
        return mode_for(self.hz)

    @property
    def id(self) -> str:
        """A stable id for views and files."""
        return str(self.bus)

    def line(self, role: str) -> Section | None:
        """The first section of a line: that of its controller."""
        return next((s for s in self.sections if s.role == role), None)

    @property
    def slower_line(self) -> Section | None:
        """The section that rises most slowly; one without any pull-up is slower than all."""
        return max(self.sections, key=lambda s: s.rise.max if s.rise else float("inf"), default=None)


@question
def i2c_buses(circuit: Circuit) -> tuple[I2cBus, ...]:
    """The board's buses, in use or not, each followed by those behind its switches."""
    devices = places(circuit)
    own = _i2c_units(BOARD, circuit.board.peripherals)
    used = list(dict.fromkeys(p.bus for p in devices))
    roots = [b for b in used if b.unit.on_board]
    roots += [b for b in own if all(r.unit != b.unit for r in roots)]
    names = list(circuit.board.peripherals)
    roots.sort(key=lambda b: (names.index(b.unit.name) if b.unit.name in names else 0, b))
    ordered = [b for root in roots for b in _with_branches(circuit, root, used)]
    ordered += [b for b in used if b not in ordered]
    return tuple(_bus(circuit, b, devices) for b in ordered)


def _i2c_units(owner: str, names: Iterable[str]) -> list[BusUnit]:
    """Those of a board's or part's peripherals that are I2C buses."""
    functions = (parse_function(name) for name in names)
    return [BusUnit(UnitId(owner, f.kind, f.instance)) for f in functions if f.kind == "i2c"]


def _with_branches(c: Circuit, bus: BusUnit, used: list[BusUnit]) -> list[BusUnit]:
    """A bus, and after it the branches of its switches, in use or not, each with its own."""
    buses = [bus]
    for part_id in having(c, BRANCHES):
        branches = _i2c_units(part_id, c.parts[part_id].peripherals)
        if branches and bus_of(c, part_id) == bus and bus not in branches:
            for branch in branches:
                here = [u for u in used if u.unit == branch.unit] or [branch]
                buses += [x for u in here if u not in buses for x in _with_branches(c, u, used)]
    return buses


def _bus(c: Circuit, bus: BusUnit, devices: list[Place]) -> I2cBus:
    way = trunk(c, bus)
    root = way[-1]
    unit = c.hardware.unit_spec(root.unit)
    wish = c.clock(str(root))
    usual = unit.speeds[0] if unit is not None and unit.speeds else USUAL_HZ
    heard = tuple(p for p in devices if p.bus != bus and meet(c, p.bus, bus))
    return I2cBus(
        bus,
        title_of(c, bus),
        len(way) - 1,
        tuple(p for p in devices if p.bus == bus),
        heard,
        wish or usual,
        bool(wish),
        sections(c, bus),
    )


def title_of(c: Circuit, bus: BusUnit) -> str:
    """What a bus is called: "I2C bus 1", or "Branches · branch 3"."""
    if bus.unit.on_board and bus.any_pin:
        return f"I2C on {c.titles.of(f'{BOARD}.{bus.remap}')}"
    unit = c.hardware.unit_named(bus.unit)
    title = unit.title if unit else bus.unit.name
    return title if bus.unit.on_board else f"{c.placed[bus.unit.owner].name} · {title}"


def slowest(c: Circuit, bus: I2cBus) -> Place | None:
    """The device that bears least clock, of the bus and of what hangs behind its switches."""
    on = [p for p in (*bus.devices, *bus.heard) if p.part and bus.bus in trunk(c, p.bus)]
    return min(on, key=lambda p: most_hz(c, p), default=None)


def most_hz(c: Circuit, place: Place) -> float:
    """The fastest clock that a device bears, Hz."""
    facts = c.parts[place.part].facts.i2c if place.part else None
    return facts.most_hz if facts else 400e3


def cells(c: Circuit, bus: I2cBus) -> list[Cell]:
    """All 128 addresses as they look on a bus."""
    who: dict[int, list[Place]] = {}
    calls: dict[int, list[Place]] = {}
    for p in (*bus.devices, *bus.heard):
        who.setdefault(p.address, []).append(p)
        if p.all_call is not None:
            calls.setdefault(p.all_call, []).append(p)
    return [_cell(c, bus, a, who.get(a, []), calls.get(a, [])) for a in range(128)]


def _cell(c: Circuit, bus: I2cBus, address: int, here: list[Place], called: list[Place]) -> Cell:
    together = [*here, *(p for p in called if p not in here)]
    names, parts = tuple(named(c, p) for p in together), tuple(p.part for p in together if p.part)
    if any(clash(c, a, b) for a, b in combinations(together, 2) if a in here):
        return Cell(address, "clash", names, parts)
    if here:
        state: State = "taken" if any(p in bus.devices for p in here) else "elsewhere"
        return Cell(address, state, names, parts)
    if called:
        return Cell(address, "all-call", names, parts)
    why = reserved(address)
    return Cell(address, "reserved" if why else "free", why=why)


def notes(c: Circuit, bus: I2cBus) -> list[str]:
    """What a program has to know of the devices on a bus; devices of
    which the same holds are named together."""
    sentences: list[str] = []
    slow = slowest(c, bus)
    if slow is not None:
        sentences.append(f"The slowest device is {named(c, slow)}: at most {show(most_hz(c, slow), 'Hz')}.")
    unit = c.hardware.unit_spec(trunk(c, bus.bus)[-1].unit)
    heard = (
        "this controller waits for that"
        if unit is None or unit.waits
        else "this controller does not wait: keep it slow"
    )
    groups: dict[str, list[str]] = {}
    for p in bus.devices:
        facts = c.parts[p.part].facts.i2c if p.part else None
        if facts is None:
            continue
        for holds, text in (
            (facts.stretches, f"may hold the clock low while busy; {heard}"),
            (facts.no_stop, "wants a repeated start: no stop between the register's number and the reading"),
            (
                bool(facts.by_command),
                f"gets 0x{p.address:02X} by command, anew after each power-on; until then it answers at "
                f"0x{facts.power_on_address or facts.address:02X}",
            ),
            (
                facts.passes_all,
                "is told first which branch to join; then a program speaks to what hangs there",
            ),
            (
                facts.all_call is not None,
                f"also answers at 0x{facts.all_call or 0:02X}, with all others of its kind, until a "
                "program switches that off",
            ),
        ):
            if holds:
                groups.setdefault(text, []).append(named(c, p))
    return sentences + [f"{some(names)}: {text}." for text, names in groups.items()]


def some(names: list[str], most: int = 3) -> str:
    """The first few of some names, and how many more there are.

    >>> some(["one", "two"]), some(list("abcde"))
    ('one and two', 'a, b, c and 2 more')
    """
    if len(names) > most:
        return f"{', '.join(names[:most])} and {len(names) - most} more"
    return listed(names)


def could_be(c: Circuit, place: Place) -> list[int]:
    """The addresses that a device can have."""
    return [s.address for s in can_be(c, place.part)] if place.part else [place.address]

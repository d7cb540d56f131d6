"""SPI: who shares a controller's clock and data, who has which select, in which order a
daisy chain stands, how fast it goes."""

from typing import Literal, NamedTuple

from msgspec import Struct

from knotplan.catalog.part.elements import Resistor
from knotplan.catalog.part.facts import Spi
from knotplan.catalog.part.needs import Bus
from knotplan.core.buses.lines import CONTACT_FARAD, FARAD_PER_M
from knotplan.core.buses.rates import Reached, at_most
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import USUAL_M
from knotplan.core.circuit.having import having
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import BusUnit, buses_at, software_hz, upstream
from knotplan.core.memory.question import question
from knotplan.core.plan.document import BOARD, Tie, split

ROLES = ("sclk", "mosi", "miso", "select")
SECONDS_PER_M = 5e-9
"""of a signal along a cord"""
SETTLES = 2.2
"""ln(9): from 10 % to 90 % of a level through a resistance into a capacitance"""


class _Home(NamedTuple):
    """What a device's clock hangs on."""

    unit: UnitId | None
    """of the board; nothing where a program drives plain pins"""
    clock: str = ""
    """the pin, where one unit may drive several sets of pins, or none"""

    def __str__(self) -> str:
        unit = "pins" if self.unit is None else str(self.unit)
        return f"{unit}@{self.clock}" if self.clock else unit


class Device(Struct, frozen=True):
    """A part on a controller."""

    part: str
    ties: dict[str, str]
    """the contact that each of its roles is tied to"""
    place: int = 0
    """in its daisy chain, 0 next to the controller"""


class Select(Struct, frozen=True):
    """One select, and the devices behind it."""

    contact: str
    devices: tuple[Device, ...]
    """in the order in which the data go through them"""
    idle: Literal[
        "held off until the program runs", "off at power-on", "floats at power-on", "selected at power-on"
    ]
    """what holds it before a program runs"""
    bits: int
    """that go through all of them at once"""


class Controller(Struct, frozen=True):
    """One set of clock and data lines with everything on it."""

    id: str
    title: str
    unit: UnitId | None
    """of the board; nothing where a program drives plain pins"""
    lines: dict[str, tuple[str, ...]]
    """the pins of each role"""
    selects: tuple[Select, ...]
    wish_hz: float
    most_hz: float
    """what the slowest device and the cords bear"""
    limited_by: str
    reached: Reached | None
    """what its divider makes of that"""
    modes: tuple[int, ...]
    """that all of its devices understand; empty where they have none in common"""
    metres: float
    """the longest way of its lines"""

    @property
    def hz(self) -> float:
        """The clock at which it runs, Hz."""
        return self.reached.hz if self.reached else min(self.wish_hz or self.most_hz, self.most_hz)

    @property
    def devices(self) -> list[Device]:
        """Everything on it, select by select."""
        return [d for s in self.selects for d in s.devices]

    @property
    def software(self) -> bool:
        """The program makes each edge itself, for want of a controller."""
        return self.unit is None


@question
def controllers(c: Circuit) -> tuple[Controller, ...]:
    """Every controller that something is tied to: the board's, and sets
    of plain pins that a program drives."""
    groups: dict[_Home, list[Device]] = {}
    for part_id in having(c, "spi"):
        part = c.parts[part_id]
        ties = {
            need.role: tie
            for name in part.leads
            if (tie := c.ties.of(f"{part_id}.{name}")) is not None
            and isinstance(need := c.needs.of(tie.lead), Bus)
            and need.bus == "spi"
        }
        if ties:
            home = _home(c, ties)
            groups.setdefault(home, []).append(
                Device(part_id, {r: t.to for r, t in ties.items()}, _place(c, ties))
            )
    return tuple(_controller(c, home, devices) for home, devices in groups.items())


def _home(c: Circuit, ties: dict[str, Tie]) -> _Home:
    """What a device's clock hangs on: a unit of the board, or the pin itself where a program drives it."""
    tie = ties.get("sclk") or next(iter(ties.values()))
    head = upstream(c, tie.to)
    if any(by_program(c, t) for t in ties.values()):
        return _Home(None, head)
    need = c.needs.of(tie.lead)
    here = buses_at(c, need, head) if isinstance(need, Bus) else []
    if here and not here[0].any_pin:
        common = [u for u in here if all(_may_be(c, t, u) for t in ties.values())] or here
        return _Home(common[0].unit)
    return _Home(here[0].unit if here else None, head)


def _may_be(c: Circuit, tie: Tie, unit: BusUnit) -> bool:
    need = c.needs.of(tie.lead)
    return not isinstance(need, Bus) or need.role == "select" or unit in buses_at(c, need, tie.to)


def _place(c: Circuit, ties: dict[str, Tie]) -> int:
    """How many parts the data have gone through before."""
    tie, count = ties.get("mosi"), 0
    passed: set[str] = set()
    while tie is not None and tie.id not in passed and split(tie.to)[0] in c.parts:
        passed.add(tie.id)
        lead = c.contacts.lead(tie.to)
        if lead is None or lead.offers is None or not lead.offers.via:
            break
        tie, count = c.ties.of(f"{split(tie.to)[0]}.{lead.offers.via}"), count + 1
    return count


def _controller(c: Circuit, home: _Home, devices: list[Device]) -> Controller:
    lines = {
        role: tuple(
            dict.fromkeys(d.ties[role] for d in devices if role in d.ties and split(d.ties[role])[0] == BOARD)
        )
        for role in ROLES
        if role != "select"
    }
    by_select: dict[str, list[Device]] = {}
    for d in devices:
        by_select.setdefault(
            upstream(c, d.ties.get("select", "")) if d.ties.get("select") else "", []
        ).append(d)
    selects = tuple(
        _select(c, contact, sorted(ds, key=lambda d: d.place)) for contact, ds in by_select.items()
    )
    modes = set.intersection(*({*_facts(c, d).modes} for d in devices))
    metres = max((t.length_m or USUAL_M for d in devices for t in _ties_of(c, d)), default=0.0)
    chains = max((d.place for d in devices), default=0)
    most, why = _most_hz(c, devices, home.unit, metres * (1 + chains))
    wish = c.clock(str(home))
    spec = c.hardware.unit_spec(home.unit)
    divider = spec.rate if spec is not None else None
    reached = at_most(divider, min(wish or most, most)) if divider is not None else None
    return Controller(
        str(home),
        _title(c, home),
        home.unit,
        lines,
        selects,
        wish,
        most,
        why,
        reached,
        tuple(sorted(modes)),
        metres,
    )


def _ties_of(c: Circuit, d: Device) -> list[Tie]:
    return [
        t
        for name in c.parts[d.part].leads
        if (t := c.ties.of(f"{d.part}.{name}")) is not None and t.to in d.ties.values()
    ]


def _facts(c: Circuit, d: Device) -> Spi:
    facts = c.parts[d.part].facts.spi
    assert facts is not None
    return facts


def _title(c: Circuit, home: _Home) -> str:
    if home.unit is None:
        return f"Pins driven by the program, clock on {c.titles.of(home.clock)}"
    spec = c.hardware.unit_named(home.unit)
    return spec.title if spec else f"SPI with its clock on {c.titles.of(home.clock)}"


def _select(c: Circuit, contact: str, devices: list[Device]) -> Select:
    return Select(
        contact, tuple(devices), _idle(c, contact, devices), sum(_facts(c, d).bits for d in devices)
    )


def _idle(
    c: Circuit, contact: str, devices: list[Device]
) -> Literal[
    "held off until the program runs", "off at power-on", "floats at power-on", "selected at power-on"
]:
    """What a select does before a program runs; a latch may do what it likes."""
    pin = c.contacts.pin(contact)
    if pin is None or pin.kind != "io" or all(_facts(c, d).latches for d in devices):
        return "held off until the program runs"
    high = not any(_facts(c, d).select_high for d in devices)
    off, on = (
        ({"high", "pull-up"}, {"low", "pull-down"}) if high else ({"low", "pull-down"}, {"high", "pull-up"})
    )
    states = set(pin.power_on_states)
    if states <= off:
        return "off at power-on"
    wanted = "pull-up" if high else "pull-down"
    ties = c.ties.holders.get(contact, [])
    held = any(b.__struct_config__.tag == wanted for t in ties for b in t.beads) or _own_pull(
        c, devices, high
    )
    if held:
        return "held off until the program runs"
    return "selected at power-on" if states & on or "toggling" in states else "floats at power-on"


def _own_pull(c: Circuit, devices: list[Device], high: bool) -> bool:
    """A device that holds its own select by a resistor."""
    for d in devices:
        part = c.parts[d.part]
        lead = next(
            (n for n, x in part.leads.items() if isinstance(x.needs[0], Bus) and x.needs[0].role == "select"),
            "",
        )
        for e in part.elements.values():
            if isinstance(e, Resistor) and lead in (e.a, e.b):
                other = e.b if e.a == lead else e.a
                if (c.nets.is_ground(f"{d.part}.{other}")) != high and other in part.leads:
                    return True
    return False


def _most_hz(c: Circuit, devices: list[Device], unit: UnitId | None, metres: float) -> tuple[float, str]:
    """The fastest clock that every device and the cords bear, and which of them bears least.

    Half a clock has to do for the way there and back, the device's answer and the edges: 1/(2 f) >= 2 * l
    * 5 ns/m + t_out + 2.2 * R * C, with R of the weakest driver and C of cord and devices."""
    slow = min(devices, key=lambda d: _facts(c, d).most_hz)
    limits = [(_facts(c, slow).most_hz, c.placed[slow.part].name)]
    answering = [d for d in devices if "miso" in d.ties]
    out_s = max((_facts(c, d).out_s for d in answering), default=0.0)
    farad = metres * FARAD_PER_M[""] + CONTACT_FARAD * (1 + len(devices))
    driven = [c.hardware.driver_at(d.ties.get(role, "")) for d in devices for role in ("sclk", "mosi")]
    ohms = [driver.high_ohm.max for driver in driven if driver is not None]
    ways = 2 if answering else 1
    needed = ways * metres * SECONDS_PER_M + out_s + SETTLES * max(ohms, default=50.0) * farad
    limits.append(
        (0.5 / needed, f"{metres:g} m of cord" + (" and the answer's way back" if answering else ""))
    )
    if unit is None:
        limits.append((software_hz(c.board), "the program, which makes each edge itself"))
    return min(limits)


def by_program(c: Circuit, tie: Tie) -> bool:
    """A line whose pin lacks the function, so that a program has to play its
    role; selects are its matter anyway."""
    need = c.needs.of(tie.lead)
    return (
        isinstance(need, Bus)
        and need.role != "select"
        and split(tie.to)[0] == BOARD
        and not buses_at(c, need, tie.to)
    )

"""Who answers where on I2C: each device's bus and address, as its strap pads or a
command make it (addresses of 7 bits)."""

from itertools import product
from typing import Literal

from msgspec import Struct

from knotplan.catalog.part.facts import I2c, Pad
from knotplan.catalog.part.needs import Bus
from knotplan.catalog.part.parameter import Parameter
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having
from knotplan.core.circuit.units import BusUnit, bus_instances, buses_at
from knotplan.core.memory.question import question
from knotplan.core.plan.document import split

FREE = range(0x08, 0x78)
"""what devices may have; the rest is reserved (NXP UM10204 clause 3.1.12)"""
RESERVED: tuple[tuple[range, str], ...] = (
    (range(0x00, 0x01), "general call, or start byte"),
    (range(0x01, 0x02), "CBUS address"),
    (range(0x02, 0x03), "another bus format"),
    (range(0x03, 0x04), "kept for the future"),
    (range(0x04, 0x08), "high-speed mode's controller code"),
    (range(0x78, 0x7C), "addresses of ten bits"),
    (range(0x7C, 0x80), "device's identity"),
)
"""reserved addresses and what for (NXP UM10204 clause 3.1.12, table 4)"""


class Place(Struct, frozen=True):
    """A device on a bus."""

    part: str
    """empty for what the board itself has there"""
    bus: BusUnit
    address: int
    all_call: int | None = None
    resident: str = ""
    """what the board itself has there"""
    power_on_address: int | None = None
    """where it answers before a command gives it its address"""


class Straps(Struct, frozen=True):
    """An address that a device can be given, and what changes for it."""

    address: int
    params: tuple[tuple[str, str | float], ...]


def reserved(address: int) -> str:
    """What an address is reserved for; empty where it is not.

    >>> reserved(0x03), reserved(0x48)
    ('kept for the future', '')
    """
    return next((why for block, why in RESERVED if address in block), "")


def positions(spec: Parameter, pad: Pad) -> dict[str, int]:
    """What each position of a pad adds, by the choice's name, the usual one first."""
    usual = str(spec.default)
    if pad.positions:
        adds = {choice: pad.positions.get(choice, 0) for choice in spec.choices}
    else:
        adds = {choice: 0 if choice == usual else pad.adds for choice in spec.choices}
    return {usual: adds[usual], **adds}


def stands(circuit: Circuit, part_id: str, pad: Pad) -> str:
    """The position in which a device's pad is planned."""
    return str(
        circuit.placed[part_id].params.get(pad.param, circuit.parts[part_id].params[pad.param].default)
    )


def address_of(circuit: Circuit, part_id: str) -> int | None:
    """The address of a part: its own one and what each pad adds; nothing where it has none."""
    facts = circuit.parts[part_id].facts.i2c
    if facts is None:
        return None
    specs = circuit.parts[part_id].params
    return facts.address + sum(
        positions(specs[p.param], p).get(stands(circuit, part_id, p), 0) for p in facts.pads
    )


@question
def bus_of(circuit: Circuit, part_id: str) -> BusUnit | None:
    """The I2C bus that a part is on; of a board that leads any bus to any pin, the one on its data pin."""
    common = bus_instances(circuit, part_id, "i2c")
    if common:
        return next(iter(common)) if len(common) == 1 else None
    for name, lead in circuit.parts[part_id].leads.items():
        tie = circuit.ties.of(f"{part_id}.{name}")
        for need in lead.needs:
            if tie is not None and isinstance(need, Bus) and need.bus == "i2c" and need.role == "sda":
                here = buses_at(circuit, need, tie.to)
                return BusUnit(here[0].unit, split(tie.to)[1]) if here and here[0].any_pin else None
    return None


@question
def places(circuit: Circuit) -> list[Place]:
    """Every device whose bus is known, and what the board itself has on the buses that are in use."""
    devices = []
    for part_id in having(circuit, "i2c"):
        facts = circuit.parts[part_id].facts.i2c
        bus = bus_of(circuit, part_id)
        address = address_of(circuit, part_id)
        if facts is not None and bus is not None and address is not None:
            devices.append(
                Place(part_id, bus, address, facts.all_call, power_on_address=facts.power_on_address)
            )
    for bus in dict.fromkeys(p.bus for p in devices):
        unit = circuit.hardware.unit_named(bus.unit)
        if bus.unit.on_board and unit is not None:
            devices += [Place("", bus, address, resident=what) for what, address in unit.residents.items()]
    return devices


def named(circuit: Circuit, place: Place) -> str:
    """What a device is called."""
    return circuit.placed[place.part].name if place.part else place.resident[0].upper() + place.resident[1:]


def trunk(circuit: Circuit, bus: BusUnit) -> list[BusUnit]:
    """The bus, and behind bus switches those that it branches off from."""
    way = [bus]
    while True:
        owner = way[-1].unit.owner
        before = bus_of(circuit, owner) if owner in circuit.parts else None
        if before is None or before in way:
            return way
        way.append(before)


def meet(circuit: Circuit, one: BusUnit, other: BusUnit) -> bool:
    """Two buses that hear one another: the same, or one a branch of the other."""
    return one == other or other in trunk(circuit, one) or one in trunk(circuit, other)


def clash(circuit: Circuit, one: Place, other: Place) -> Literal["", "address", "all-call"]:
    """Whether two devices would both answer: on one bus, or one on a branch of the other's."""
    if not meet(circuit, one.bus, other.bus):
        return ""
    if one.address == other.address:
        return "address"
    return "all-call" if one.all_call == other.address or other.all_call == one.address else ""


def can_be(circuit: Circuit, part_id: str) -> list[Straps]:
    """Every address that a device can be given, each with the fewest changes; reserved ones fall out."""
    facts = circuit.parts[part_id].facts.i2c
    if facts is None:
        return []
    if facts.by_command:
        now = address_of(circuit, part_id)
        return [Straps(a, () if a == now else ((facts.by_command, float(a)),)) for a in FREE]
    best: dict[int, Straps] = {}
    specs = circuit.parts[part_id].params
    for choice in product(*(positions(specs[p.param], p).items() for p in facts.pads)):
        strapped = _strapped(circuit, part_id, facts, choice)
        known = best.get(strapped.address)
        if strapped.address in FREE and (known is None or len(strapped.params) < len(known.params)):
            best[strapped.address] = strapped
    return sorted(best.values(), key=lambda s: s.address)


def _strapped(circuit: Circuit, part_id: str, facts: I2c, choice: tuple[tuple[str, int], ...]) -> Straps:
    changed = tuple(
        (pad.param, value)
        for pad, (value, _) in zip(facts.pads, choice, strict=True)
        if stands(circuit, part_id, pad) != value
    )
    return Straps(facts.address + sum(adds for _, adds in choice), changed)


def free_straps(circuit: Circuit, place: Place, others: list[Place]) -> Straps | None:
    """What gives a device the nearest address at which nobody else answers, with the fewest changes."""
    free = [
        s
        for s in can_be(circuit, place.part)
        if s.params
        and not any(
            clash(circuit, Place(place.part, place.bus, s.address, place.all_call), o)
            for o in others
            if o.part != place.part
        )
    ]
    return min(free, key=lambda s: (len(s.params), s.address), default=None)


def soldering(circuit: Circuit, part_id: str, params: dict[str, str | float] | None = None) -> str:
    """How a device's pads have to be, in words for who solders: "bridge A0; leave A1 open"."""
    facts, specs = circuit.parts[part_id].facts.i2c, circuit.parts[part_id].params
    pads = []
    for pad in facts.pads if facts else ():
        name = specs[pad.param].title.removeprefix("Pad ")
        now = str((params or {}).get(pad.param, stands(circuit, part_id, pad)))
        if len(specs[pad.param].choices) > 2:
            pads.append(f"{name} to {now}")
        elif now == specs[pad.param].default:
            pads.append(f"leave {name} {now}")
        else:
            pads.append(f"bridge {name}" if now == "bridged" else f"{name} {now}")
    return "; ".join(pads)

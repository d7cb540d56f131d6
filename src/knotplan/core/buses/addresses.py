"""Who answers where on I2C: each device's bus and address, as its strap pads make it (addresses of 7 bits)."""

from itertools import product
from typing import Literal

from msgspec import Struct

from knotplan.catalog.part_facts import I2c
from knotplan.core.circuit import Circuit
from knotplan.core.plan import split
from knotplan.core.units import BusUnit, bus_instances


class Place(Struct, frozen=True):
    """A device on a bus."""

    part: str
    bus: BusUnit
    address: int
    all_call: int | None = None


class Straps(Struct, frozen=True):
    """An address that a device can be given, and the pads that change for it."""

    address: int
    params: tuple[tuple[str, str], ...]


def address_of(circuit: Circuit, part_id: str) -> int | None:
    """The address of a part: its own one and what each closed pad adds; nothing where it has none."""
    facts = circuit.parts[part_id].facts.i2c
    if facts is None:
        return None
    params, kind = circuit.placed[part_id].params, circuit.parts[part_id].params
    return facts.address + sum(p.adds for p in facts.pads if params.get(p.param, kind[p.param].default) != kind[p.param].default)


def places(circuit: Circuit) -> list[Place]:
    """Every device whose bus is known."""
    found = []
    for part_id, part in circuit.parts.items():
        buses = bus_instances(circuit, part_id, "i2c") if part.facts.i2c else set()
        address = address_of(circuit, part_id)
        if len(buses) == 1 and address is not None and part.facts.i2c is not None:
            found.append(Place(part_id, next(iter(buses)), address, part.facts.i2c.all_call))
    return found


def trunk(circuit: Circuit, bus: BusUnit) -> list[BusUnit]:
    """The bus, and behind bus switches those that it branches off from."""
    way = [bus]
    for _ in circuit.parts:
        owner = split(way[-1].unit)[0]
        before = bus_instances(circuit, owner, "i2c") if owner in circuit.parts else set()
        if len(before) != 1:
            break
        way.append(next(iter(before)))
    return way


def clash(circuit: Circuit, one: Place, other: Place) -> Literal["", "address", "all-call"]:
    """Whether two devices would both answer: on one bus, or one on a branch of the other's."""
    if one.bus != other.bus and other.bus not in trunk(circuit, one.bus) and one.bus not in trunk(circuit, other.bus):
        return ""
    if one.address == other.address:
        return "address"
    return "all-call" if one.all_call == other.address or other.all_call == one.address else ""


def free_straps(circuit: Circuit, place: Place, others: list[Place]) -> Straps | None:
    """The pads that give a device the nearest address at which nobody else answers, with the fewest changes."""
    facts = circuit.parts[place.part].facts.i2c
    if facts is None:
        return None
    best: tuple[int, int, Straps] | None = None
    for choice in product((False, True), repeat=len(facts.pads)):
        made = _strapped(circuit, place, facts, choice)
        tried = Place(place.part, place.bus, made.address, place.all_call)
        if made.params and not any(clash(circuit, tried, o) for o in others if o.part != place.part):
            rank = (len(made.params), made.address)
            if best is None or rank < best[:2]:
                best = (*rank, made)
    return best[2] if best else None


def _strapped(circuit: Circuit, place: Place, facts: I2c, choice: tuple[bool, ...]) -> Straps:
    params, kind = circuit.placed[place.part].params, circuit.parts[place.part].params
    changed = []
    for pad, closed in zip(facts.pads, choice, strict=True):
        spec = kind[pad.param]
        value = next(v for v in spec.choices if (v != spec.default) == closed)
        if params.get(pad.param, spec.default) != value:
            changed.append((pad.param, value))
    return Straps(facts.address + sum(p.adds for p, closed in zip(facts.pads, choice, strict=True) if closed), tuple(changed))

"""Addresses for many devices at once: exact, or the smallest reason why not.

Two devices need different addresses where they hear one another: on one bus, or one on a branch behind a
switch of the other's. All devices from the board out to one branch are such a *line of sight*: no two of them
may have one address, and every pair that hears one another stands in some line of sight together.
"""

from collections.abc import Iterable, Sequence

from msgspec import Struct

from knotplan.core.buses.addresses import Place, Straps, can_be, clash, places, trunk
from knotplan.core.circuit.circuit import Circuit


class Given(Struct, frozen=True):
    """An address for each device that was asked about."""

    straps: dict[str, Straps]

    @property
    def changes(self) -> int:
        """Pads and commands that change."""
        return sum(len(s.params) for s in self.straps.values())


class Conflict(Struct, frozen=True):
    """Devices that cannot all have an address of their own, and everything that they could have."""

    parts: tuple[str, ...]
    addresses: tuple[int, ...]


def assign(circuit: Circuit, parts: Sequence[str]) -> Given | Conflict:
    """Addresses for some devices around all others, which stay: as few devices changed as
    possible, then as few pads, then the lowest addresses. Where that cannot be, the fewest
    devices that cannot stand together."""
    asked = set(parts)
    devices = places(circuit)
    here = {p.part: p for p in devices if p.part in asked}
    fixed = [p for p in devices if p.part not in asked]
    options = {p.part: _left(circuit, p, fixed) for p in here.values()}
    lines = _lines_of_sight(circuit, here.values())
    conflicts = [c for line in lines if (c := _too_few(line, options))]
    if conflicts:
        return min(conflicts, key=lambda c: len(c.parts))
    straps = _cheapest(options, lines)
    return Given(straps) if straps is not None else _irreducible(options, lines)


def _left(circuit: Circuit, place: Place, fixed: list[Place]) -> dict[int, Straps]:
    """The addresses that are left to a device beside those that stay."""

    def free(address: int) -> bool:
        moved = Place(place.part, place.bus, address, place.all_call, power_on_address=place.power_on_address)
        return not any(clash(circuit, moved, o) for o in fixed)

    return {s.address: s for s in can_be(circuit, place.part) if free(s.address)}


def _lines_of_sight(circuit: Circuit, here: Iterable[Place]) -> list[tuple[str, ...]]:
    """The devices that hear one another, each such set once: those of a bus with
    those of every bus that it branches off."""
    on = list(here)
    buses = dict.fromkeys(p.bus for p in on)
    lines = [tuple(p.part for p in on if p.bus in trunk(circuit, bus)) for bus in buses]
    return [a for a in lines if not any(set(a) < set(b) for b in lines)]


def _too_few(line: Sequence[str], options: dict[str, dict[int, Straps]]) -> Conflict | None:
    """The smallest set of devices of a line of sight that have fewer
    addresses than they are (Hall's theorem).

    A largest matching leaves some devices without an address. From each of those, whatever can be reached
    by going to an address that a device can have and on to the device that has it is such a set, with
    exactly one address too few. Any set with too few contains a device that was left out, and with it all
    that can be reached from there: so the smallest of these is the smallest of all."""
    holder: dict[int, str] = {}

    def seat(part: str, seen: set[int]) -> bool:
        for address in options[part]:
            if address not in seen:
                seen.add(address)
                if address not in holder or seat(holder[address], seen):
                    holder[address] = part
                    return True
        return False

    left_out = [part for part in line if not seat(part, set())]
    reached = [_reach(part, options, holder) for part in left_out]
    if not reached:
        return None
    smallest = min(reached, key=len)
    return Conflict(
        tuple(p for p in line if p in smallest), tuple(sorted({a for p in smallest for a in options[p]}))
    )


def _reach(part: str, options: dict[str, dict[int, Straps]], holder: dict[int, str]) -> set[str]:
    reached, new = {part}, [part]
    while new:
        more = {holder[a] for a in options[new.pop()] if a in holder} - reached
        reached |= more
        new += more
    return reached


def _cheapest(
    options: dict[str, dict[int, Straps]], lines: Sequence[Sequence[str]]
) -> dict[str, Straps] | None:
    """The cheapest addresses by a 0/1 programme: one for each device, none twice in a line of sight."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_array

    columns = [(part, s) for part, able in options.items() for s in able.values()]
    if not columns:
        return None if options else {}
    rows: list[list[int]] = [[k for k, (p, _) in enumerate(columns) if p == part] for part in options]
    alone = len(rows)
    for line in lines:
        members = set(line)
        by_address: dict[int, list[int]] = {}
        for k, (part, s) in enumerate(columns):
            if part in members:
                by_address.setdefault(s.address, []).append(k)
        rows += [ks for ks in by_address.values() if len(ks) > 1]
    at = [(r, k) for r, ks in enumerate(rows) for k in ks]
    matrix = coo_array(
        (np.ones(len(at)), ([r for r, _ in at], [k for _, k in at])), shape=(len(rows), len(columns))
    )
    low = np.r_[np.ones(alone), np.zeros(len(rows) - alone)]
    cost = np.array([_cost(s, len(options)) for _, s in columns])
    result = milp(
        cost,
        integrality=np.ones(len(columns)),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(matrix.tocsr(), low, np.ones(len(rows))),
        options={"mip_rel_gap": 0.0, "disp": False},
    )
    if result.x is None:
        return None
    return {part: s for (part, s), x in zip(columns, result.x, strict=True) if x > 0.5}


def _cost(s: Straps, devices: int) -> float:
    """One device that changes counts more than all pads of all devices, and one
    pad more than all addresses together."""
    return 100 * devices * bool(s.params) + 10 * len(s.params) + s.address / (128 * devices)


def _irreducible(options: dict[str, dict[int, Straps]], lines: Sequence[Sequence[str]]) -> Conflict:
    """Devices over several branches that cannot stand together, of which none can be left out."""
    kept = list(options)
    for part in list(kept):
        fewer = [p for p in kept if p != part]
        if (
            _cheapest({p: options[p] for p in fewer}, [[p for p in line if p in fewer] for line in lines])
            is None
        ):
            kept = fewer
    return Conflict(tuple(kept), tuple(sorted({a for p in kept for a in options[p]})))

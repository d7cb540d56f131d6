"""Which readings are worth taking when all goes well: the fewest that find the most faults.

A reading *finds* a fault where no specimen with the fault reads as one that is as planned. Points are chosen
greedily, each time the one that finds the most of what is not found yet (Chvatal, 1979): first between the
supplies, which nobody skips, then before power, then stage by stage.
"""

from typing import Literal

from msgspec import Struct

from knotplan.core.meter.expected import Expected
from knotplan.core.meter.faults import Fault
from knotplan.core.meter.points import Point, between_supplies
from knotplan.core.meter.ranking import agrees, error_of
from knotplan.core.meter.table import Table
from knotplan.core.meter.told import stale
from knotplan.core.plan.wired import Reading


class Check(Struct, frozen=True):
    """A reading that is worth taking."""

    point: Point
    expected: Expected
    needed: bool
    """before anything is switched on"""
    finds: tuple[Fault, ...]
    """what it finds that those before it do not"""


class Meaning(Struct, frozen=True):
    """What another reading than the expected one means."""

    fault: Fault
    reads: Expected


Standing = Literal["open", "done", "changed", "wrong"]


def standing(point: Point, expected: Expected, reading: Reading | None) -> Standing:
    """How a point stands: not read, as expected, read when something else was expected, or otherwise than
    expected."""
    if reading is None or reading.empty:
        return "open"
    if stale(reading, expected):
        return "changed"
    return "done" if agrees(point, expected, reading) else "wrong"


def told_apart(point: Point, one: Expected, other: Expected) -> bool:
    """No reading can come from both."""
    apart = max(one.least - other.most, other.least - one.most)
    near = min(abs(x) for x in (one.least, one.most, other.least, other.most))
    return apart > 2 * error_of(point, near)


def meanings(table: Table, point: Point) -> tuple[Meaning, ...]:
    """The faults that a reading at a point can show, the likeliest first."""
    planned = table.planned[point]
    found = [
        Meaning(fault, readings[point])
        for fault, readings in zip(table.faults, table.readings, strict=True)
        if point in readings and told_apart(point, readings[point], planned)
    ]
    return tuple(sorted(found, key=lambda m: -m.fault.weight))


def checks(table: Table) -> tuple[Check, ...]:
    """The readings that are worth taking, in order: before power, then stage by stage."""
    finds: dict[Point, set[int]] = {p: set() for p in table.points}
    for k, readings in enumerate(table.readings):
        for point, reads in readings.items():
            if told_apart(point, reads, table.planned[point]):
                finds[point].add(k)
    left = set(range(len(table.faults)))
    chosen: list[Check] = []
    between = between_supplies(table.circuit, table.points)
    for point in between:
        chosen.append(_check(table, point, finds[point] & left, needed=True))
        left -= finds[point]
    stages = dict.fromkeys(p.stage for p in table.points if p.range == "volts")
    for stage in ("", *stages):
        pool = [p for p in table.points if p.stage == stage and p not in between]
        while pool:
            best = max(pool, key=lambda p: _worth(table, finds[p] & left))
            if not finds[best] & left:
                break
            chosen.append(_check(table, best, finds[best] & left, needed=False))
            left -= finds[best]
            pool.remove(best)
    return tuple(chosen)


def _worth(table: Table, found: set[int]) -> float:
    return sum(table.faults[k].weight for k in found)


def _check(table: Table, point: Point, found: set[int], *, needed: bool) -> Check:
    finds = tuple(table.faults[k] for k in sorted(found, key=lambda k: -table.faults[k].weight))
    return Check(point, table.planned[point], needed, finds)

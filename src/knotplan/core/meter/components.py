"""What hangs together around the points at which a meter is held.

Fed groups end a component with their voltage; groups of supplies that are not on end it with the resistance
that everything else on them has to ground.
"""

from msgspec import Struct

from knotplan.core.circuit.nets import GROUND
from knotplan.core.meter.network import ALIVE_V, Bench, Fed
from knotplan.core.meter.pieces import Moment, Piece
from knotplan.core.meter.points import Point


class Component(Struct):
    """Groups that hang together, and the pieces between them."""

    free: dict[int, None]
    soft: dict[int, None]
    pieces: dict[int, None]

    def meets(self, other: "Component") -> bool:
        """Something lies between the two."""
        mine = self.free.keys() | self.soft.keys()
        return not mine.isdisjoint(other.free.keys() | other.soft.keys())

    def take(self, other: "Component") -> None:
        """Takes in another one; what either goes through ends neither."""
        self.free |= other.free
        self.pieces |= other.pieces
        self.soft = {g: None for g in self.soft | other.soft if g not in self.free}


def components(
    bench: Bench, moment: Moment, fed: Fed, by_groups: dict[frozenset[int], list[Point]]
) -> tuple[list[tuple[Component, list[Point]]], list[Point]]:
    """The component of each point, those that are the same taken together; and the points between whose ends
    there is nothing."""
    found: dict[tuple[int, ...], tuple[Component, list[Point]]] = {}
    parted: list[Point] = []
    reached: dict[int, Component] = {}
    for groups, points in by_groups.items():
        for group in groups:
            if group not in reached:
                reached[group] = _reach(bench, moment, fed, group)
        ends = [reached[group] for group in sorted(groups)]
        if len(ends) == 2 and not ends[0].meets(ends[1]):
            parted += points
            continue
        whole = Component({}, {}, {})
        for part in ends:
            whole.take(part)
        key = tuple(sorted((*whole.free, *whole.soft)))
        known, mine = found.setdefault(key, (whole, []))
        known.take(whole)
        mine.extend(points)
    return list(found.values()), parted


def _reach(bench: Bench, moment: Moment, fed: Fed, start: int) -> Component:
    laid = bench.n.moments[moment]
    component = Component({}, {}, {})
    waiting = [start]
    while waiting:
        group = waiting.pop()
        if group in component.free or group in component.soft or group in fed.volts:
            continue
        alone = group == start and moment == "off" and group != bench.group(GROUND)
        if group in fed.unfed and not alone:
            component.soft[group] = None
            continue
        component.free[group] = None
        for number in bench.pieces(moment, group):
            piece = laid.all[number]
            if number in component.pieces or not _does(bench, fed, piece):
                continue
            component.pieces[number] = None
            waiting += [bench.group(node) for node in laid.ends[number]]
    return component


def _does(bench: Bench, fed: Fed, piece: Piece) -> bool:
    """A piece that needs a supply has it."""
    if not piece.alive:
        return True
    volts = fed.volts.get(bench.group(piece.alive))
    return volts is not None and volts.typ > ALIVE_V

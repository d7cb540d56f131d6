"""What `knotplan measure --format json` prints."""

import math
from collections.abc import Mapping

from msgspec import UNSET, Struct, UnsetType

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.meter.points import Point, told
from knotplan.core.meter.ranking import Answer
from knotplan.core.meter.table import Table


class PointAnswer(Struct, frozen=True, kw_only=True):
    """A point for the meter's tips, with what it should read there."""

    point: str
    """its id, as --at takes it"""
    range: str
    """the meter's range"""
    where: str
    """where the tips go, in words"""
    on: str
    """the supply that is on, or empty"""
    least: float | None
    """the least that is as planned, in Ω or V; nothing where there is no end"""
    usual: float | None
    """what it usually reads"""
    most: float | None
    """the most that is as planned"""
    open: bool
    """the meter shows that nothing conducts"""
    finds: int | UnsetType | None = UNSET
    """how many faults it finds; of points that are proposed"""
    needed: bool | UnsetType = UNSET
    """it must be read before that supply is switched on; of points that are proposed"""
    bits: float | UnsetType = UNSET
    """how much it tells, bit; of the point that is proposed next"""


PointsAnswer = list[PointAnswer]


class SingleFault(Struct, frozen=True):
    """One thing that could be wrong."""

    kind: str
    """what kind of fault it is"""
    title: str
    """in words"""
    ties: list[str]
    """the ties that it is about"""


class AlikeFaults(Struct, frozen=True):
    """Faults that no reading so far tells apart."""

    share: float
    """how likely they are together, among all that agree: 0 to 1"""
    alike: list[SingleFault]
    """the faults"""


class FaultsAnswer(Struct, frozen=True):
    """Which single faults agree with readings. (`measure --at` and `--not-working` print this.)"""

    as_planned: bool
    """a bench without a fault agrees too"""
    nothing_explains: bool
    """no single fault agrees"""
    agree: int
    """how many faults agree"""
    faults: list[AlikeFaults]
    """the likeliest first"""
    next: PointAnswer | None
    """what to measure next"""


def points(
    c: Circuit, table: Table, asked: list[Point], finds: Mapping[Point, int], needed: set[Point]
) -> PointsAnswer:
    """Points, with what they find."""
    return [_point(c, table, p, finds=finds.get(p), needed=p in needed) for p in asked]


def answer(c: Circuit, table: Table, found: Answer) -> FaultsAnswer:
    """Which faults agree, and what to measure next."""
    following = found.next
    return FaultsAnswer(
        as_planned=found.as_planned,
        nothing_explains=found.nothing_explains,
        agree=found.left,
        faults=[
            AlikeFaults(round(r.share, 4), [SingleFault(f.kind, f.title, list(f.ties)) for f in r.faults])
            for r in found.ranked
        ],
        next=_point(c, table, following.point, bits=following.gain) if following else None,
    )


def _point(
    c: Circuit,
    table: Table,
    point: Point,
    *,
    finds: int | UnsetType | None = UNSET,
    needed: bool | UnsetType = UNSET,
    bits: float | UnsetType = UNSET,
) -> PointAnswer:
    e = table.planned[point]
    least, usual, most = (x if math.isfinite(x) else None for x in (e.least, e.usual, e.most))
    return PointAnswer(
        point=point.id,
        range=point.range,
        where=told(c, point),
        on=point.stage,
        least=least,
        usual=usual,
        most=most,
        open=e.open,
        finds=finds,
        needed=needed,
        bits=bits,
    )

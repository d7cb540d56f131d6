"""Which faults agree with what the meter shows, and which measurement tells the rest apart best.

Each fault has a weight: how often it happens (`faults.WEIGHTS`), less where it is not about the parts that
are said not to work. A reading that no specimen with a fault could show rules the fault out; one that it
could show counts the more, the narrower what was expected (Bayes). The best next measurement has the largest
expected gain of information about the fault (Lindley, 1956): ``H(fault) - E[H(fault | reading)]``.
"""

from collections.abc import Collection, Iterable

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from knotplan.core.engine.solver.network import Floats
from knotplan.core.meter.expected import OVER_OHM, OVER_V, Expected
from knotplan.core.meter.faults import Fault
from knotplan.core.meter.points import Point
from knotplan.core.meter.table import Table
from knotplan.core.plan.wired import Reading

METER_SHARE, METER_V, METER_OHM = 0.01, 0.01, 0.5
"""how far a meter may be off: a share of what it shows, and so many volts or ohms besides"""
ELSEWHERE, WORKS = 0.03, 0.3
"""what a fault loses for each part that does not work and that it is not about, and for each that it is about
and that nobody complains of"""
OPEN_SHARE = 0.6
"""how likely it is over the meter's range where it may be anything, usually open"""
LEAST_GAIN = 0.02
"""bits; what tells less is not proposed"""
Numbers = NDArray[np.intp]


class Ranked(Struct, frozen=True):
    """A fault that agrees, with those that no meter tells apart from it."""

    faults: tuple[Fault, ...]
    share: float
    """how likely it is, against the others that agree"""


class Next(Struct, frozen=True):
    """What to measure next."""

    point: Point
    expected: Expected
    """as planned"""
    gain: float
    """bits"""


class Answer(Struct, frozen=True):
    """What the readings say."""

    ranked: tuple[Ranked, ...]
    next: Next | None
    """nothing where no measurement would tell more"""
    as_planned: bool
    """all readings may come from a bench that is as planned"""
    left: int
    """faults that agree"""

    @property
    def nothing_explains(self) -> bool:
        """No single fault agrees, and the bench as planned does not either."""
        return not self.ranked and not self.as_planned


class Ranking:
    """Ranks the faults of a table."""

    def __init__(self, table: Table):
        self.table = table
        self.points = table.points
        self.number = {p: k for k, p in enumerate(self.points)}
        self.weights = np.array([f.weight for f in table.faults])
        self._kinds: list[_Kinds] = [_Kinds.of(table, p) for p in self.points]
        self.groups = self._alike()

    def _alike(self) -> list[tuple[int, ...]]:
        """Faults that no meter tells apart: what it reads is the same at every point, within its error."""
        found: dict[tuple[int, ...], list[int]] = {}
        for f in range(len(self.table.faults)):
            kinds = tuple(int(k.of_fault[f]) for k in self._kinds)
            found.setdefault(kinds, []).append(f)
        return [tuple(g) for g in found.values()]

    def answer(self, readings: Iterable[Reading], parts: Collection[str] = ()) -> Answer:
        """The faults that agree, and what to measure next; `parts` are those that do not work."""
        known = {p.id: p for p in self.points}
        taken = [(known[r.point], r) for r in readings if r.point in known]
        weights = self.weights.copy()
        if parts:
            weights *= [_about(f, set(parts)) for f in self.table.faults]
        planned = 1.0
        for point, reading in taken:
            kinds = self._kinds[self.number[point]]
            likely = np.array([likelihood(point, e, reading, kinds.kinds[0]) for e in kinds.kinds])
            weights *= likely[kinds.of_fault]
            planned *= likely[0]
        whole = weights.sum()
        ranked = []
        for group in self.groups:
            share = weights[list(group)].sum()
            if share > 0:
                ranked.append(Ranked(tuple(self.table.faults[k] for k in group), float(share / whole)))
        ranked.sort(key=lambda r: -r.share)
        asked = {p for p, _ in taken}
        best = self._best(weights / whole, asked) if len(ranked) > 1 else None
        return Answer(tuple(ranked), best, bool(planned > 0), int((weights > 0).sum()))

    def _best(self, weights: Floats, asked: Collection[Point]) -> Next | None:
        """The point with the largest expected gain."""
        gains = [
            0.0 if point in asked else kinds.gain(weights)
            for point, kinds in zip(self.points, self._kinds, strict=True)
        ]
        best = int(np.argmax(gains))
        if gains[best] < LEAST_GAIN:
            return None
        return Next(self.points[best], self.table.planned[self.points[best]], float(gains[best]))


def _about(fault: Fault, complaint: set[str]) -> float:
    """How well a fault goes with the parts that do not work."""
    concerned = set(fault.parts)
    return float(ELSEWHERE ** len(complaint - concerned) * WORKS ** min(2, len(concerned - complaint)))


class _Kinds(Struct):
    """What may be read at one point: a few kinds of readings, and which of them each fault gives."""

    kinds: list[Expected]
    """the first as planned"""
    of_fault: Numbers
    told: Floats
    """(kinds, kinds): how likely the usual reading of one is with another"""

    @classmethod
    def of(cls, table: Table, point: Point) -> "_Kinds":
        """The kinds of a point."""
        kinds = [table.planned[point]]
        of_fault = np.zeros(len(table.faults), dtype=np.intp)
        for f, readings in enumerate(table.readings):
            here = readings.get(point)
            if here is None:
                continue
            same = (k for k, e in enumerate(kinds) if not_told_apart(point, e, here))
            number = next(same, -1)
            if number < 0:
                number = len(kinds)
                kinds.append(here)
            of_fault[f] = number
        usual = [Reading(point.id, _shown(e.usual), "open" if e.usual == np.inf else "") for e in kinds]
        told = np.array([[likelihood(point, e, r, kinds[0]) for e in kinds] for r in usual])
        return cls(kinds, of_fault, told)

    def gain(self, weights: Floats) -> float:
        """Bits that a reading here is expected to tell."""
        if len(self.kinds) == 1:
            return 0.0
        shares = np.bincount(self.of_fault, weights=weights, minlength=len(self.kinds)).astype(float)
        if (shares > 0).sum() < 2:
            return 0.0
        after = self.told * shares  # (reading, kind)
        sums = after.sum(axis=1, keepdims=True)
        posterior = np.divide(after, sums, out=np.zeros_like(after), where=sums > 0)
        return max(0.0, _entropy(shares) - float((shares * _entropies(posterior)).sum()))


def _shown(value: float) -> float | None:
    return None if value == np.inf else value


def _entropies(rows: Floats) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore"):
        terms = np.where(rows > 0, rows * np.log2(rows), 0.0)
    total: Floats = -terms.sum(axis=-1)
    return total


def _entropy(shares: Floats) -> float:
    return float(_entropies(shares[None] / shares.sum())[0])


def error_of(point: Point, value: float) -> float:
    """How far a meter may be off at a value."""
    return METER_SHARE * abs(value) + (METER_OHM if point.range == "ohms" else METER_V)


def not_told_apart(point: Point, one: Expected, other: Expected) -> bool:
    """Two expected readings that differ by less than the meter's error."""
    pairs = ((one.least, other.least), (one.usual, other.usual), (one.most, other.most))
    return all(a == b or abs(a - b) < error_of(point, min(abs(a), abs(b))) for a, b in pairs)


def agrees(point: Point, expected: Expected, reading: Reading) -> bool:
    """A specimen could show this."""
    return likelihood(point, expected, reading, expected) > 0


def likelihood(point: Point, expected: Expected, reading: Reading, planned: Expected) -> float:
    """How likely a reading is: nothing where no specimen shows it; the more, the narrower what is expected.
    Of words *ok* is anything that would be as planned, *no* everything else."""
    if reading.says in ("ok", "no"):
        inside = _share_inside(point, expected, planned)
        return inside if reading.says == "ok" else 1.0 - inside
    if reading.says == "open" or (
        reading.value is not None and point.range == "ohms" and reading.value >= OVER_OHM
    ):
        return (
            _open_share(expected)
            if point.range == "ohms"
            else float(point.range == "diode" and expected.most > OVER_V)
        )
    if reading.value is None:
        return 1.0
    value, off = reading.value, error_of(point, reading.value)
    if not expected.least - off <= value <= expected.most + off:
        return 0.0
    if point.range == "ohms":
        return (1.0 - _open_share(expected)) * _narrow_ohms(expected, value, off)
    return 2 * off / (expected.most - expected.least + 2 * off)


def _open_share(expected: Expected) -> float:
    """How likely an ohmmeter is over its range."""
    if expected.open:
        return 1.0
    if expected.most < OVER_OHM * (1 - 2 * METER_SHARE):
        return 0.0
    return OPEN_SHARE if expected.usual >= OVER_OHM else 1.0 - OPEN_SHARE


def _narrow_ohms(expected: Expected, value: float, off: float) -> float:
    """By ratios: a decade is a decade."""
    least, most = expected.least + off, min(expected.most, OVER_OHM) + off
    width = max(0.0, np.log(most / least))
    step = 2 * off / (max(value, 0.0) + off)
    return float(step / (width + step))


def _share_inside(point: Point, expected: Expected, planned: Expected) -> float:
    """How much of what is expected counts as planned, from 0 to 1."""
    if point.range == "ohms":
        both = [(_log(e.least), _log(e.most)) for e in (expected, planned)]
        off = np.log1p(METER_SHARE)
    else:
        both = [(e.least, e.most) for e in (expected, planned)]
        off = METER_V + METER_SHARE * max(abs(planned.least), abs(planned.most))
    (a, b), (c, d) = both
    c, d = c - off, d + off
    if b <= a:
        return float(c <= a <= d)
    return float(max(0.0, min(b, d) - max(a, c)) / (b - a))


def _log(ohm: float) -> float:
    return float(np.log(min(ohm, 10 * OVER_OHM) + METER_OHM))

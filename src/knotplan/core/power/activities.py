"""Activities: named things that happen, with their loads; what can go on together, and when.

A load that belongs to no activity is always on. One that belongs to some draws its current only while one of
them goes on. The worst case of a supply is that of the hungriest set of activities no two of which exclude
one another, and not the sum of all peaks: more activities never draw less, so that only the sets count to
which nothing can be added (the maximal cliques of the graph of what goes together: Bron and Kerbosch,
"Algorithm 457", CACM 16, 1973, with pivoting).
"""

from collections.abc import Iterable, Mapping
from functools import lru_cache
from itertools import pairwise

from msgspec import Struct

from knotplan.core.plan.document import Activity, Plan

Amps = tuple[float, float]
"""(usual, worst)"""
Sets = tuple[frozenset[str], ...]
MOST_SETS = 5000
"""with more sets than this everything counts as going on together"""
MOST_SPANS = 2000


class TooManySetsError(Exception):
    """There are more sets than can be looked at."""


@lru_cache(64)
def together(activities: tuple[Activity, ...]) -> Sets:
    """Every set of activities that can go on together and to which none can be added."""
    ids = [a.id for a in activities]
    apart = {a.id: set(a.excludes) & set(ids) for a in activities}
    for a in activities:
        for other in apart[a.id]:
            apart[other].add(a.id)
    near = {i: set(ids) - {i} - apart[i] for i in ids}
    sets: list[frozenset[str]] = []

    def grow(chosen: set[str], free: set[str], done: set[str]) -> None:
        if not free and not done:
            if len(sets) >= MOST_SETS:
                raise TooManySetsError
            sets.append(frozenset(chosen))
            return
        pivot = max(free | done, key=lambda i: (len(free & near[i]), i))
        for i in sorted(free - near[pivot]):
            grow(chosen | {i}, free & near[i], done & near[i])
            free = free - {i}
            done = done | {i}

    try:
        grow(set(), set(ids), set())
    except TooManySetsError:
        return (frozenset(ids),)
    return tuple(sets)


class Worst(Struct, frozen=True):
    """The worst case of some loads over what can happen together."""

    usual_a: float
    """in the hungriest set, with everything at its usual current"""
    worst_a: float
    peaks_a: float
    """the sum of all peaks, whatever excludes what"""
    during: frozenset[str] = frozenset()
    """the activities of that set"""


@lru_cache(64)
def activities_of(activities: tuple[Activity, ...]) -> dict[str, tuple[str, ...]]:
    """The activities that each part belongs to."""
    by_part: dict[str, tuple[str, ...]] = {}
    for activity in activities:
        for part in activity.parts:
            by_part[part] = (*by_part.get(part, ()), activity.id)
    return by_part


def worst(activities: tuple[Activity, ...], loads: Mapping[str, Amps]) -> Worst:
    """The worst case of loads {part: (usual, worst)} over what can go on together."""
    member = activities_of(activities)
    peaks = sum(w for _, w in loads.values())
    if not activities or not any(p in member for p in loads):
        return Worst(sum(u for u, _ in loads.values()), peaks, peaks)
    always = [amps for p, amps in loads.items() if p not in member]
    base_usual, base = sum(u for u, _ in always), sum(w for _, w in always)
    best, usual, during = -1.0, 0.0, frozenset[str]()
    for chosen in together(activities):
        on = [amps for p, amps in loads.items() if any(a in chosen for a in member.get(p, ()))]
        total = sum(w for _, w in on)
        if total > best:
            best, during = total, chosen
        usual = max(usual, sum(u for u, _ in on))
    return Worst(base_usual + usual, base + best, peaks, during)


# --- when -------------------------------------------------------------------------------------------


def spans(activity: Activity, cycle_s: float) -> list[tuple[float, float]]:
    """From when to when an activity goes on, within one cycle, in seconds; what runs
    over the end goes on at the beginning."""
    every = activity.every_s or cycle_s
    if activity.lasts_s >= min(every, cycle_s):
        return [(0.0, cycle_s)]
    count = max(1, min(MOST_SPANS, int(cycle_s / every + 1e-9)))
    cut: list[tuple[float, float]] = []
    for k in range(count):
        start = (activity.starts_s + k * every) % cycle_s
        end = start + activity.lasts_s
        cut += [(start, min(end, cycle_s))] + ([(0.0, end - cycle_s)] if end > cycle_s else [])
    return _joined(cut)


def _joined(cut: Iterable[tuple[float, float]]) -> list[tuple[float, float]]:
    """Spans in order, those that touch made one."""
    joined: list[tuple[float, float]] = []
    for start, end in sorted(cut):
        if joined and start <= joined[-1][1]:
            joined[-1] = joined[-1][0], max(joined[-1][1], end)
        else:
            joined.append((start, end))
    return joined


def on_spans(plan: Plan, part: str) -> tuple[tuple[float, float], ...]:
    """When a part draws current within a cycle."""
    mine = [a for a in plan.activities if part in a.parts]
    if not mine:
        return ((0.0, plan.cycle_s),)
    return tuple(_joined(span for a in mine for span in spans(a, plan.cycle_s)))


def on_share(plan: Plan, part: str) -> float:
    """The share of the time for which a part draws current."""
    return sum(end - start for start, end in on_spans(plan, part)) / plan.cycle_s


class Layer(Struct, frozen=True):
    """What one activity adds to a supply's current, over the spans of a timeline."""

    title: str
    usual_a: tuple[float, ...]
    worst_a: tuple[float, ...]


class Timeline(Struct, frozen=True):
    """The current of a supply over one cycle."""

    edges_s: tuple[float, ...]
    """from when to when each value holds: one more than there are values"""
    layers: tuple[Layer, ...]

    def total(self, which: str = "usual_a") -> list[float]:
        """The current of all layers at each moment, A."""
        return (
            [sum(amps) for amps in zip(*(getattr(x, which) for x in self.layers), strict=True)]
            if self.layers
            else []
        )


ALWAYS = "always on"


def timeline(plan: Plan, loads: Mapping[str, Amps]) -> Timeline:
    """Loads {part: (usual, worst)} laid over one cycle; a load of several
    activities counts for the first that goes on."""
    member = activities_of(plan.activities)
    edges = {0.0, plan.cycle_s}
    when = {a.id: spans(a, plan.cycle_s) for a in plan.activities if any(p in loads for p in a.parts)}
    for cut in when.values():
        edges |= {t for span in cut for t in span}
    marks = sorted(edges)
    middles = [(a + b) / 2 for a, b in pairwise(marks)]
    sums = {name: ([0.0] * len(middles), [0.0] * len(middles)) for name in ["", *when]}
    for part, (usual, peak) in loads.items():
        for k, t in enumerate(middles):
            on = (
                next((a for a in member.get(part, ()) if any(s <= t < e for s, e in when[a])), None)
                if part in member
                else ""
            )
            if on is not None:
                sums[on][0][k] += usual
                sums[on][1][k] += peak
    titles = {a.id: a.title for a in plan.activities} | {"": ALWAYS}
    layers = tuple(
        Layer(titles[n], tuple(u), tuple(w)) for n, (u, w) in sums.items() if max(w, default=0.0) > 0
    )
    return Timeline(tuple(marks), layers)


def overlaps(activities: tuple[Activity, ...], cycle_s: float) -> list[tuple[Activity, Activity, float]]:
    """Pairs that exclude one another and yet are planned for the same time, with when they meet first."""
    pairs = []
    for k, one in enumerate(activities):
        for other in activities[k + 1 :]:
            if other.id in one.excludes or one.id in other.excludes:
                both = [
                    max(s, t)
                    for s, e in spans(one, cycle_s)
                    for t, f in spans(other, cycle_s)
                    if max(s, t) < min(e, f) - 1e-9
                ]
                if both:
                    pairs.append((one, other, min(both)))
    return pairs

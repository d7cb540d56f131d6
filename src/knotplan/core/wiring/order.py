"""In which order parts are wired: along the header, with few changes of colour, hubs before what hangs on
them.

A *walk* is the cords of one part, from one end of the header to the other; it may be gone either way. Which
walk comes after which, and which way each is gone, is a travelling salesman's problem with precedence: solved
exactly up to `MOST_EXACT` walks by dynamic programming over the sets of walks that are done (Held and Karp,
1962; Bellman, 1962), beyond that by the nearest next one, then by moving and turning runs of walks (Or, 1976;
Lin, 1965).
"""

from collections.abc import Sequence
from heapq import heapify, heappop, heappush
from itertools import pairwise

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Spot = tuple[str, float, float]
"""(what it is on: the board or a hub, and where there, in pitches)"""
MOST_EXACT, MOST_IMPROVED = 12, 90
"""walks whose order is proven, and walks whose order is improved; more are taken as they lie"""
ELSEWHERE = 20.0
"""what going to another thing costs, in pitches"""
OTHER_COLOUR = 3.0
"""what taking a cord of another colour costs, in pitches"""
MOST_ROUNDS = 40
LONGEST_RUN = 3
REACH = 60
"""so far along an order runs are moved, and so long ones turned round"""
MOST_BEGINNINGS = 20
LEAST_TRIED, WALKS_TRIED = 1, 500
"""beginnings that are improved: the more, the fewer walks there are"""
LEAST_GAIN = 1e-9
Costs = NDArray[np.float64]
Turns = list[tuple[int, bool]]
"""walks in their order, each with whether it is gone backwards"""


class Walk(Struct, frozen=True):
    """The cords of one part, in the order of their holes."""

    spots: tuple[Spot, ...]
    colours: tuple[str, ...]
    after: tuple[int, ...] = ()
    """walks that have to be done before"""


def apart(one: Spot, other: Spot) -> float:
    """How far the hand goes from one hole to another, in pitches."""
    if one[0] != other[0]:
        return ELSEWHERE
    return float(np.hypot(one[1] - other[1], one[2] - other[2]))


def between(walks: Sequence[Walk]) -> Costs:
    """The cost of going on from each walk to each other, (walks, 2, walks, 2); the second and fourth axis say
    whether a walk is gone forward or backwards."""
    count = len(walks)
    cost = np.zeros((count, 2, count, 2))
    for i, one in enumerate(walks):
        for a in (0, 1):
            left = -1 if a == 0 else 0
            for j, other in enumerate(walks):
                for b in (0, 1):
                    come = 0 if b == 0 else -1
                    cost[i, a, j, b] = apart(one.spots[left], other.spots[come]) + OTHER_COLOUR * (
                        one.colours[left] != other.colours[come]
                    )
    return cost


def length(turns: Turns, cost: Costs) -> float:
    """The cost of an order."""
    return float(sum(cost[i, int(a), j, int(b)] for (i, a), (j, b) in pairwise(turns)))


def best_order(walks: Sequence[Walk]) -> Turns:
    """All walks in an order in which each comes after those that it needs: the cheapest, or near it."""
    if not walks:
        return []
    if len(walks) > MOST_IMPROVED:
        return _by_place(walks)
    needs = _without_rings(walks)
    cost = between(walks)
    return _exact(cost, needs) if len(walks) <= MOST_EXACT else _near_the_best(cost, needs)


def _by_place(walks: Sequence[Walk]) -> Turns:
    """Thing by thing in the order in which they come up, along each of them; each walk as soon as those that
    it needs are done (Kahn, 1962)."""
    things = {spot[0]: k for k, spot in reversed([*enumerate(w.spots[0] for w in walks)])}

    def key(k: int) -> tuple[int, float, float, int]:
        thing, x, y = walks[k].spots[0]
        return things[thing], x, y, k

    missing = [len({f for f in w.after if f != k}) for k, w in enumerate(walks)]
    waits_for: list[list[int]] = [[] for _ in walks]
    for k, walk in enumerate(walks):
        for first in set(walk.after) - {k}:
            waits_for[first].append(k)
    ready = [key(k) for k in range(len(walks)) if not missing[k]]
    heapify(ready)
    turns: Turns = []
    done: set[int] = set()
    while len(turns) < len(walks):
        if not ready:  # walks that need one another: the first of them
            ready = [min(key(k) for k in range(len(walks)) if k not in done)]
        k = heappop(ready)[3]
        if k in done:
            continue
        done.add(k)
        turns.append((k, False))
        for other in waits_for[k]:
            missing[other] -= 1
            if not missing[other] and other not in done:
                heappush(ready, key(other))
    return turns


def _without_rings(walks: Sequence[Walk]) -> list[int]:
    """What each walk needs, as bits; of walks that need one another the first comes first."""
    needs = [0] * len(walks)

    def reaches(start: int, end: int) -> bool:
        seen, ways = set(), [start]
        while ways:
            here = ways.pop()
            if here == end:
                return True
            if here not in seen:
                seen.add(here)
                ways += [k for k in range(len(walks)) if needs[here] >> k & 1]
        return False

    for k, walk in enumerate(walks):
        for first in walk.after:
            if first != k and not reaches(first, k):
                needs[k] |= 1 << first
    return needs


def _exact(cost: Costs, needs: Sequence[int]) -> Turns:
    """Over each set of walks that can be done first: the cheapest way to end with each of them."""
    count = len(needs)
    states = 2 * count
    flat = cost.reshape(states, states)
    best = np.full((1 << count, states), np.inf)
    came = np.full((1 << count, states), -1)
    for k in range(count):
        if not needs[k]:
            best[1 << k, 2 * k : 2 * k + 2] = 0.0
    for done in range(1, 1 << count):
        here = best[done]
        if not np.isfinite(here).any():
            continue
        reached = here[:, None] + flat
        before = reached.argmin(axis=0)
        cheapest = reached[before, np.arange(states)]
        for k in range(count):
            if done >> k & 1 or needs[k] & ~done:
                continue
            then = done | 1 << k
            for state in (2 * k, 2 * k + 1):
                if cheapest[state] < best[then, state]:
                    best[then, state] = cheapest[state]
                    came[then, state] = before[state]
    done = (1 << count) - 1
    state = int(best[done].argmin())
    turns: Turns = []
    while state >= 0:
        turns.append((state // 2, bool(state % 2)))
        state, done = int(came[done, state]), done & ~(1 << state // 2)
    return turns[::-1]


def _near_the_best(cost: Costs, needs: Sequence[int]) -> Turns:
    """From the nearest next walk of some beginnings, improved until nothing helps any more."""
    firsts = [k for k in range(len(needs)) if not needs[k]]
    begun = [_nearest(cost, needs, (k, back)) for k in firsts[:MOST_BEGINNINGS] for back in (False, True)]
    begun.sort(key=lambda turns: length(turns, cost))
    tried = max(LEAST_TRIED, WALKS_TRIED // len(needs))
    found = [_Tour(turns, cost, needs).improved() for turns in begun[:tried]]
    return min(found, key=lambda turns: length(turns, cost))


def _nearest(cost: Costs, needs: Sequence[int], first: tuple[int, bool]) -> Turns:
    turns, done, left = [first], 1 << first[0], [k for k in range(len(needs)) if k != first[0]]
    while left:
        k, back = turns[-1]
        able = [(j, b) for j in left if not needs[j] & ~done for b in (False, True)]
        turns.append(min(able, key=lambda t: cost[k, int(back), t[0], int(t[1])]))
        done |= 1 << turns[-1][0]
        left.remove(turns[-1][0])
    return turns


class _Tour:
    """An order that is made shorter. A state is ``2 walk + backwards``; turning a run round changes only what
    its two ends cost, because the way between two holes is as long in both directions."""

    def __init__(self, turns: Turns, cost: Costs, needs: Sequence[int]):
        self.at = [2 * k + int(back) for k, back in turns]
        self.needs = needs
        states = 2 * len(turns)
        self.cost = [*cost.reshape(states, states).tolist()]

    def improved(self) -> Turns:
        """Runs moved elsewhere, as they are or turned round, and longer runs turned round, while that
        helps."""
        for _ in range(MOST_ROUNDS):
            if not (self._turn_runs() | self._move_runs()):
                break
        return [(state // 2, bool(state % 2)) for state in self.at]

    def _step(self, one: int | None, other: int | None) -> float:
        return 0.0 if one is None or other is None else float(self.cost[one][other])

    def _turn_runs(self) -> bool:
        helped, count = False, len(self.at)
        for start in range(count):
            for stop in range(start + 1, min(count, start + REACH) + 1):
                at = self.at
                before = at[start - 1] if start else None
                after = at[stop] if stop < count else None
                was = self._step(before, at[start]) + self._step(at[stop - 1], after)
                then = self._step(before, at[stop - 1] ^ 1) + self._step(at[start] ^ 1, after)
                if then < was - LEAST_GAIN:
                    run = [state ^ 1 for state in reversed(at[start:stop])]
                    helped |= self._taken(at[:start] + run + at[stop:])
        return helped

    def _move_runs(self) -> bool:
        helped, count = False, len(self.at)
        for start in range(count):
            for stop in range(start + 1, min(count, start + LONGEST_RUN) + 1):
                helped |= self._moved(start, stop)
        return helped

    def _moved(self, start: int, stop: int) -> bool:
        """Puts a run where it costs least among the places near by."""
        at, count = self.at, len(self.at)
        run, rest = at[start:stop], at[:start] + at[stop:]
        before, after = (at[start - 1] if start else None), (at[stop] if stop < count else None)
        was = self._step(before, run[0]) + self._step(run[-1], after) - self._step(before, after)
        places = []
        for place in range(max(0, start - REACH), min(len(rest), start + REACH) + 1):
            left, right = (rest[place - 1] if place else None), (rest[place] if place < len(rest) else None)
            gap = self._step(left, right)
            there = self._step(left, run[0]) + self._step(run[-1], right) - gap
            turned = self._step(left, run[-1] ^ 1) + self._step(run[0] ^ 1, right) - gap
            places += [(there, place, False), (turned, place, True)]
        for cost, place, turned_round in sorted(places):
            if cost >= was - LEAST_GAIN:
                return False
            put = [state ^ 1 for state in reversed(run)] if turned_round else run
            if self._taken(rest[:place] + put + rest[place:]):
                return True
        return False

    def _taken(self, at: list[int]) -> bool:
        """Takes another order, if each walk still comes after those that it needs."""
        done = 0
        for state in at:
            if self.needs[state // 2] & ~done:
                return False
            done |= 1 << state // 2
        self.at = at
        return True

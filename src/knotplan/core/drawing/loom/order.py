"""The order of cards in a column: as few crossings of cords as can be had, and stable under small edits."""

from bisect import bisect
from collections.abc import Sequence

Keys = dict[str, list[float]]
"""where, from top to bottom, the cords of each card's leads end, in the order of the leads"""
MOST_TRIED = 30
"""cards in a column of which each is tried in every place; of more only neighbours are exchanged"""
MOST_PASSES = 20
"""times through a long column"""


def crossings(keys: Sequence[Sequence[float]]) -> int:
    """How many pairs of cords cross, given each card's ends in the order of its leads."""
    flat = [k for card in keys for k in card]
    return sum(a > b for i, a in enumerate(flat) for b in flat[i + 1 :])


def ordered(parts: list[str], keys: Keys) -> list[str]:
    """Cards from top to bottom: by the middle of their ends, then each moved to where
    it crosses least, while that helps."""
    order = sorted(parts, key=lambda p: middle(keys[p]))
    if len(order) > MOST_TRIED:
        return _neighbours_exchanged(order, keys)
    cost = _Costs(keys)
    improved = True
    while improved:
        improved = False
        for part in list(order):
            improved = _moved(order, part, cost) or improved
    return order


def _neighbours_exchanged(order: list[str], keys: Keys) -> list[str]:
    """The order with neighbours exchanged where that saves a crossing, a few times through."""
    cost = _Costs(keys)
    for _ in range(MOST_PASSES):
        better = False
        for k in range(len(order) - 1):
            above, below = order[k], order[k + 1]
            if cost[below, above] < cost[above, below]:
                order[k], order[k + 1], better = below, above, True
        if not better:
            break
    return order


def kept(parts: list[str], keys: Keys, before: list[str], free: set[str]) -> list[str]:
    """The order that was, with what is new or `free` put where it crosses
    least: nothing else changes its place."""
    mine = set(parts)
    order = [p for p in before if p in mine and p not in free]
    if not order:
        return ordered(parts, keys)
    cost, there = _Costs(keys), set(order)
    for part in sorted((p for p in parts if p not in there), key=lambda p: middle(keys[p])):
        if len(order) > MOST_TRIED:
            at = bisect([middle(keys[p]) for p in order], middle(keys[part]))
        else:
            places = range(len(order) + 1)
            at = min(
                places,
                key=lambda k: (_crossed(order[:k], part, order[k:], cost), _apart(order, k, part, keys), k),
            )
        order.insert(at, part)
    return order


def middle(ends: list[float]) -> float:
    """The middle of a card's ends; one without any lies below all others."""
    return sum(ends) / len(ends) if ends else 1e6


def _apart(order: list[str], at: int, part: str, keys: Keys) -> float:
    """How far out of the order of middles a place is."""
    here = middle(keys[part])
    above = sum(middle(keys[p]) > here for p in order[:at])
    return above + sum(middle(keys[p]) < here for p in order[at:])


class _Costs(dict[tuple[str, str], int]):
    """Crossings between two cards, the first above the second; counted when they are first asked for."""

    def __init__(self, keys: Keys):
        super().__init__()
        self._keys = keys

    def __missing__(self, pair: tuple[str, str]) -> int:
        crossings = self[pair] = sum(a > b for a in self._keys[pair[0]] for b in self._keys[pair[1]])
        return crossings


def _crossed(above: list[str], part: str, below: list[str], cost: _Costs) -> int:
    return sum(cost[p, part] for p in above) + sum(cost[part, p] for p in below)


def _moved(order: list[str], part: str, cost: _Costs) -> bool:
    """Moves a card to the place where it crosses least, if that is better than where it is."""
    at = order.index(part)
    rest = [p for p in order if p != part]
    reach = range(len(rest) + 1)
    now = _crossed(rest[:at], part, rest[at:], cost)
    best = min(reach, key=lambda k: (_crossed(rest[:k], part, rest[k:], cost), abs(k - at)))
    if _crossed(rest[:best], part, rest[best:], cost) >= now:
        return False
    rest.insert(best, part)
    order[:] = rest
    return True

"""The order of walks against exhaustive search, and against the exact method where that one is too long."""

import itertools
import random

import pytest

from knotplan.core.wiring import order
from knotplan.core.wiring.order import Turns, Walk, best_order, between, length


def some_walks(count: int, seed: int) -> list[Walk]:
    rng = random.Random(seed)
    walks = []
    for k in range(count):
        holes = sorted((rng.randint(0, 20), rng.randint(0, 1)) for _ in range(rng.randint(1, 4)))
        after = tuple(j for j in range(k) if rng.random() < 0.3 / k)
        colours = tuple(rng.choice(("red", "blue", "green")) for _ in holes)
        walks.append(Walk(tuple(("board", float(x), float(y)) for y, x in holes), colours, after))
    return walks


def sound(turns: Turns, walks: list[Walk]) -> bool:
    at = {k: n for n, (k, _) in enumerate(turns)}
    return sorted(at) == list(range(len(walks))) and all(
        at[first] < at[k] for k, walk in enumerate(walks) for first in walk.after
    )


def exhaustive(walks: list[Walk]) -> float:
    """The least cost of all orders, every one tried."""
    cost, ways = between(walks), range(len(walks))
    orders = (
        list(zip(p, b, strict=True))
        for p in itertools.permutations(ways)
        for b in itertools.product((False, True), repeat=len(walks))
    )
    return min(length(turns, cost) for turns in orders if sound(turns, walks))


@pytest.mark.parametrize("count", [1, 2, 3, 4, 5])
@pytest.mark.parametrize("seed", range(6))
def test_few_walks_are_ordered_as_well_as_can_be(count: int, seed: int) -> None:
    walks = some_walks(count, seed)
    found = best_order(walks)
    assert sound(found, walks)
    assert length(found, between(walks)) == pytest.approx(exhaustive(walks))


def test_many_walks_are_ordered_nearly_as_well(monkeypatch: pytest.MonkeyPatch) -> None:
    """Against the exact method on as many walks as that can have: a twentieth longer on average at the
    most."""
    shares = []
    for seed in range(12):
        walks = some_walks(11, seed)
        cost = between(walks)
        exact = length(best_order(walks), cost)
        monkeypatch.setattr(order, "MOST_EXACT", 0)
        near = best_order(walks)
        monkeypatch.undo()
        assert sound(near, walks)
        shares.append(length(near, cost) / exact)
    assert min(shares) >= 1 - 1e-9
    assert sum(shares) / len(shares) < 1.05 and max(shares) < 1.2


@pytest.mark.parametrize("count", [60, 400])
def test_large_benches_are_ordered_soundly(count: int) -> None:
    walks = some_walks(count, 3)
    assert sound(best_order(walks), walks)


def test_as_many_as_there_are_holes_are_taken_along_the_header() -> None:
    walks = [Walk((("hub", 0.0, float(k)),), ("red",)) for k in range(200)]
    shuffled = walks[::3] + walks[1::3] + walks[2::3]
    assert [shuffled[k].spots[0][2] for k, _ in best_order(shuffled)] == [float(k) for k in range(200)]


def test_walks_that_need_one_another_are_ordered_all_the_same() -> None:
    for count in (3, 200):
        ring = [Walk((("board", 0.0, float(k)),), ("red",), ((k + 1) % count,)) for k in range(count)]
        assert sorted(k for k, _ in best_order(ring)) == list(range(count))

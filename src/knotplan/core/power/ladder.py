"""Chains fed along a rail: a ladder of equal resistances with equal currents drawn at its nodes.

The nodal equations of a ladder are tridiagonal; they are solved by elimination along the chain (Thomas,
1949), so that feeds may stand anywhere.
"""

import math

from knotplan.catalog.part.facts import Pixels

FEED_OHM = 1e-3
"""between a chain's feeds, where its cord's own drop is off the voltage already"""
MOST_FEEDS = 200


def ladder(
    supply: float, count: int, amps: float, step_ohm: float, cord_ohm: float, feeds: tuple[int, ...]
) -> list[float]:
    """The voltage of each of `count` pixels that draw `amps` each, `step_ohm` (there and back) apart, fed
    from `supply` volts through `cord_ohm` each at the pixels `feeds` (from 0)."""
    g, feed = 1 / max(step_ohm, 1e-9), 1 / max(cord_ohm, 1e-9)
    diagonal = [(0.0 if k in (0,) else g) + (0.0 if k == count - 1 else g) for k in range(count)]
    right = [-amps] * count
    for k in feeds:
        diagonal[k] += feed
        right[k] += feed * supply
    for k in range(1, count):
        share = g / diagonal[k - 1]
        diagonal[k] -= share * g
        right[k] += share * right[k - 1]
    volts = [0.0] * count
    for k in range(count - 1, -1, -1):
        volts[k] = (right[k] + (g * volts[k + 1] if k + 1 < count else 0.0)) / diagonal[k]
    return volts


def places(count: int, feeds: int) -> tuple[int, ...]:
    """Where so many feeds stand: one at the beginning; several evenly, each in the middle of its share."""
    if feeds == 1:
        return (0,)
    return tuple(sorted({min(count - 1, math.floor((k + 0.5) * count / feeds)) for k in range(feeds)}))


def lowest(supply: float, count: int, amps: float, step_ohm: float, cord_ohm: float, feeds: int) -> float:
    """The least voltage of any pixel."""
    return min(ladder(supply, count, amps, step_ohm, cord_ohm, places(count, feeds)))


def farthest_v(px: Pixels | None, supply: float) -> float | None:
    """The least voltage of a chain's pixels, all of them white, where `supply` volts arrive at it; nothing
    where what is there is no chain along a rail."""
    if px is None or not px.step_ohm or px.count < 2:
        return None
    return lowest(supply, int(px.count), px.full_a, px.step_ohm, FEED_OHM, int(px.feeds))


def feeds_needed(
    supply: float, count: int, amps: float, step_ohm: float, cord_ohm: float, least: float
) -> int | None:
    """The fewest feeds that keep every pixel at `least` volts; nothing where no number does."""
    return next(
        (
            n
            for n in range(1, min(count, MOST_FEEDS) + 1)
            if lowest(supply, count, amps, step_ohm, cord_ohm, n) >= least
        ),
        None,
    )

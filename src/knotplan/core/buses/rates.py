"""Rates that a divider really makes, against the one that is wanted."""

import math

from msgspec import Struct

from knotplan.catalog.board.units import Divider


class Reached(Struct, frozen=True):
    """What comes out of a divider."""

    hz: float
    divisor: float
    wanted_hz: float

    @property
    def error(self) -> float:
        """By what share it lies off what was wanted; above 0 where it is too fast."""
        return self.hz / self.wanted_hz - 1


def rate(d: Divider, divisor: float) -> float:
    """Hz: rate = hz / (times * divisor)."""
    return d.hz / (d.times * divisor)


def nearest(d: Divider, hz: float) -> Reached:
    """The rate nearest to a wanted one, by ratio.

    >>> round(nearest(Divider(16e6, most=4096, times=8), 115200).error, 4)
    0.0212
    """
    best = min(divisors(d, d.hz / (d.times * hz)), key=lambda x: abs(math.log(rate(d, x) / hz)))
    return Reached(rate(d, best), best, hz)


def at_most(d: Divider, hz: float) -> Reached:
    """The fastest rate that is not above a wanted one; the slowest there is, where all are.

    >>> at_most(Divider(250e6, least=2, most=65536, finest=2), 10e6).hz
    9615384.615384616
    """
    able = [x for x in divisors(d, d.hz / (d.times * hz)) if rate(d, x) <= hz * (1 + 1e-9)]
    best = min(able) if able else max(d.steps or (d.most,))
    return Reached(rate(d, best), best, hz)


def divisors(d: Divider, wanted: float) -> list[float]:
    """The divisors on both sides of a wanted one, or the end that lies nearest."""
    if d.steps:
        steps = sorted(d.steps)
        below, above = [x for x in steps if x <= wanted], [x for x in steps if x > wanted]
        return below[-1:] + above[:1]
    count = math.floor((min(max(wanted, d.least), d.most) - d.least) / d.finest + 1e-9)
    candidates = [d.least + k * d.finest for k in (count, count + 1)]
    return [x for x in candidates if x <= d.most + 1e-9] or [d.most]

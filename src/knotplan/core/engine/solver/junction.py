"""The junction law and its parameters from two catalogue points.

``I = Is (exp((V - I Rs) / (n Vt)) - 1)`` (Shockley's equation with a series resistance), currents in
amperes, voltages in volts. `Rs` and `Is` are fitted through two points with n = 2; where that would
need a negative `Rs`, n is lowered until `Rs` is nothing.
"""

import math

from msgspec import Struct

VT = 0.025693
"""thermal voltage kT/q at 25 degC (CODATA k and q), volts"""


class Junction(Struct, frozen=True):
    """Saturation current (A), emission coefficient times Vt (V), series resistance (ohm)."""

    is_a: float
    n_vt: float
    rs_ohm: float

    def voltage(self, current_a: float) -> float:
        """Forward voltage at a forward current."""
        return self.n_vt * math.log1p(current_a / self.is_a) + current_a * self.rs_ohm


def fit(points: tuple[tuple[float, float], tuple[float, float]]) -> Junction:
    """The junction through two points (A, V) of rising current.

    >>> j = fit(((0.001, 1.75), (0.02, 2.00)))
    >>> round(j.voltage(0.001), 6), round(j.voltage(0.02), 6)
    (1.75, 2.0)
    """
    (i1, v1), (i2, v2) = points
    if not (0 < i1 < i2 and 0 < v1 < v2):
        raise ValueError("a junction's two points must rise in current and in voltage")
    ratio = math.log(i2 / i1)
    n_vt = min(2 * VT, (v2 - v1) / ratio)
    rs = (v2 - v1 - n_vt * ratio) / (i2 - i1)
    return Junction(i1 / math.expm1((v1 - i1 * rs) / n_vt), n_vt, rs)

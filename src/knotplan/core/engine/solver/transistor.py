"""Transistor laws as two steered ports each, and their parameters from figures that data sheets give.

A bipolar transistor is two junctions; of the current of each, a share comes from the third lead (Ebers and
Moll, "Large-signal behavior of junction transistors", Proc. IRE 42, 1954):

    I_C = aF I_F - I_R,   I_E = I_F - aR I_R,   aF IsF = aR IsR,   aF = B/(1 + B)

A field-effect transistor's channel is the difference of two functions of one shape (Enz,
Krummenacher and Vittoz, "An analytical MOS transistor model", 1995, with slope factor 1), which far
above the threshold is the square law:

    I_D = Is (ln(1 + exp((V_GS - V_T)/2Vt))^2 - ln(1 + exp((V_GD - V_T)/2Vt))^2),   R_on = 1/(K (V_GS - V_T))
"""

from msgspec import Struct

from knotplan.core.engine.solver.junction import VT, Junction

REVERSE_GAIN = 1.0
"""current gain of a switching transistor with emitter and collector
exchanged, where the catalogue says nothing"""


class Channel(Struct, frozen=True):
    """A field-effect transistor's channel: K (A/V^2) and threshold (V) of its square law."""

    k: float
    threshold_v: float

    @property
    def is_a(self) -> float:
        """``Is = K (2Vt)^2 / 2``, amperes."""
        return self.k * (2 * VT) ** 2 / 2

    def on_ohm(self, gate_v: float) -> float:
        """Resistance of the channel with little across it: ``1/(K (V_GS -
        V_T))``, ohm; infinite below the threshold."""
        over = gate_v - self.threshold_v
        return 1 / (self.k * over) if over > 0 else float("inf")


def channel(points: tuple[tuple[float, float], tuple[float, float]]) -> Channel:
    """The channel through two points (gate voltage V, on-resistance ohm): more voltage, less resistance.

    >>> c = channel(((2.5, 0.05), (4.5, 0.03)))
    >>> round(c.on_ohm(2.5), 6), round(c.on_ohm(4.5), 6)
    (0.05, 0.03)
    """
    (v1, r1), (v2, r2) = points
    if not (0 < v1 < v2 and r1 > r2 > 0):
        raise ValueError("a channel's resistance has to fall with the gate's voltage")
    k = (1 / r2 - 1 / r1) / (v2 - v1)
    return Channel(k, v1 - 1 / (r1 * k))


def forward_share(gain: float) -> float:
    """``aF = B/(1 + B)``: what the collector has of the emitter's current.

    >>> forward_share(99)
    0.99
    """
    return gain / (1 + gain)


def reverse_junction(forward: Junction, gain: float) -> Junction:
    """The base-collector junction that goes with a base-emitter one: ``IsR = aF IsF / aR``."""
    return Junction(forward.is_a * forward_share(gain) / forward_share(REVERSE_GAIN), forward.n_vt, 0.0)

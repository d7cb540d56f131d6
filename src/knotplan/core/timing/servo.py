"""Servos: from an angle to a pulse to a count, and how fine that is."""

from msgspec import Struct

from knotplan.catalog.part.facts import Servo
from knotplan.core.timing.pulses import Timer

COARSE_STEPS = 100
"""with fewer steps between its ends a servo jerks visibly"""
COARSE_SPEEDS = 40
"""so many speeds, both ways together, are enough for one that turns on and on: 5 % of full speed each"""


class AngleRow(Struct, frozen=True):
    """One line of a servo's table."""

    at: float
    """angle, or for one that turns on and on the share of full speed, -1 to 1"""
    pulse_s: float
    count: int
    made_s: float
    """the pulse that this count makes"""


def ends(s: Servo) -> tuple[float, float]:
    """What the two ends of the pulse mean: 0 and the angle between, or full speed backwards and forwards."""
    return (0.0, s.degrees) if s.degrees else (-1.0, 1.0)


def pulse(s: Servo, at: float) -> float:
    """The pulse for an angle, s: least + (most - least) * (angle - one end) / (other end - one end).

    >>> round(pulse(Servo(0.02, 0.0006, 0.0023, 170), 85), 6)
    0.00145
    """
    low, high = ends(s)
    return s.least_s + (s.most_s - s.least_s) * (at - low) / (high - low)


def least_steps(s: Servo) -> int:
    """So many steps it wants between its ends."""
    return COARSE_STEPS if s.degrees else COARSE_SPEEDS


def finest(s: Servo, t: Timer) -> float:
    """The finest step: angle range * tick / pulse range."""
    low, high = ends(s)
    return (high - low) * t.tick_s / abs(s.most_s - s.least_s) if s.most_s != s.least_s else 0.0


def steps(s: Servo, t: Timer) -> int:
    """How many steps lie between its ends."""
    return abs(t.count(s.most_s) - t.count(s.least_s))


def table(s: Servo, t: Timer, rows: int = 7) -> list[AngleRow]:
    """Angle, pulse and count at evenly spaced places, both ends among them."""
    low, high = ends(s)
    made = []
    for k in range(rows):
        at = low + (high - low) * k / (rows - 1)
        wanted = pulse(s, at)
        count = t.count(wanted)
        made.append(AngleRow(at, wanted, count, t.pulse_s(count)))
    return made


def middle(s: Servo) -> float:
    """Where it stands when nobody says."""
    return sum(ends(s)) / 2


def says(s: Servo, at: float) -> str:
    """Where it stands, or how fast it turns, in words."""
    if s.degrees:
        return f"{at:g}°"
    if not at:
        return "stands still"
    return f"{abs(at) * 100:.3g} % of full speed {'forwards' if at > 0 else 'backwards'}"

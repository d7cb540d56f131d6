"""Beads: small components that sit in a tie, or from a tie to a rail. Immutable."""

from typing import Literal

import msgspec

from knotplan.core.quantity.bounds import within
from knotplan.core.quantity.written import show


class _Bead(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag_field="kind"):
    pass


class _Ohms(_Bead):
    ohm: float
    """its resistance, Ω"""
    tolerance: float = 0.05
    """as a share: 0.05 is 5 %"""

    def __post_init__(self) -> None:
        within("resistor", self.ohm, "Ω", 0, 1e9, above=True)
        if not 0 <= self.tolerance < 1:
            text = show(self.tolerance, "%")
            raise ValueError(f"a tolerance of {text} is not possible; it has to be from 0 % to below 100 %")


class SeriesResistor(_Ohms, tag="resistor"):
    """A resistor in the tie."""

    rating_w: float = 0.25
    """the power that it bears, W"""

    def __post_init__(self) -> None:
        super().__post_init__()
        within("rating", self.rating_w, "W", 0, 1e4, above=True)


class PullUp(_Ohms, tag="pull-up"):
    """A resistor from the tie to the rail `rail` (a contact that is on it, such as ``board.p1``)."""

    rail: str = ""
    """a contact that is on its rail"""


class PullDown(_Ohms, tag="pull-down"):
    """A resistor from the tie to the board's ground."""


class Capacitor(_Bead, tag="capacitor"):
    """A capacitor from the tie to the board's ground."""

    farad: float
    """its capacitance, F"""
    volts: float = 16.0
    """its rating"""

    def __post_init__(self) -> None:
        within("capacitor", self.farad, "F", 0, 1, above=True)
        within("rating", self.volts, "V", 0, 1000, above=True)


class Diode(_Bead, tag="diode"):
    """A diode in the tie; current flows only towards one end."""

    towards: Literal["lead", "pin"] = "lead"
    """the end to which current flows"""
    style: Literal["silicon", "schottky"] = "schottky"
    """its kind: a Schottky diode loses less"""


class Clamp(_Bead, tag="clamp"):
    """A diode from the tie to the rail `rail`: it takes the current that a coil goes on driving."""

    rail: str = ""
    """a contact that is on its rail"""


class LevelShifter(_Bead, tag="level-shifter"):
    """Two sides with a supply each; the lead is on the one, the pin on the other."""

    style: Literal["mosfet", "buffer"] = "mosfet"
    """a transistor with a pull-up on each side, both ways; or a buffer, one way and fast"""
    lead_rail: str = ""
    """a contact that is on the supply of the lead's side"""
    pin_rail: str = ""
    """a contact that is on the supply of the pin's side"""


class Fuse(_Bead, tag="fuse"):
    """A fuse in the tie."""

    amps: float = 1.0
    """its rated current, A"""

    def __post_init__(self) -> None:
        within("fuse", self.amps, "A", 0, 100, above=True)


class Zener(_Bead, tag="zener"):
    """A zener diode from the tie to the board's ground: it keeps the tie from rising above its voltage."""

    volts: float = 3.3
    """its voltage, V"""

    def __post_init__(self) -> None:
        within("zener diode", self.volts, "V", 1, 200)


Bead = SeriesResistor | PullUp | PullDown | Capacitor | Diode | Clamp | LevelShifter | Fuse | Zener
Parting = (SeriesResistor, Diode, LevelShifter)
"""beads that part the tie's two ends into two nets"""
DIODES = {"silicon": ((0.001, 0.6), (1.0, 0.95)), "schottky": ((0.001, 0.22), (1.0, 0.45))}
"""typical curves: (A, V) at two points"""
ZENER_AT_A, ZENER_SLOPE_OHM, ZENER_SPREAD = 5e-3, 60.0, 0.05
"""of small zener diodes: the current at which they are measured, their slope there, and their tolerance"""
SHIFTER_PULL_OHM, SHIFTER_OHM, BUFFER_OHM = 10e3, 5.0, 35.0
"""pull-ups and inner resistance of a transistor level shifter, and the output of a buffer"""


def rails_of(bead: Bead) -> tuple[tuple[str, str], ...]:
    """(field, contact) of the rails that a bead leads to."""
    match bead:
        case PullUp(rail=rail) | Clamp(rail=rail):
            return (("rail", rail),)
        case LevelShifter(lead_rail=a, pin_rail=b):
            return (("lead_rail", a), ("pin_rail", b))
    return ()


def lets_in(bead: Bead) -> bool:
    """A diode that lets current through to the lead."""
    return isinstance(bead, Diode) and bead.towards == "lead"


def bead_name(bead: Bead) -> str:
    """What the trade calls it.

    >>> bead_name(LevelShifter()), bead_name(PullUp(10e3))
    ('level shifter', 'pull-up')
    """
    return "level shifter" if isinstance(bead, LevelShifter) else str(type(bead).__struct_config__.tag)

"""What a board gives and takes: rails, sockets, and pins with a limit in common."""

from typing import Literal

from knotplan.catalog.board.item import Item
from knotplan.catalog.quantities import Range


class Rail(Item):
    """A voltage that the board brings out on supply pins."""

    title: str
    """what it is called"""
    volts: Range
    """its voltage, V"""
    limit_a: float
    """what attached parts may draw together"""
    source_ohm: float
    """its inner resistance, Ω"""
    fed_from: str = ""
    """the rail that this one is made from; empty for a rail that sockets feed"""
    efficiency: float | None = None
    """of a switching regulator; a linear one passes its current on"""
    kelvin_per_watt: float = 0.0
    """thermal resistance of a linear regulator, junction to air; 0 where nobody says"""
    holds_v: float | None = None
    """below this the board resets"""
    own_usual_a: float = 0.0
    """what the board itself draws from it usually, A"""
    own_worst_a: float = 0.0
    """what the board itself draws from it at worst, A"""
    accepts: Range | None = None
    """what a supply may feed in at its pins; nothing where it only gives"""
    note: str = ""
    """what else is worth knowing"""


class Socket(Item):
    """A way in for power."""

    title: str
    """what it is called"""
    rail: str
    """the rail that it feeds"""
    volts: Range
    """what may come in, V"""
    limit_a: float
    """what it lets through, A"""
    drop_v: float = 0.0
    """lost on the way to the rail, V"""
    side: Literal["top", "bottom"] = "top"
    """which end of the board it is at"""
    plug: Literal["USB", "other"] = "other"
    """a USB socket feeds the board alone while a program is loaded over it"""
    note: str = ""
    """what else is worth knowing"""


class Bank(Item):
    """Pins that have a current limit in common."""

    title: str
    """what it is called"""
    limit_a: float
    """what they may carry together, A"""
    pins: tuple[str, ...] = ()
    """which pins"""

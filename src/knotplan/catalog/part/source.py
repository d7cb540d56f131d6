"""What a supply gives."""

from knotplan.catalog.part.item import Item
from knotplan.catalog.quantities import Range


class Source(Item):
    """A supply's offer between its leads."""

    plus: str
    """the lead of its positive end"""
    minus: str
    """the lead of its negative end"""
    volts: Range
    """its voltage, V"""
    limit_a: float
    """what it can give, A"""
    source_ohm: float
    """its inner resistance, Ω"""
    fed_from: str = ""
    """the lead through which a converter is fed"""
    efficiency: float | None = None
    """of a switching converter; a linear one passes its current on"""
    spare_v: float = 0.0
    """how far its input has to lie above its output"""
    kelvin_per_watt: float = 0.0
    """thermal resistance of a linear regulator, junction to air; 0 where nobody says"""
    watt_hours: float = 0.0
    """what a battery holds"""

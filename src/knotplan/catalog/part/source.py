"""What a supply gives."""

from knotplan.catalog.part.item import Item
from knotplan.catalog.quantities import Range


class Source(Item):
    """A supply's offer between its leads."""

    plus: str
    minus: str
    volts: Range
    limit_a: float
    source_ohm: float
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

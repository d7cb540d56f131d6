"""The electrical character that pins have in common."""

from knotplan.catalog.board.item import Item
from knotplan.catalog.quantities import Range


class Driver(Item):
    """The electrical character that pins have in common."""

    rail: str
    high_ohm: Range
    low_ohm: Range
    recommended_a: float
    absolute_a: float
    input_low_v: float
    """most voltage that is surely read as low"""
    input_high_v: float
    """least voltage that is surely read as high"""
    max_v: float
    """absolute maximum at the pin, unpowered clamps apart"""
    above_rail_v: float | None = None
    """of a hub, which has one supply or another: so far above its rail a pin may lie; `max_v` holds too"""
    high_share: float | None = None
    low_share: float | None = None
    """of a hub's rail, where its thresholds follow that; the fixed ones hold for a hub that is not fed yet"""
    min_v: float = -0.3
    pull_up_ohm: Range | None = None
    pull_down_ohm: Range | None = None
    leak_a: float = 1e-6
    high_drop_v: float = 0.0
    low_drop_v: float = 0.0
    """how far high and low stay from rail and ground whatever the current: of bipolar drivers"""
    most_load_v: float = 0.0
    """most voltage of a load that it switches"""
    clamps: str = ""
    """the lead that its clamp diodes lead to: a coil's kick ends there while that lead is tied"""
    element: str = ""
    """the element of a hub that switches, where its circuit is known: the engine has that one then"""
    note: str = ""
    """what makes these pins unlike the others"""
    source: str = ""

"""The electrical character that pins have in common."""

from knotplan.catalog.board.item import Item
from knotplan.catalog.quantities import Range


class Driver(Item):
    """The electrical character that pins have in common."""

    rail: str
    """the rail from which they drive high"""
    high_ohm: Range
    """inner resistance when high, Ω"""
    low_ohm: Range
    """inner resistance when low, Ω"""
    recommended_a: float
    """what one pin should carry at most, A"""
    absolute_a: float
    """what one pin survives, A"""
    input_low_v: float
    """most voltage that is surely read as low"""
    input_high_v: float
    """least voltage that is surely read as high"""
    max_v: float
    """absolute maximum at the pin, unpowered clamps apart"""
    above_rail_v: float | None = None
    """of a hub, which has one supply or another: so far above its rail a pin may lie; `max_v` holds too"""
    high_share: float | None = None
    """least share of the rail that is surely read as high"""
    low_share: float | None = None
    """of a hub's rail, where its thresholds follow that; the fixed ones hold for a hub that is not fed yet"""
    min_v: float = -0.3
    """absolute minimum at the pin, V"""
    pull_up_ohm: Range | None = None
    """its pull-up that a program can switch on, Ω"""
    pull_down_ohm: Range | None = None
    """its pull-down that a program can switch on, Ω"""
    leak_a: float = 1e-6
    """what leaks in or out as an input, A"""
    high_drop_v: float = 0.0
    """how far high stays below the rail whatever the current, V"""
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
    """where these figures come from"""

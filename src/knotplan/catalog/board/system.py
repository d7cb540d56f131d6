"""What a board's system does by itself: settings, levels that it reads at start, what already uses pins."""

from typing import Literal

from knotplan.catalog.board.item import Item


class Setting(Item):
    """Something that the board's system has on or off at first, and that its owner can change."""

    title: str
    """what it is called"""
    starts: Literal["on", "off"]
    """what it is at first"""
    how: str
    """how it is changed"""
    note: str = ""
    """what else is worth knowing"""


class Strap(Item):
    """A level that the board reads at a pin when it starts."""

    title: str
    """what it is called"""
    level: Literal["high", "low"]
    """what it has to be for a usual start"""
    otherwise: str
    """what happens when it is not"""
    pull_ohm: float | None = None
    """the resistor on the board that holds it there"""


class Reservation(Item):
    """Something that already uses pins, and what lifts that."""

    title: str
    """what uses the pins"""
    reason: str
    """what happens where they are used all the same"""
    lifted_by: str
    """how they become free"""
    severity: Literal["stop", "care", "note"] = "care"
    """how grave that is"""
    setting: str = ""
    """the pins are free while this is switched off"""

"""Something that the maker chooses about a part."""

import math
from typing import Literal

from knotplan.catalog.part.item import Item


class Parameter(Item):
    """Something that the maker chooses about a part."""

    title: str
    """what it is called"""
    default: str | float
    """what it usually is"""
    choices: tuple[str, ...] = ()
    """what it can be; empty for a number"""
    unit: str = ""
    """of the number"""
    least: float | None = None
    """the least number"""
    most: float | None = None
    """the largest number"""
    whole: bool = False
    """only whole numbers make sense"""
    named: bool = False
    """each of its choices is offered when a part is added"""
    sets: Literal[
        "",
        "common end",
        "current limit",
        "feed points",
        "gate",
        "pixels",
        "pull-ups",
        "rated current",
        "rated voltage",
        "stagger",
        "track",
        "wished current",
    ] = ""
    """what rules know it by: those that read it, and remedies that choose another value; of pull-ups the last
    choice is without them"""
    bought: bool = True
    """it has to be known to buy the part; false for wishes, and for what the summary says already"""

    lies: Literal["in the part", "by hand", "in the program"] = "in the part"
    """what another value means at the bench: another specimen, something set by hand on the part (a pad, a
    jumper, a trimmer), or nothing that one can touch"""

    def fault(self, value: object) -> str | None:
        """What is wrong with a value, or nothing."""
        if self.choices:
            return None if value in self.choices else f"is none of {', '.join(self.choices)}"
        if isinstance(value, bool) or not isinstance(value, int | float):
            return "is not a number"
        if not math.isfinite(value):
            return "is no quantity"
        if self.whole and value != round(value):
            return "is not a whole number"
        if self.least is not None and value < self.least:
            return f"is below {self.least:g} {self.unit}".rstrip()
        if self.most is not None and value > self.most:
            return f"is above {self.most:g} {self.unit}".rstrip()
        return None

"""What has been done at the bench, and what a meter showed there. Neither changes anything electric."""

from typing import Literal

import msgspec

from knotplan.core.plan.beads import Bead
from knotplan.core.plan.item import PlanItem


class Wired(PlanItem):
    """Something done at the bench, as it was done. It stays when what it was about is gone, so that the maker
    can be told what to unplug."""

    task: str
    """``cord:lamp-anode``, ``supply:brick``, ``part:clock`` or ``board:console``"""
    lead: str = ""
    """of a cord: the contacts that it was plugged between, and its beads from the lead on"""
    to: str = ""
    """the other end of a cord"""
    beads: tuple[Bead, ...] = ()
    """what was in it"""
    owners: tuple[str, ...] = ()
    """what the ends belonged to: a part with its choices, a board with the place of the hole"""
    stands: dict[str, str | float] = msgspec.field(default_factory=dict)
    """how what is set by hand stood"""
    called: tuple[str, ...] = ()
    """what its ends, or what was set, were called"""


class Reading(PlanItem):
    """What a meter showed at a point, with what was expected there at that time."""

    point: str
    """as `knotplan.core.meter.points` writes it"""
    value: float | None = None
    """ohm or volts; nothing where only a word was given"""
    says: Literal["", "ok", "no", "open"] = ""
    """a word instead of a number: as expected, not as expected, over the meter's range"""
    least: float | None = None
    """what was expected: from here to there; nothing for no limit"""
    most: float | None = None
    """the other end of what was expected"""

    @property
    def empty(self) -> bool:
        """Neither a number nor a word: a file may have lost it."""
        return self.value is None and not self.says

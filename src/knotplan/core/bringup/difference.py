"""What differs between plan and bench, why most likely, and what there is to do."""

from typing import Literal

from msgspec import Struct

from knotplan.core.plan.remedy import Remedy

Gravity = Literal["differs", "note"]
"""not as planned; or as planned, and worth knowing"""


class Spot(Struct, frozen=True):
    """Where in what came in: a file with line and column (from 1), and what stands there."""

    source: str
    line: int = 0
    column: int = 0
    text: str = ""

    @property
    def words(self) -> str:
        """ "lamp.c:12:8"."""
        numbers = [str(n) for n in (self.line, self.column) if n]
        return ":".join([self.source, *numbers])


class Difference(Struct, frozen=True):
    """One thing that is not as planned."""

    kind: str
    """a stable name, for files and programs: "address-missing" """
    gravity: Gravity
    title: str
    message: str
    """with its figures, and the likeliest cause"""
    subjects: tuple[str, ...]
    """parts and contacts of the plan"""
    spot: Spot | None = None
    remedies: tuple[Remedy, ...] = ()
    """edits with which the plan follows the bench"""
    look: tuple[str, ...] = ()
    """ties to look at again on the bench"""

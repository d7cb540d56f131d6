"""The plan: one board, its parts, ties, settings and accepted findings. Immutable.

Contacts are called ``board.p7`` (a pin or socket of the board) and ``lamp.anode`` (a lead of a part).
"""

from typing import Literal

import msgspec

from knotplan.catalog.boards import Board

FORMAT = "knotplan-plan"
VERSION = 1
BOARD = "board"

Turn = Literal[0, 90, 180, 270]
Pull = Literal["none", "up", "down"]


class _Item(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    pass


class _Bead(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag_field="kind"):
    ohm: float
    tolerance: float = 0.05

    def __post_init__(self) -> None:
        if not 0 < self.ohm <= 1e9:
            raise ValueError(f"a bead of {self.ohm:g} Ω is none that can be bought")
        if not 0 <= self.tolerance < 1:
            raise ValueError(f"a tolerance of {self.tolerance:g} is not between 0 and 1")


class SeriesResistor(_Bead, tag="resistor"):
    """A resistor in the tie."""

    rating_w: float = 0.25

    def __post_init__(self) -> None:
        super().__post_init__()
        if not 0 < self.rating_w <= 1e4:
            raise ValueError(f"a rating of {self.rating_w:g} W is none that can be bought")


class PullUp(_Bead, tag="pull-up"):
    """A resistor from the tie to the rail `rail` (a contact that is on it, such as ``board.p1``)."""

    rail: str = ""


class PullDown(_Bead, tag="pull-down"):
    """A resistor from the tie to the board's ground."""


Bead = SeriesResistor | PullUp | PullDown


class Tie(_Item):
    """One wire from a lead to a pin or to another lead; beads in order from the lead."""

    id: str
    lead: str
    to: str
    role: str = ""
    """what the program calls it"""
    pull: Pull = "none"
    """the pin's own pull that the program switches on (inputs only)"""
    cord: str = ""
    """colour; empty for the lead's usual one"""
    beads: tuple[Bead, ...] = ()


class PlacedPart(_Item):
    """A part on the bench."""

    id: str
    part: str
    name: str
    params: dict[str, str | float] = {}
    side: Literal["", "left", "right"] = ""
    """where the maker has nudged it; empty where the program places it"""


class Accepted(_Item):
    """A finding that the maker lives with; it returns when its message changes."""

    rule: str
    subjects: tuple[str, ...]
    message: str
    reason: str


class Plan(_Item):
    """The document."""

    board: str
    title: str = "Untitled"
    turned: Turn = 0
    flipped: bool = False
    scheme: str = ""
    """the names that are spoken; empty for the board's own choice"""
    series: str = "E12"
    """the preferred values that the maker has in the drawer"""
    set_up: tuple[str, ...] = ()
    """settings of the board's system that the maker changes from what they are at first"""
    carried: Board | None = None
    """the board itself, where it is one of the maker's own: the plan can be opened wherever it goes"""
    parts: tuple[PlacedPart, ...] = ()
    ties: tuple[Tie, ...] = ()
    accepted: tuple[Accepted, ...] = ()

    def part(self, part_id: str) -> PlacedPart:
        """The placed part of an id; raises KeyError."""
        for p in self.parts:
            if p.id == part_id:
                return p
        raise KeyError(part_id)

    def tie(self, tie_id: str) -> Tie:
        """The tie of an id; raises KeyError."""
        for t in self.ties:
            if t.id == tie_id:
                return t
        raise KeyError(tie_id)

    def tie_of(self, lead: str) -> Tie | None:
        """The first tie of a lead."""
        return next((t for t in self.ties if t.lead == lead), None)


def split(contact: str) -> tuple[str, str]:
    """(owner, contact) of a contact's id: ``lamp.anode`` is ``("lamp", "anode")``."""
    owner, _, name = contact.partition(".")
    return owner, name

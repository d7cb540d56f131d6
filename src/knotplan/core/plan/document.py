"""The plan: one board, its parts, ties, settings and accepted findings. Immutable.

Contacts are called ``board.p7`` (a pin or socket of the board) and ``lamp.anode`` (a lead of a part).
"""

from functools import lru_cache
from typing import Literal

import msgspec

from knotplan.catalog.board.board import Board
from knotplan.core.plan.assumptions import BY_ID as ASSUMPTIONS
from knotplan.core.plan.beads import Bead
from knotplan.core.plan.item import PlanItem
from knotplan.core.plan.wired import Reading, Wired
from knotplan.core.quantity.bounds import within
from knotplan.core.quantity.series import TOLERANCE

FORMAT = "knotplan-plan"
VERSION = 2
BOARD = "board"
MOST_S = 366 * 86400.0
"""a year: nothing on a bench lasts longer"""

Turn = Literal[0, 90, 180, 270]
Pull = Literal["none", "up", "down"]


class Tie(PlanItem):
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
    length_m: float = 0.0
    """of the cord; 0 for the usual one"""
    mm2: float = 0.0
    """copper cross-section of the cord; 0 for the usual one"""
    lay: Literal["", "ribbon", "twisted", "shielded"] = ""
    """how the cord lies beside the others of its part; empty for loose ones"""
    hertz: float = 0.0
    """of its pulses, as the maker wants them; 0 for the part's own"""
    fixed: bool = False
    """the maker's own choice: suggestions leave it where it is"""
    beads: tuple[Bead, ...] = ()

    def __post_init__(self) -> None:
        within("cord", self.length_m, "m", 0, 100)
        within("cord", self.mm2, "mm²", 0, 50)
        within("frequency", self.hertz, "Hz", 0, 1e8)


class PlacedPart(PlanItem):
    """A part on the bench."""

    id: str
    part: str
    name: str
    params: dict[str, str | float] = msgspec.field(default_factory=dict)
    side: Literal["", "left", "right"] = ""
    """where the maker has put it: on which side of the board (above it, below it where it lies across);
    empty where the program places it"""
    place: int = -1
    """where along that side, counted from its upper or left end; -1 where the program says"""
    shows: Literal["", "all", "folded"] = ""
    """its card: what is tied or has to be, all leads, or folded with everything that hangs on it"""
    settings: dict[str, str | float] = msgspec.field(default_factory=dict, name="asks")
    """what the program has it do, as the Timing view shows it: an angle, a brightness, a speed"""

    def setting(self, what: str, usual: float, least: float = -1e12) -> float:
        """A number that the program asks of it, or the usual one where it says none above `least`."""
        value = self.settings.get(what)
        return float(value) if isinstance(value, int | float) and value > least else usual


class CarriedPart(PlanItem):
    """A part of the maker's own, as its file says it, so that the plan can be opened wherever it goes."""

    id: str
    lines: tuple[str, ...]


class Activity(PlanItem):
    """Something that happens on the bench: which parts draw current for it, when, and what it excludes."""

    id: str
    title: str
    parts: tuple[str, ...] = ()
    starts_s: float = 0.0
    """in the plan's cycle"""
    lasts_s: float = 1.0
    every_s: float = 0.0
    """how often it comes again; 0 for once a cycle"""
    excludes: tuple[str, ...] = ()
    """activities that never go on at the same time"""

    def __post_init__(self) -> None:
        within("length", self.lasts_s, "s", 0, MOST_S, above=True)
        within("start", self.starts_s, "s", 0, MOST_S)
        within("time between two", self.every_s, "s", 0, MOST_S)


class BusClock(PlanItem):
    """The clock that the maker gives a bus."""

    unit: str
    """``board.i2c:1``; with a group of pins ``board.i2c:1~2``; with the pin of its clock
    ``board.spi:any@board.p3``; ``pins@board.p3`` where a program drives it"""
    hz: float

    def __post_init__(self) -> None:
        within("bus clock", self.hz, "Hz", 0, 1e9, above=True)


class Assumed(PlanItem):
    """A figure that the maker has another value for than the usual one."""

    id: str
    value: float


class Accepted(PlanItem):
    """A finding that the maker lives with; it returns when the figures in its message change."""

    rule: str
    subjects: tuple[str, ...]
    message: str
    reason: str


class Plan(PlanItem):
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
    carried_parts: tuple[CarriedPart, ...] = ()
    parts: tuple[PlacedPart, ...] = ()
    ties: tuple[Tie, ...] = ()
    accepted: tuple[Accepted, ...] = ()
    activities: tuple[Activity, ...] = ()
    cycle_s: float = 60.0
    """after which everything that happens begins anew"""
    clocks: tuple[BusClock, ...] = ()
    """of buses that do not run at their usual one"""
    assumes: tuple[Assumed, ...] = ()
    """what the maker assumes otherwise than usual"""
    wired: tuple[Wired, ...] = ()
    """what has been done at the bench so far, as it was done"""
    readings: tuple[Reading, ...] = ()
    """what the maker's meter has shown"""

    def __post_init__(self) -> None:
        within("cycle", self.cycle_s, "s", 0, MOST_S, above=True)

    @property
    def resistor_tolerance(self) -> float:
        """Of resistors that are chosen: as assumed, else what is customary for the drawer's series."""
        return self.assumed("tolerance") or TOLERANCE[self.series]

    def assumed(self, assumption: str) -> float:
        """A figure that is assumed: as the maker says, else the usual one; raises KeyError."""
        own = next((a.value for a in self.assumes if a.id == assumption), None)
        return ASSUMPTIONS[assumption].usual if own is None else own

    def activity(self, activity_id: str) -> Activity:
        """The activity of an id; raises KeyError."""
        for a in self.activities:
            if a.id == activity_id:
                return a
        raise KeyError(activity_id)

    def part(self, part_id: str) -> PlacedPart:
        """The placed part of an id; raises KeyError."""
        for p in self.parts:
            if p.id == part_id:
                return p
        raise KeyError(part_id)

    def clock(self, unit: str) -> float:
        """The clock that the maker gives a bus, Hz; 0 for its usual one."""
        return next((c.hz for c in self.clocks if c.unit == unit), 0.0)

    def tie(self, tie_id: str) -> Tie:
        """The tie of an id; raises KeyError."""
        for t in self.ties:
            if t.id == tie_id:
                return t
        raise KeyError(tie_id)

    def tie_of(self, lead: str) -> Tie | None:
        """The first tie of a lead."""
        return next((t for t in self.ties if t.lead == lead), None)


@lru_cache(65536)
def split(contact: str) -> tuple[str, str]:
    """(owner, contact) of a contact's id: ``lamp.anode`` is ``("lamp", "anode")``."""
    owner, _, name = contact.partition(".")
    return owner, name

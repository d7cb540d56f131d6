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
    """its own name in the plan"""
    lead: str
    """what it begins at: part and lead, `lamp.anode`"""
    to: str
    """what it goes to: a pin, `board.p7`, or another lead"""
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
    """components in it or from it, from the lead on"""

    def __post_init__(self) -> None:
        within("cord", self.length_m, "m", 0, 100)
        within("cord", self.mm2, "mm²", 0, 50)
        within("frequency", self.hertz, "Hz", 0, 1e8)


class PlacedPart(PlanItem):
    """A part on the bench."""

    id: str
    """its own name in the plan"""
    part: str
    """the catalogue's part"""
    name: str
    """what it is called on the bench"""
    params: dict[str, str | float] = msgspec.field(default_factory=dict)
    """what was chosen about it, where that is not the usual"""
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
    """its name in the catalogue"""
    lines: tuple[str, ...]
    """its file, line by line"""


class Activity(PlanItem):
    """Something that happens on the bench: which parts draw current for it, when, and what it excludes."""

    id: str
    """its own name in the plan"""
    title: str
    """what it is called"""
    parts: tuple[str, ...] = ()
    """the parts that draw current for it"""
    starts_s: float = 0.0
    """in the plan's cycle"""
    lasts_s: float = 1.0
    """how long it lasts, s"""
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
    """the clock, Hz"""

    def __post_init__(self) -> None:
        within("bus clock", self.hz, "Hz", 0, 1e9, above=True)


class Assumed(PlanItem):
    """A figure that the maker has another value for than the usual one."""

    id: str
    """which figure"""
    value: float
    """what it is here, in its SI unit"""


class Accepted(PlanItem):
    """A finding that the maker lives with; it returns when the figures in its message change."""

    rule: str
    """the rule that finds it"""
    subjects: tuple[str, ...]
    """what it is about"""
    message: str
    """as it was when it was accepted"""
    reason: str
    """why the maker lives with it"""


class Plan(PlanItem):
    """The document."""

    board: str
    """the catalogue's board"""
    title: str = "Untitled"
    """what the plan is called"""
    turned: Turn = 0
    """how the board lies on the screen, degrees clockwise"""
    flipped: bool = False
    """the board is seen from below"""
    scheme: str = ""
    """the names that are spoken; empty for the board's own choice"""
    series: str = "E12"
    """the preferred values that the maker has in the drawer"""
    set_up: tuple[str, ...] = ()
    """settings of the board's system that the maker changes from what they are at first"""
    carried: Board | None = None
    """the board itself, where it is one of the maker's own: the plan can be opened wherever it goes"""
    carried_parts: tuple[CarriedPart, ...] = ()
    """parts of the maker's own that it uses"""
    parts: tuple[PlacedPart, ...] = ()
    """the parts on the bench"""
    ties: tuple[Tie, ...] = ()
    """the planned wires"""
    accepted: tuple[Accepted, ...] = ()
    """findings that the maker lives with"""
    activities: tuple[Activity, ...] = ()
    """what happens on the bench"""
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

"""The bench: the board turned as it lies, the parts around it, each lead in its place.

Pure geometry in points, as in `board_place`; `layout` makes it.
"""

from typing import NamedTuple

from msgspec import Struct

from knotplan.core.drawing.loom.board_place import PITCHES, PinSpot
from knotplan.core.drawing.loom.form import FULL, Detail, Form, Side
from knotplan.core.plan.document import split

LOOP_LEAST, LOOP_MORE, LOOP_MOST = 10.0, 0.15, 60.0
"""how far outside a cord goes round from one lead to another on the same side: for the nearest, more by their
distance so that one lies within another, and never further"""
BESIDE_EMPTY = 236.0
"""room beside a board that nothing is tied to yet, for what to do next"""


def loop_of(apart: float) -> float:
    """How far outside a cord goes round between two leads."""
    return min(LOOP_MOST, LOOP_LEAST + LOOP_MORE * apart)


class Setting(NamedTuple):
    """How roomy a bench is drawn."""

    detail: Detail = FULL
    pitch: float = PITCHES[0]
    """points for one pitch of a header"""
    lanes: int = 1
    """cards one behind another at each side of the board"""
    stacked: bool = False
    """what hangs on a hub stands below it, else beyond it"""


class LeadSpot(Struct, frozen=True):
    """A lead on its card."""

    contact: str
    x: float
    y: float
    """where its cord begins"""
    out: tuple[float, float]
    """the way its cord leaves: (1, 0) to the right, (0, 1) down"""
    box: tuple[float, float, float, float]
    """x, y, w, h of what belongs to it on the card"""
    way: tuple[tuple[float, float], ...] = ()
    """places that a cord to the board passes first"""
    tag: bool = False
    """a supply or a ground: its cord is drawn while it is selected"""


class Card(Struct, frozen=True):
    """A part."""

    part: str
    side: Side
    x: float
    y: float
    form: Form
    leads: tuple[LeadSpot, ...]
    channel: tuple[float, ...] = ()
    """through which its cords come to the board, where other cards stand before it: the place of the first
    along the side, and the two ends across"""

    @property
    def w(self) -> float:
        """Its width."""
        return self.form.w

    @property
    def h(self) -> float:
        """Its height."""
        return self.form.h

    @property
    def foot(self) -> tuple[float, float, float, float] | None:
        """x, y, w, h of what folds and unfolds it, if it has that."""
        if self.form.foot is None:
            return None
        x, y, w, h = self.form.foot
        return self.x + x, self.y + y, w, h

    def on_foot(self, x: float, y: float) -> bool:
        """A place on what folds and unfolds it."""
        foot = self.foot
        return foot is not None and 0 <= x - foot[0] <= foot[2] and 0 <= y - foot[1] <= foot[3]


class Bench(Struct, frozen=True):
    """Everything placed."""

    board: tuple[float, float, float, float]
    """x, y, w, h"""
    lying: bool
    """parts stand above and below the board, else beside it"""
    setting: Setting
    alley: float
    """width of the space for cords"""
    pins: dict[str, PinSpot]
    cards: tuple[Card, ...]
    by_part: dict[str, Card]
    leads: dict[str, LeadSpot]
    """those that are shown"""
    inside: dict[str, str] = {}
    """parts that are folded into a hub's card"""
    order: dict[str, tuple[str, ...]] = {}
    """cards by side, along the board"""
    ends: dict[str, tuple[float, ...]] = {}
    """where each card's cords end: what its place depends on"""
    loops: dict[str, float] = {}
    """how far outside cords go round from one card to another, by side"""
    nudged: frozenset[str] = frozenset()
    """parts that the maker has put on a side"""
    room: tuple[float, float] = (0.0, 0.0)
    """the place for which it was laid out, in pixels; nothing for a file or a sheet"""

    round_corners: frozenset[str] = frozenset()
    """pins whose cords leave over an edge that no parts stand at"""

    def bounds(self) -> tuple[float, float, float, float]:
        """x, y, w, h of everything."""
        x, y, w, h = self.board
        left, top, right, bottom = x, y, x + w, y + h
        for card in self.cards:
            loop = self.loops.get(card.side, 0.0)
            left = min(left, card.x - (loop if card.side == "left" else 0.0))
            top = min(top, card.y - (loop if card.side == "above" else 0.0))
            right = max(right, card.x + card.w + (loop if card.side == "right" else 0.0))
            bottom = max(bottom, card.y + card.h + (loop if card.side == "below" else 0.0))
        if not self.cards:
            left, right = left - BESIDE_EMPTY, right + BESIDE_EMPTY
        # cords that come round a corner pass beside the board, one within another
        beyond = 30 + 0.1 * (h if self.lying else w)
        ways = {s.out[not self.lying] for s in self.pins.values() if s.contact in self.round_corners}
        if self.lying:
            left, right = left - beyond * (-1.0 in ways), right + beyond * (1.0 in ways)
        else:
            top, bottom = top - beyond * (-1.0 in ways), bottom + beyond * (1.0 in ways)
        return left, top, right - left, bottom - top

    def card(self, part: str) -> Card:
        """The card of a part, or of the hub into which it is folded; raises KeyError."""
        return self.by_part[self.inside.get(part, part)]

    def spot(self, contact: str) -> LeadSpot | None:
        """Where a lead is shown; where it is not, the lower end of its card."""
        spot = self.leads.get(contact)
        owner = split(contact)[0]
        card = self.by_part.get(self.inside.get(owner, owner))
        if spot is not None or card is None:
            return spot
        x, y, w, h = box = card.x, card.y, card.w, card.h
        match card.side:
            case "left":
                return LeadSpot(contact, x + w, y + h - 9, (1.0, 0.0), box)
            case "right":
                return LeadSpot(contact, x, y + h - 9, (-1.0, 0.0), box)
            case "above":
                return LeadSpot(contact, x + w / 2, y + h, (0.0, 1.0), box)
            case _:
                return LeadSpot(contact, x + w / 2, y, (0.0, -1.0), box)

"""What the engine solves by itself: nodes, resistances, junctions, and
the cases in which they are looked at."""

from typing import Literal

from msgspec import Struct

from knotplan.catalog.part import elements as kinds
from knotplan.catalog.quantities import Range
from knotplan.core.engine.keys import Key
from knotplan.core.engine.readings import Case
from knotplan.core.engine.solver.junction import Junction
from knotplan.core.plan.beads import (
    LevelShifter,
)
from knotplan.core.plan.document import Tie

OPEN_OHM = 1e12
"""an open contact, or a pin's transistor that is off"""


Varying = Key | str
"""what varies by itself: an element, a pin, or the voltage of a net by its name"""


class Bar(Struct, frozen=True):
    """A resistance between two nodes; its value may differ from case to case."""

    key: Key
    a: str
    b: str
    ohm: tuple[Range, ...]
    """one for all cases, or one for each"""
    spread: Varying = ""
    """what its spread belongs to, where it has one; equal ones vary together"""


class Drop(Struct, frozen=True):
    """A junction between two nodes, or one of the two ports of a transistor."""

    key: Key
    a: str
    b: str
    junction: Junction
    spread_v: float
    third: str = ""
    """the node that has a share of its current"""
    at: Literal["a", "b"] = "a"
    square: bool = False
    offset_v: float = 0.0
    share: Range = Range.exactly(1.0)
    spread: Varying = ""
    """what its spread belongs to, where several vary together"""
    shares: Varying = ""
    """what the spread of its share belongs to"""

    @property
    def touched(self) -> tuple[str, ...]:
        """The nodes that it lies between."""
        return (self.a, self.b, self.third) if self.third else (self.a, self.b)


class Offset(Struct, frozen=True):
    """A given voltage that lies beside another one: what a bipolar driver's high
    and low stay away from their rails."""

    net: str
    by_v: float


class Cluster(Struct):
    """One independent part of the network."""

    nodes: list[str] = []
    fixed: list[str] = []
    offsets: dict[str, Offset] = {}
    """those among the fixed nodes that are no nets of their own"""
    bars: list[Bar] = []
    drops: list[Drop] = []
    pins: list[str] = []
    """contacts of the pins in it"""
    loads: tuple[str, ...] = ()
    """parts in it that are coils or motors; else the one part in it that is no hub"""
    contacts: list[tuple[str, str]] = []
    """(part id, element name) of each switch and track"""
    cases: list[Case] = []
    volts: list[Range] = []
    """of the fixed nodes"""
    fed: frozenset[str] = frozenset()
    """those nets of the fixed nodes that have a supply"""
    ground: str = ""

    @property
    def homes(self) -> list[str]:
        """The supplied net that each fixed node belongs to."""
        return [self.offsets[n].net if n in self.offsets else n for n in self.fixed]

    @property
    def varying(self) -> list[Varying]:
        """The names of what varies in it, each by itself."""
        names: list[Varying] = [b.spread for b in self.bars if b.spread]
        names += [d.spread or d.key for d in self.drops if d.spread_v] + [
            d.shares for d in self.drops if d.shares
        ]
        names += [n for n in self.homes if n != self.ground]
        return list(dict.fromkeys(names))


class Movable(Struct, frozen=True):
    """An element whose value depends on the case."""

    part: str
    name: str
    element: kinds.Switch | kinds.Track | kinds.Varies | kinds.Talks


class Shifter(Struct, frozen=True):
    """A level shifter in a tie, between the net of the lead's side and that of the pin's."""

    key: Key
    tie: Tie
    bead: LevelShifter
    lead_side: str
    pin_side: str

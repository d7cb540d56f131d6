"""What each part and each tie brings into the network by itself."""

from collections.abc import Iterable

from msgspec import Struct

from knotplan.catalog.part import elements as kinds
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import ELEMENTS, having
from knotplan.core.circuit.keys import pins_in_use
from knotplan.core.engine.cluster import Bar, Drop, Movable, Shifter
from knotplan.core.engine.elements import Builder
from knotplan.core.memory.question import each
from knotplan.core.plan.document import BOARD, split

Piece = Bar | Drop | Movable | Shifter
Owner = tuple[str, str]
"""("part", its id) or ("tie", its id)"""


class Pieces(Struct, frozen=True):
    """The elements of one part, or the beads of one tie."""

    bars: tuple[Bar, ...]
    drops: tuple[Drop, ...]
    movables: tuple[Movable, ...]
    shifters: tuple[Shifter, ...]
    loads: tuple[Bar, ...]
    """those of the bars that are loads: coils, motors, what is fed over beads"""

    @property
    def all(self) -> tuple[Piece, ...]:
        """One kind after another."""
        return (*self.bars, *self.drops, *self.movables, *self.shifters)


def _made(build: Builder) -> Pieces | None:
    pieces = Pieces(
        tuple(build.bars),
        tuple(build.drops),
        tuple(build.movables),
        tuple(build.shifters),
        tuple(bar for bar in build.bars if bar.key in build.loads),
    )
    return pieces if pieces.all else None


def _with_elements(c: Circuit) -> Iterable[str]:
    return having(c, ELEMENTS)


@each(_with_elements)
def of_part(c: Circuit, part_id: str) -> Pieces | None:
    """The elements of a part; nothing where it has none that the engine solves."""
    build = Builder(c)
    build.part(part_id)
    return _made(build)


def _with_beads(c: Circuit) -> Iterable[str]:
    return [tie.id for tie in c.ties if tie.beads]


@each(_with_beads)
def of_tie(c: Circuit, tie_id: str) -> Pieces | None:
    """The beads of a tie that carry current."""
    build = Builder(c)
    build.tie(c.ties.by_id[tie_id])
    return _made(build)


def ends_of(c: Circuit, piece: Piece) -> tuple[str, ...]:
    """The nodes that a piece lies between."""
    match piece:
        case Bar():
            return piece.a, piece.b
        case Drop():
            return piece.touched
        case Movable():
            third = {kinds.Track: "wiper", kinds.Talks: "low"}.get(type(piece.element))
            names = [piece.element.a, piece.element.b, *([getattr(piece.element, third)] if third else [])]
            build = Builder(c)
            return tuple(build.node(piece.part, n) for n in names)
        case Shifter():
            return piece.lead_side, piece.pin_side


def _parts_with_pieces(c: Circuit) -> Iterable[str]:
    return of_part.all(c).keys()


def _ties_with_pieces(c: Circuit) -> Iterable[str]:
    return of_tie.all(c).keys()


Ends = tuple[tuple[str, tuple[str, ...]], ...]
"""(kind, nodes) of each piece, in their order"""


def _ends(c: Circuit, pieces: Pieces | None) -> Ends:
    if pieces is None:
        return ()
    return tuple((type(piece).__name__, ends_of(c, piece)) for piece in pieces.all)


@each(_parts_with_pieces)
def ends_of_part(c: Circuit, part_id: str) -> Ends:
    """Between which nodes the pieces of a part lie: what stays the same when only values change."""
    return _ends(c, of_part(c, part_id))


@each(_ties_with_pieces)
def ends_of_tie(c: Circuit, tie_id: str) -> Ends:
    """The same of a tie."""
    return _ends(c, of_tie(c, tie_id))


@each(pins_in_use)
def node_of_pin(c: Circuit, contact: str) -> str:
    """The node at which a pin in use does something; empty where it does nothing: a hub's while its supply or
    its ground are not tied."""
    return c.nets.of(contact) if _alive(c, contact) else ""


def _alive(c: Circuit, contact: str) -> bool:
    if split(contact)[0] == BOARD:
        return True
    if not c.contacts.pins[contact].driver:
        return False
    driver = c.hardware.driver(contact)
    if driver.element:
        return False  # the engine has the transistor itself
    known = Builder(c).known
    return c.nets.low(contact) in known and (not driver.rail or c.nets.high(contact) in known)

"""A bench in pieces: what lies between contacts, with every cord a piece of its own.

The engine's own elements (`knotplan.core.engine.elements`) between contacts instead of nets, because a fault
parts what the plan joins. A tie has two ends of its own, ``tie#lead`` and ``tie#pin``: an end that is plugged
elsewhere, or nowhere, changes nothing else.
"""

from collections.abc import Iterator
from typing import Literal

from msgspec import Struct

from knotplan.catalog.part import elements as kinds
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.nets import GROUND, rail_name
from knotplan.core.engine.case_bars import movable_bars, pin_bars, shifter_bars
from knotplan.core.engine.cases import MOVES
from knotplan.core.engine.cluster import OPEN_OHM, Bar, Drop
from knotplan.core.engine.elements import Builder
from knotplan.core.engine.keys import Key, of_bead, of_part
from knotplan.core.engine.readings import Case
from knotplan.core.plan.beads import Parting, rails_of
from knotplan.core.plan.document import BOARD, Tie, split

LEAST_RAIL_OHM = 10.0
"""what an unpowered board has at least between a rail and ground, where nobody says: anything but a short"""
INPUT_OHM = 5e5
"""resistances of parts above this are those of chips' inputs, which are anything while nothing is on"""
TURNED_OFF = Range(0.7, 1.0, 1.4)
"""how far a standing motor's winding may lie from its stall resistance, by the brushes' places"""

Moment = Literal["off", "on"]


class Piece(Struct, frozen=True):
    """What lies between some nodes; its resistances may have one value for each of its states."""

    bars: tuple[Bar, ...] = ()
    drops: tuple[Drop, ...] = ()
    states: int = 1
    alive: str = ""
    """the node that has to be powered for it to do anything; empty for what always does"""

    @property
    def ends(self) -> tuple[str, ...]:
        """The nodes that it touches."""
        touched = [n for b in self.bars for n in (b.a, b.b)] + [n for d in self.drops for n in d.touched]
        return tuple(dict.fromkeys(touched))


class Chain(Struct, frozen=True):
    """A tie as it lies: its nodes from the lead's end to the other one, and the beads between and beside."""

    nodes: tuple[str, ...]
    between: tuple[int | None, ...]
    """the bead between each node and the next; nothing for bare cord"""


def lead_end(tie: str) -> str:
    """The end of a tie at its lead, as a node."""
    return f"{tie}#lead"


def pin_end(tie: str) -> str:
    """The end of a tie at its other contact, as a node."""
    return f"{tie}#pin"


def is_inner(node: str) -> bool:
    """A node between a junction and the resistance in series with it."""
    return node.endswith("~")


class Apart(Builder):
    """Collects elements between contacts, none of them joined."""

    def __init__(self, circuit: Circuit, moment: Moment):
        super().__init__(circuit)
        self.known = {GROUND}
        self.moment = moment

    def net(self, contact: str) -> str:
        """Every contact is a node of its own."""
        return contact

    def high(self, pin: str) -> str:
        """The rail itself, whatever is joined to it."""
        driver, part = self.c.hardware.driver(pin), split(pin)[0]
        return rail_name(driver.rail) if part == BOARD else f"{part}.{driver.rail}"

    def low(self, pin: str) -> str:
        """The ground lead itself."""
        part = split(pin)[0]
        return GROUND if part == BOARD else f"{part}.{self.c.parts[part].ground}"

    def forget(self) -> None:
        """Begins anew, after what was collected has been taken over."""
        self.bars, self.drops, self.movables, self.shifters = [], [], [], []

    def load(self, key: Key, part_id: str, e: kinds.Load) -> None:
        """What a part draws, as a resistance; with nothing on, no more than that can be said: anything up to
        an open one."""
        if not e.worst_a:
            return
        origin = self.c.supplies.origin(f"{part_id}.{e.a}")
        volts = origin.volts.typ if origin is not None else self.c.board.logic_v
        least, usual = volts / e.worst_a, volts / max(e.usual_a, 1e-6)
        ohm = Range(least, OPEN_OHM, OPEN_OHM) if self.moment == "off" else Range(least, usual, 10 * usual)
        self.bars.append(Bar(key, self.node(part_id, e.a), self.node(part_id, e.b), (ohm,), key))


class Pieces:
    """The pieces of a circuit at one moment: with nothing on, or with supplies on and no program running."""

    def __init__(self, circuit: Circuit, moment: Moment):
        self.c, self.moment = circuit, moment
        self.build = Apart(circuit, moment)
        self.offsets = self.build.offsets
        self.of_bead: dict[tuple[str, int], list[Piece]] = {}
        self.fixed: list[Piece] = [*self._of_parts(), *self._of_board()]
        self._pins: dict[str, list[Piece]] = {}

    def _of_parts(self) -> Iterator[Piece]:
        build = self.build
        for part in self.c.parts:
            build.part(part)
        bars, drops, movables = build.bars, build.drops, build.movables
        build.forget()
        yield from (Piece((self._standing(b),)) for b in bars)
        yield from (Piece((), (d,)) for d in drops)
        for m in movables:
            if isinstance(m.element, kinds.Talks) and self.moment == "off":
                continue
            states = MOVES[type(m.element)]
            cases = [Case("power-on", (), ((of_part(m.part, m.name), s),)) for s in states]
            alive = build.node(m.part, m.element.b) if isinstance(m.element, kinds.Talks) else ""
            yield Piece(tuple(movable_bars(build, m, cases)), (), len(states), alive)

    def _standing(self, bar: Bar) -> Bar:
        """With nothing on: a motor's winding has what it has when it is stalled, and what a chip's input is
        worth nobody knows."""
        if self.moment == "on":
            return bar
        element = (
            self.c.parts[bar.key.part].elements.get(bar.key.element) if bar.key.part in self.c.parts else None
        )
        (ohm, *_) = bar.ohm
        if isinstance(element, kinds.Motor):
            stalled = element.volts / element.stall_a
            ohm = Range(TURNED_OFF.min * stalled, stalled, TURNED_OFF.max * stalled)
        elif ohm.min >= INPUT_OHM:
            ohm = Range(INPUT_OHM, OPEN_OHM, OPEN_OHM)
        return Bar(bar.key, bar.a, bar.b, (ohm,), bar.key)

    def _of_board(self) -> Iterator[Piece]:
        """What the board itself has between its rails and ground."""
        for name, rail in self.c.board.rails.items():
            key = of_part(BOARD, rail_name(name))
            least = rail.volts.typ / rail.own_worst_a if rail.own_worst_a else LEAST_RAIL_OHM
            yield Piece((Bar(key, rail_name(name), GROUND, (Range(least, OPEN_OHM, OPEN_OHM),), key),))

    def base_of(self, node: str) -> str:
        """The node itself; of a voltage beside another one, that one."""
        offset = self.offsets.get(node)
        return offset.net if offset else node

    def tie(self, tie: Tie) -> tuple[Chain, dict[int, list[Piece]]]:
        """A tie's nodes, and the pieces of each of its beads."""
        build = self.build
        count = sum(isinstance(b, Parting) for b in tie.beads)
        nodes = [lead_end(tie.id)]
        between: list[int | None] = []
        pieces: dict[int, list[Piece]] = {}
        for k, bead in enumerate(tie.beads):
            here = there = nodes[-1]
            if isinstance(bead, Parting):
                there = pin_end(tie.id) if len(between) + 1 == count else f"{tie.id}#{len(between) + 1}"
                between.append(k)
                nodes.append(there)
            if not all(rail for _, rail in rails_of(bead)):
                continue
            build.bead(tie, of_bead(tie.id, k), bead, here, there)
            pieces[k] = [Piece((b,)) for b in build.bars] + [Piece((), (d,)) for d in build.drops]
            for shifter in build.shifters:
                says: list[bool | None] = [True, False, None] if self.moment == "on" else [None]
                bars = tuple(shifter_bars(build, shifter, says))
                pieces[k].append(Piece(bars, (), len(says)))
            build.forget()
        if not count:
            nodes.append(pin_end(tie.id))
            between.append(None)
        return Chain(tuple(nodes), tuple(between)), pieces

    def pin(self, contact: str) -> list[Piece]:
        """What a signal pin does before a program runs; with nothing on, the resistors fitted to it alone."""
        if contact not in self._pins:
            self._pins[contact] = list(self._of_pin(contact))
        return self._pins[contact]

    def _of_pin(self, contact: str) -> Iterator[Piece]:
        pin = self.c.contacts.pin(contact)
        if pin is None or pin.kind != "io" or not pin.driver:
            return
        if split(contact)[0] != BOARD and self.c.hardware.driver(contact).element:
            return  # the engine has the transistor itself
        levels = [s for w in pin.power_on_states for s in (("low", "high") if w == "toggling" else (w,))]
        states = list(dict.fromkeys(levels))
        bars = pin_bars(self.build, contact, contact, [Case("power-on", ((contact, s),), ()) for s in states])
        fitted = tuple(b for b in bars if len(b.ohm) == 1 and b.key.which in ("fitted", "strap"))
        driven = tuple(b for b in bars if b not in fitted)
        if fitted:
            yield Piece(fitted)
        if self.moment == "on":
            driver = self.c.hardware.driver(contact)
            yield Piece(driven, (), len(states), self.build.high(contact) if driver.rail else "")

"""Nets: contacts that are joined without a bead between, and what hubs pass on from one to another."""

from collections.abc import Iterable, Iterator, Mapping
from functools import cached_property

from msgspec import Struct

from knotplan.catalog.board.board import Board
from knotplan.catalog.part.needs import Coupled, Supply
from knotplan.catalog.part.part import Part
from knotplan.core.circuit.contacts import Contacts, handing
from knotplan.core.circuit.hardware import Hardware
from knotplan.core.circuit.ties import Ties
from knotplan.core.memory.memory import Memory
from knotplan.core.memory.question import fact, table
from knotplan.core.plan.beads import Parting, SeriesResistor, lets_in
from knotplan.core.plan.document import BOARD, Tie, split

GROUND = "net:ground"
"""the board's ground, as the name of a net: one that no part can have"""


def rail_name(rail_id: str) -> str:
    """What a rail of the board is called among contacts, and in the tree of supplies."""
    return f"rail:{rail_id}"


class _Parted(Struct, frozen=True, eq=False):
    """Contacts by nets, and nets by contacts."""

    roots: dict[str, str]
    members: dict[str, list[str]]


class Nets:
    """What is joined to what."""

    def __init__(
        self,
        memory: Memory,
        board: Board,
        parts: Mapping[str, Part],
        ties: Ties,
        contacts: Contacts,
        hardware: Hardware,
    ):
        self.memory, self._board, self._parts = memory, board, parts
        self._ties, self._contacts, self._hardware = ties, contacts, hardware
        memory.about(self)

    def joints(self) -> Iterator[tuple[str, str, Tie | None]]:
        """Every pair that is joined with nothing between, with the tie that
        joins it (nothing: the board itself)."""
        yield from ((contact, net, None) for contact, net in self._on_board.items())
        yield from ((tie.lead, tie.to, tie) for tie in self._ties if not _parts(tie))

    @cached_property
    def _on_board(self) -> dict[str, str]:
        """Supply and ground pins of the board, with the rail or ground that they are on."""
        pins = self._board.pins.items()
        nets = {"ground": lambda pin: GROUND, "supply": lambda pin: rail_name(pin.rail)}
        return {f"{BOARD}.{pin_id}": nets[pin.kind](pin) for pin_id, pin in pins if pin.kind in nets}

    @fact
    def _parted(self) -> _Parted:
        """What is joined with nothing between; by difference where it was known before an edit."""
        known, others = Nets._parted.known(self), self._ties.others()
        if known is None or others is None:
            roots = _joined((a, b) for a, b, _ in self.joints())
            return _Parted(roots, _by_root(roots))
        ends = {end for tie in others for end in (tie.lead, tie.to)}
        gone = {known.roots.get(end, end) for end in ends}
        mended = self._joined_at(ends.union(*(known.members.get(net, ()) for net in gone)))
        roots = {contact: net for contact, net in known.roots.items() if net not in gone}
        members = {net: contacts for net, contacts in known.members.items() if net not in gone}
        return _Parted(roots | mended, members | _by_root(mended))

    def _joined_at(self, contacts: set[str]) -> dict[str, str]:
        """The nets of some contacts, which together make up whole nets."""
        own = self._on_board.items()
        joints = [(at, net) for at, net in own if at in contacts or net in contacts]
        ties = self._ties.in_order(tie for at in contacts for tie in self._ties.at.get(at, ()))
        return _joined([*joints, *((tie.lead, tie.to) for tie in ties if not _parts(tie))])

    @table
    def _roots(self) -> dict[str, str]:
        """The name of each contact's net. To look up: its order means nothing."""
        return self._parted.roots

    @table
    def members(self) -> dict[str, list[str]]:
        """The contacts of each net. To look up: its order means nothing."""
        return self._parted.members

    def of(self, contact: str) -> str:
        """The name of the net that a contact is on; a contact without ties is a net of its own."""
        return self._roots.get(contact, contact)

    @fact
    def ground(self) -> str:
        """The net of the board's ground."""
        return self.of(GROUND)

    def is_ground(self, contact: str) -> bool:
        """The contact is on the board's ground."""
        return self.of(contact) == self.ground

    def high(self, contact: str) -> str:
        """The net that a pin's high comes from."""
        driver, part_id = self._hardware.driver(contact), split(contact)[0]
        return self.of(rail_name(driver.rail) if part_id == BOARD else f"{part_id}.{driver.rail}")

    def low(self, contact: str) -> str:
        """The net that a pin's low goes to."""
        part_id = split(contact)[0]
        return self.ground if part_id == BOARD else self.of(f"{part_id}.{self._parts[part_id].ground}")

    @fact
    def _live(self) -> frozenset[str]:
        """Nets on which a supply or ground lies itself."""
        sources = [f"{p}.{part.source.plus}" for p, part in self._parts.items() if part.source]
        return frozenset(self.of(x) for x in (GROUND, *map(rail_name, self._board.rails), *sources))

    def comes_in_at(self, contact: str) -> bool:
        """A supply or ground is tied to a relay's contact itself, and leaves at its common one."""
        via = f"{split(contact)[0]}.{self._contacts.via(contact)}"
        return self.passed_on.get(self.of(via)) == self.of(contact)

    @table
    def _handing(self) -> dict[str, str]:
        """Hubs' contacts that hand a supply on: {contact: over which other one}; empty for outputs that
        switch it."""
        return {
            f"{part_id}.{name}": via and f"{part_id}.{via}"
            for part_id, part in self._parts.items()
            for name, via in handing(part).items()
        }

    @table
    def passed_on(self) -> dict[str, str]:
        """Nets that get what they have from another one over a hub: {net: the net that it comes from}."""
        passed_on: dict[str, str] = {}
        for contact, via in self._handing.items():
            if not via:
                passed_on.setdefault(self.of(contact), self.high(contact))
                continue
            here, common = self.of(contact), self.of(via)
            if here not in self._live:
                passed_on.setdefault(here, common)
            elif common not in self._live:
                passed_on.setdefault(common, here)
        for tie in self._ties:  # over a diode or a resistor a supply goes on, a little lower
            if tie.beads and self._feeds_over(tie):
                passed_on.setdefault(self.of(tie.lead), self.of(tie.to))
        return passed_on

    def _feeds_over(self, tie: Tie) -> bool:
        """A tie that feeds its lead over beads which let current through."""
        lead = self._contacts.lead(tie.lead)
        parting = [b for b in tie.beads if isinstance(b, Parting)]
        return (
            lead is not None
            and isinstance(lead.needs[0], Supply | Coupled)
            and bool(parting)
            and all(isinstance(b, SeriesResistor) or lets_in(b) for b in parting)
        )


def _parts(tie: Tie) -> bool:
    """Something lies between a tie's two ends."""
    return bool(tie.beads) and any(isinstance(b, Parting) for b in tie.beads)


def _joined(pairs: Iterable[tuple[str, str]]) -> dict[str, str]:
    """The name of the set in which each thing is once pairs are joined, in the order in which they come: one
    of its own things, that which the last pair led to. (Tarjan, 1975, with halved ways.)"""
    root: dict[str, str] = {}

    def find(c: str) -> str:
        while (up := root[c]) != c:
            root[c] = c = root[up]
        return c

    for a, b in pairs:
        one = find(a) if a in root else root.setdefault(a, a)
        root[one] = find(b) if b in root else root.setdefault(b, b)
    return {c: find(c) for c in root}


def _by_root(roots: dict[str, str]) -> dict[str, list[str]]:
    members: dict[str, list[str]] = {}
    for contact, root in roots.items():
        members.setdefault(root, []).append(contact)
    return members

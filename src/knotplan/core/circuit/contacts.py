"""Every contact of a plan, and what it offers."""

from collections.abc import Collection, Iterator, Mapping

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.derived import derived
from knotplan.catalog.part.lead import Lead
from knotplan.catalog.part.part import Part
from knotplan.core.memory.memory import Memory
from knotplan.core.memory.question import table
from knotplan.core.names.book import LABEL
from knotplan.core.plan.document import BOARD, split


class _Pins(Mapping[str, Pin]):
    """Everything that parts can be tied to, by contact: the board's pins, then those of hubs."""

    def __init__(self, board: Board, parts: Mapping[str, Part]):
        self._board, self._parts = board, parts

    def __getitem__(self, contact: str) -> Pin:
        owner, name = split(contact)
        return self._board.pins[name] if owner == BOARD else hub_pins(self._parts[owner])[name]

    def __iter__(self) -> Iterator[str]:
        yield from (f"{BOARD}.{name}" for name in self._board.pins)
        for part_id, part in self._parts.items():
            yield from (f"{part_id}.{name}" for name in hub_pins(part))

    def __len__(self) -> int:
        return sum(1 for _ in self)


class _Offers(Collection[str]):
    """Every contact that offers something, in order: pins, sockets, supplies' leads, what hubs offer."""

    def __init__(self, board: Board, parts: Mapping[str, Part]):
        self._board, self._parts = board, parts

    def __contains__(self, contact: object) -> bool:
        owner, name = split(str(contact))
        if owner == BOARD:
            return name in self._board.pins or name in self._board.sockets
        part = self._parts.get(owner)
        return part is not None and name in offering(part)

    def __iter__(self) -> Iterator[str]:
        yield from (f"{BOARD}.{name}" for name in (*self._board.pins, *self._board.sockets))
        for part_id, part in self._parts.items():
            yield from (f"{part_id}.{name}" for name in offering(part))

    def __len__(self) -> int:
        return sum(1 for _ in self)


class Contacts:
    """The contacts of a board and of parts: pins, sockets and leads, by their
    ids (``board.p7``, ``lamp.anode``)."""

    def __init__(self, memory: Memory, board: Board, parts: Mapping[str, Part]):
        self.memory, self._board, self._parts = memory, board, parts
        memory.about(self)
        self.pins: Mapping[str, Pin] = _Pins(board, parts)
        """everything that parts can be tied to, by contact: the board's pins, then those of hubs"""
        self.offers: Collection[str] = _Offers(board, parts)
        """every contact that offers something, in order: pins, sockets, supplies' leads, what hubs offer"""

    def pin(self, contact: str) -> Pin | None:
        """What a contact offers: the board's pin, or that of a hub;
        nothing for other leads and for sockets."""
        owner, name = split(contact)
        if owner == BOARD:
            return self._board.pins.get(name)
        part = self._parts.get(owner)
        return hub_pins(part).get(name) if part is not None else None

    def lead(self, contact: str) -> Lead | None:
        """The lead of a contact, or nothing for a contact of the board."""
        owner, name = split(contact)
        part = self._parts.get(owner)
        return part.leads.get(name) if part is not None else None

    @table
    def _leads(self) -> dict[str, None]:
        return {f"{p}.{name}": None for p, part in self._parts.items() for name in part.leads}

    def leads(self) -> list[str]:
        """Every lead of every part, in order."""
        return list(self._leads)

    def via(self, contact: str) -> str:
        """The lead over which a hub's contact passes on what it has; empty for others."""
        lead = self.lead(contact)
        return lead.offers.via if lead and lead.offers else ""

    def exists(self, contact: str) -> bool:
        """A contact of the board, of a part, or a socket."""
        owner, name = split(contact)
        if owner == BOARD:
            return name in self._board.pins or name in self._board.sockets
        return self.lead(contact) is not None

    def is_socket(self, contact: str) -> bool:
        """A socket of the board, into which a supply is plugged with its own cable."""
        owner, name = split(contact)
        return owner == BOARD and name in self._board.sockets

    @property
    def power_contacts(self) -> list[str]:
        """Those among the offers that are not signal pins."""
        return [
            c
            for c in self.offers
            if (pin := self.pin(c)) is None or pin.kind in ("supply", "ground", "contact")
        ]

    def supply_contact(self, rail: str) -> str:
        """A contact that is on a rail of the board."""
        for pin_id, pin in self._board.pins.items():
            if pin.rail == rail:
                return f"{BOARD}.{pin_id}"
        return ""

    def owner(self, contact: str) -> Board | Part:
        """The board or the part that a contact belongs to."""
        part_id = split(contact)[0]
        return self._board if part_id == BOARD else self._parts[part_id]


@derived
def offering(part: Part) -> dict[str, None]:
    """The leads of a part to which others can be tied: both of a supply, and what a hub offers."""
    source = part.source
    ends = [source.plus, source.minus] if source is not None and source.plus != source.minus else []
    return dict.fromkeys((*ends, *(name for name, lead in part.leads.items() if lead.offers)))


@derived
def handing(part: Part) -> dict[str, str]:
    """The leads of a hub at which a supply can leave: {lead: over which other lead}; empty for outputs that
    switch it."""
    offers = {name: lead.offers for name, lead in part.leads.items() if lead.offers is not None}
    return {
        name: o.via if o.kind == "contact" else ""
        for name, o in offers.items()
        if o.kind == "contact" or "bridge" in o.functions or "source" in o.functions
    }


@derived
def hub_pins(part: Part) -> dict[str, Pin]:
    """What a part's leads offer to other parts, as pins."""
    return {
        name: Pin(0, 0, {LABEL: lead.title}, "", o.kind, "", o.functions, o.driver, o.power_on, note=o.note)
        for name, lead in part.leads.items()
        if (o := lead.offers) is not None
    }

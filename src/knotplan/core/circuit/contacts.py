"""Every contact of a plan, and what it offers."""

from functools import cached_property

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.derived import derived
from knotplan.catalog.part.lead import Lead
from knotplan.catalog.part.part import Part
from knotplan.core.names.book import LABEL
from knotplan.core.plan.document import BOARD, split


class Contacts:
    """The contacts of a board and of parts: pins, sockets and leads, by their
    ids (``board.p7``, ``lamp.anode``)."""

    def __init__(self, board: Board, parts: dict[str, Part]):
        self._board, self._parts = board, parts

    def pin(self, contact: str) -> Pin | None:
        """What a contact offers: the board's pin, or that of a hub;
        nothing for other leads and for sockets."""
        return self.pins.get(contact)

    @cached_property
    def pins(self) -> dict[str, Pin]:
        """Everything that parts can be tied to, by contact: the board's pins, then those of hubs."""
        pins = {f"{BOARD}.{name}": pin for name, pin in self._board.pins.items()}
        for part_id, part in self._parts.items():
            pins |= {f"{part_id}.{name}": pin for name, pin in hub_pins(part).items()}
        return pins

    def lead(self, contact: str) -> Lead | None:
        """The lead of a contact, or nothing for a contact of the board."""
        return self._leads.get(contact)

    @cached_property
    def _leads(self) -> dict[str, Lead]:
        return {f"{p}.{name}": lead for p, part in self._parts.items() for name, lead in part.leads.items()}

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

    @cached_property
    def offers(self) -> dict[str, None]:
        """Every contact that offers something, in order: pins, sockets, supplies' leads."""
        contacts = [f"{BOARD}.{p}" for p in self._board.pins] + [f"{BOARD}.{s}" for s in self._board.sockets]
        for part_id, part in self._parts.items():
            source = part.source
            if source and source.plus != source.minus:
                contacts += [f"{part_id}.{source.plus}", f"{part_id}.{source.minus}"]
            contacts += [f"{part_id}.{name}" for name, lead in part.leads.items() if lead.offers]
        return dict.fromkeys(contacts)

    @cached_property
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
def hub_pins(part: Part) -> dict[str, Pin]:
    """What a part's leads offer to other parts, as pins."""
    return {
        name: Pin(0, 0, {LABEL: lead.title}, "", o.kind, "", o.functions, o.driver, o.power_on, note=o.note)
        for name, lead in part.leads.items()
        if (o := lead.offers) is not None
    }

"""What contacts and parts are called."""

from collections.abc import Mapping
from functools import cached_property

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.function import ANY, parse_function
from knotplan.core.circuit.contacts import Contacts
from knotplan.core.circuit.hardware import Hardware
from knotplan.core.names.book import NameBook
from knotplan.core.plan.document import BOARD, PlacedPart, Tie, split

LEVELS = {"digital": "in and out", "input": "in only", "output": "out only"}
"""the plain jobs, in words"""


class Titles:
    """Names of contacts in the scheme that the plan speaks; contacts and
    parts that are gone keep their ids."""

    def __init__(
        self,
        board: Board,
        placed: Mapping[str, PlacedPart],
        scheme: str,
        contacts: Contacts,
        hardware: Hardware,
    ):
        self._board, self._placed, self._scheme, self._contacts, self._hardware = (
            board,
            placed,
            scheme,
            contacts,
            hardware,
        )

    @cached_property
    def book(self) -> NameBook:
        """All names of the board's pins."""
        return NameBook(self._board)

    def part(self, part_id: str) -> str:
        """What a part is called on the bench; its id where it is not there (any more)."""
        placed = self._placed.get(part_id)
        return placed.name if placed else part_id

    def of(self, contact: str, scheme: str = "") -> str:
        """What people call a contact: "L12" or "Lamp · anode"; its id where it is not there (any more)."""
        owner, name = split(contact)
        if owner != BOARD:
            return f"{self.part(owner)} · {self.own(contact)}"
        if name in self._board.sockets:
            return self._board.sockets[name].title
        return self._board.name(name, scheme or self._scheme) if name in self._board.pins else contact

    def own(self, contact: str) -> str:
        """What a lead is called without its part: "IN 1"."""
        lead = self._contacts.lead(contact)
        return lead.title if lead else split(contact)[1]

    def place(self, contact: str) -> str:
        """A pin's place in the words of the position scheme: "pos 12", or nothing."""
        pin = self._contacts.pin(contact)
        return f"pos {pin.names['position']}" if pin and "position" in pin.names else ""

    def full(self, contact: str) -> str:
        """A contact so that nobody can mistake it: "L12 (pos 4)"."""
        place, title = self.place(contact), self.of(contact)
        return f"{title} ({place})" if place and self._scheme != "position" else place or title

    def does(self, contact: str) -> str:
        """What a pin can do, in words: "in and out, UART 0 tx, pulse pair A"."""
        pin = self._contacts.pin(contact)
        jobs = []
        for job in map(parse_function, pin.functions if pin else ()):
            if job.kind in LEVELS:
                jobs.append(LEVELS[job.kind])
            elif job.instance == ANY:
                pool = self._hardware.pool(contact, job.kind)
                jobs.append(f"any of the {pool.title}" if pool else job.kind)
            else:
                unit = self._hardware.unit(contact, job)
                # the channels of buses have names that people know; those of timers and converters are mere
                # numbers
                channel = f" {job.channel}" if job.channel and job.kind in ("uart", "i2c", "spi") else ""
                jobs.append(f"{unit.title if unit else job}{channel}")
        return ", ".join(dict.fromkeys(jobs))

    def signal(self, tie: Tie) -> str:
        """What a tie is called in messages: its role, or its lead."""
        return tie.role or self.of(tie.lead)

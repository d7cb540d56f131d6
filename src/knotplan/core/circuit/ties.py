"""The ties of a plan, by what they join."""

from collections.abc import Iterator
from functools import cached_property

from knotplan.catalog.board.pin import Pin
from knotplan.core.circuit.contacts import Contacts
from knotplan.core.plan.document import Tie


class Ties:
    """Which ties are at a contact, and which signal pins are held by ties."""

    def __init__(self, ties: tuple[Tie, ...], contacts: Contacts):
        self._ties, self._contacts = ties, contacts
        self.at: dict[str, list[Tie]] = {}
        """the ties at each contact that has some"""
        self._first: dict[str, Tie] = {}
        for tie in ties:
            self._first.setdefault(tie.lead, tie)
            for end in (tie.lead, tie.to):
                self.at.setdefault(end, []).append(tie)

    def of(self, lead: str) -> Tie | None:
        """The first tie of a lead."""
        return self._first.get(lead)

    def other_end(self, tie: Tie, contact: str) -> str:
        """The end of a tie that is not this contact."""
        return tie.to if contact == tie.lead else tie.lead

    @cached_property
    def holders(self) -> dict[str, list[Tie]]:
        """The ties on each signal pin, of the board or of a hub: {contact: ties}."""
        ties: dict[str, list[Tie]] = {}
        for tie in self._ties:
            pin = self._contacts.pin(tie.to)
            if pin is not None and pin.kind == "io":
                ties.setdefault(tie.to, []).append(tie)
        return ties

    def on_pins(self) -> Iterator[tuple[str, Pin, Tie]]:
        """(contact, pin, tie) of every tie on a signal pin."""
        for contact, ties in self.holders.items():
            for tie in ties:
                yield contact, self._contacts.pins[contact], tie

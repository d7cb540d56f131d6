"""Nets: contacts that are joined without a bead between, and what hubs pass on from one to another."""

from collections.abc import Iterator
from functools import cached_property

from knotplan.catalog.board.board import Board
from knotplan.catalog.part.needs import Coupled, Supply
from knotplan.catalog.part.part import Part
from knotplan.core.circuit.contacts import Contacts
from knotplan.core.circuit.hardware import Hardware
from knotplan.core.plan.beads import Parting, SeriesResistor, lets_in
from knotplan.core.plan.document import BOARD, Tie, split

GROUND = "net:ground"
"""the board's ground, as the name of a net: one that no part can have"""


def rail_name(rail_id: str) -> str:
    """What a rail of the board is called among contacts, and in the tree of supplies."""
    return f"rail:{rail_id}"


class Nets:
    """What is joined to what."""

    def __init__(
        self,
        board: Board,
        parts: dict[str, Part],
        ties: tuple[Tie, ...],
        contacts: Contacts,
        hardware: Hardware,
    ):
        self._board, self._parts, self._ties, self._contacts, self._hardware = (
            board,
            parts,
            ties,
            contacts,
            hardware,
        )

    def joints(self) -> Iterator[tuple[str, str, Tie | None]]:
        """Every pair that is joined with nothing between, with the tie that
        joins it (nothing: the board itself)."""
        for pin_id, pin in self._board.pins.items():
            if pin.kind == "ground":
                yield f"{BOARD}.{pin_id}", GROUND, None
            elif pin.kind == "supply":
                yield f"{BOARD}.{pin_id}", rail_name(pin.rail), None
        for tie in self._ties:
            if not any(isinstance(b, Parting) for b in tie.beads):
                yield tie.lead, tie.to, tie

    @cached_property
    def _roots(self) -> dict[str, str]:
        root: dict[str, str] = {}

        def find(c: str) -> str:
            while root.setdefault(c, c) != c:
                c = root[c]
            return c

        def join(a: str, b: str) -> None:
            root[find(a)] = find(b)

        for a, b, _ in self.joints():
            join(a, b)
        for part_id, part in self._parts.items():
            if part.source and part.source.plus == part.source.minus:  # its cable carries ground along
                find(f"{part_id}.{part.source.plus}")
        return {c: find(c) for c in root}

    def of(self, contact: str) -> str:
        """The name of the net that a contact is on; a contact without ties is a net of its own."""
        return self._roots.get(contact, contact)

    @cached_property
    def members(self) -> dict[str, list[str]]:
        """The contacts of each net."""
        members: dict[str, list[str]] = {}
        for contact, root in self._roots.items():
            members.setdefault(root, []).append(contact)
        return members

    @cached_property
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

    @cached_property
    def _live(self) -> set[str]:
        """Nets on which a supply or ground lies itself."""
        sources = [f"{p}.{part.source.plus}" for p, part in self._parts.items() if part.source]
        return {self.of(x) for x in (GROUND, *map(rail_name, self._board.rails), *sources)}

    def comes_in_at(self, contact: str) -> bool:
        """A supply or ground is tied to a relay's contact itself, and leaves at its common one."""
        via = f"{split(contact)[0]}.{self._contacts.via(contact)}"
        return self.passed_on.get(self.of(via)) == self.of(contact)

    @cached_property
    def passed_on(self) -> dict[str, str]:
        """Nets that get what they have from another one over a hub: {net: the net that it comes from}."""
        passed_on: dict[str, str] = {}
        for contact, pin in self._contacts.pins.items():
            part_id = split(contact)[0]
            if part_id == BOARD:
                continue
            if pin.kind == "contact":
                here, common = self.of(contact), self.of(f"{part_id}.{self._contacts.via(contact)}")
                if here not in self._live:
                    passed_on.setdefault(here, common)
                elif common not in self._live:
                    passed_on.setdefault(common, here)
            elif "bridge" in pin.functions or "source" in pin.functions:
                passed_on.setdefault(self.of(contact), self.high(contact))
        for tie in self._ties:  # over a diode or a resistor a supply goes on, a little lower
            if self._feeds_over(tie):
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

"""Nets: contacts that are joined without a bead between, and what hubs pass on from one to another."""

from collections.abc import Iterator
from functools import cached_property

from knotplan.catalog.part.source import Source
from knotplan.core.circuit.contacts import Contacts
from knotplan.core.plan.beads import Diode, Parting
from knotplan.core.plan.document import BOARD, Tie, split

GROUND = "net:ground"
"""the board's ground, as the name of a net: one that no part can have"""


class Nets(Contacts):
    """What is joined to what."""

    def joints(self) -> Iterator[tuple[str, str, Tie | None]]:
        """Every pair that is joined with nothing between, with the tie that joins it (nothing: the board itself)."""
        for pin_id, pin in self.board.pins.items():
            if pin.kind == "ground":
                yield f"{BOARD}.{pin_id}", GROUND, None
            elif pin.kind == "supply":
                yield f"{BOARD}.{pin_id}", f"rail:{pin.rail}", None
        for tie in self.plan.ties:
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
        for part_id, part in self.parts.items():
            if part.source and part.source.plus == part.source.minus:  # its cable carries ground along
                find(f"{part_id}.{part.source.plus}")
        return {c: find(c) for c in root}

    def net(self, contact: str) -> str:
        """The name of the net that a contact is on; a contact without ties is a net of its own."""
        return self._roots.get(contact, contact)

    @cached_property
    def members(self) -> dict[str, list[str]]:
        """The contacts of each net."""
        found: dict[str, list[str]] = {}
        for contact, root in self._roots.items():
            found.setdefault(root, []).append(contact)
        return found

    @cached_property
    def ground(self) -> str:
        return self.net(GROUND)

    def is_ground(self, contact: str) -> bool:
        return self.net(contact) == self.ground

    def _via(self, contact: str) -> str:
        lead = self.lead(contact)
        return lead.offers.via if lead and lead.offers else ""

    def high_net(self, contact: str) -> str:
        """The net that a pin's high comes from."""
        driver, part_id = self.driver(contact), split(contact)[0]
        return self.net(f"rail:{driver.rail}" if part_id == BOARD else f"{part_id}.{driver.rail}")

    def low_net(self, contact: str) -> str:
        """The net that a pin's low goes to."""
        part_id = split(contact)[0]
        return self.ground if part_id == BOARD else self.net(f"{part_id}.{self.parts[part_id].ground}")

    @cached_property
    def bench_sources(self) -> dict[str, Source]:
        """The supplies among the parts: {part id: what it gives}."""
        return {p: part.source for p, part in self.parts.items() if part.source}

    @cached_property
    def passed_on(self) -> dict[str, str]:
        """Nets that get what they have from another one over a hub: {net: the net that it comes from}."""
        found: dict[str, str] = {}
        for contact, pin in self.pins.items():
            part_id = split(contact)[0]
            if part_id == BOARD:
                continue
            if pin.kind == "contact":
                found.setdefault(self.net(contact), self.net(f"{part_id}.{self._via(contact)}"))
            elif "bridge" in pin.functions or "source" in pin.functions:
                found.setdefault(self.net(contact), self.high_net(contact))
        for tie in self.plan.ties:  # over a diode a supply goes on, a little lower
            if any(isinstance(b, Diode) and b.towards == "lead" for b in tie.beads):
                found.setdefault(self.net(tie.lead), self.net(tie.to))
        return found

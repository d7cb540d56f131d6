"""The plan with everything resolved: contacts, nets, what hangs on which rail, and who holds which pin.

One class in four files: `Contacts`, `Nets`, `Supplies`, and here what needs are met where.
"""

from collections.abc import Iterator
from functools import cached_property

from knotplan.catalog.boards import Pin
from knotplan.catalog.needs import Driven, Feed, Gives, Ground, Need, Supply, Switched
from knotplan.core.nets import GROUND
from knotplan.core.plan import Tie, split
from knotplan.core.supplies import Origin, Pole, Supplies

__all__ = ["GROUND", "Circuit", "Origin", "Pole"]
SWITCHING = ("sink", "source", "bridge")
"""functions that switch the current of a load"""


class Circuit(Supplies):
    """A plan resolved against the catalogue. Everything is derived; nothing is ever changed."""

    def need(self, lead: str) -> Need:
        """The alternative of a lead's needs that its tie is meant to meet (the first when untied)."""
        spec = self.lead(lead)
        assert spec is not None, lead
        tie = self.tie_of(lead)
        if tie is None:
            return spec.needs[0]
        pin = self.pin(tie.to)
        if pin is not None and pin.kind != "contact":
            kind = {"supply": Supply, "ground": Ground}.get(pin.kind)
            if kind is None:
                switched = any(f in SWITCHING for f in pin.functions)
                signals = [n for n in spec.needs if not isinstance(n, Supply | Ground)]
                return next((n for n in signals if isinstance(n, Switched) == switched), (signals or spec.needs)[0])
            return next((n for n in spec.needs if isinstance(n, kind)), spec.needs[0])
        if pin is not None:
            kind = Ground if self.is_ground(f"{split(tie.to)[0]}.{self._via(tie.to)}") else Supply
            return next((n for n in spec.needs if isinstance(n, kind)), spec.needs[0])
        given = self.lead(tie.to)
        if given is not None:
            kind = Supply if isinstance(given.needs[0], Gives) else type(given.needs[0])
            return next((n for n in spec.needs if isinstance(n, kind)), spec.needs[0])
        return next((n for n in spec.needs if isinstance(n, Feed)), spec.needs[0])

    def drives(self, lead: str) -> bool:
        """The lead is driven by what it is tied to."""
        return isinstance(self.need(lead), Driven)

    @cached_property
    def holders(self) -> dict[str, list[Tie]]:
        """The ties on each signal pin, of the board or of a hub: {contact: ties}."""
        found: dict[str, list[Tie]] = {}
        for tie in self.plan.ties:
            pin = self.pin(tie.to)
            if pin is not None and pin.kind == "io":
                found.setdefault(tie.to, []).append(tie)
        return found

    def on_pins(self) -> Iterator[tuple[str, Pin, Tie]]:
        """(contact, pin, tie) of every tie on a signal pin."""
        for contact, ties in self.holders.items():
            for tie in ties:
                yield contact, self.pins[contact], tie

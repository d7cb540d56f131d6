"""Relays: when the contact follows, how often it may, and how long it lasts."""

from msgspec import Struct

from knotplan.catalog.part.facts import Relay
from knotplan.core.circuit.circuit import Circuit

USUAL_S = 1.0
"""on, and off, where nobody says"""


class Cycle(Struct, frozen=True):
    """A relay switched on and off again and again."""

    on_s: float
    off_s: float
    facts: Relay

    @property
    def least_on_s(self) -> float:
        """As long as the contact takes to close, and the least interval between two switchings."""
        return max(self.facts.operate_s, self.facts.least_interval_s)

    @property
    def least_off_s(self) -> float:
        """The shortest time that it can be off, s."""
        return max(self.facts.release_s, self.facts.least_interval_s)

    @property
    def shortest_s(self) -> float:
        """The shortest whole cycle."""
        return self.least_on_s + self.least_off_s

    @property
    def fault(self) -> str:
        """Why it cannot follow; empty where it can."""
        f = self.facts
        if self.on_s < f.operate_s:
            closes, on = f.operate_s * 1e3, self.on_s * 1e3
            return f"it takes {closes:g} ms to close, and is switched on for {on:g} ms only"
        if self.off_s < f.release_s:
            opens, off = f.release_s * 1e3, self.off_s * 1e3
            return f"it takes {opens:g} ms to open, and is switched off for {off:g} ms only"
        if min(self.on_s, self.off_s) < f.least_interval_s:
            short = min(self.on_s, self.off_s)
            least = f.least_interval_s * 1e3
            return f"it is switched every {short * 1e3:g} ms, and needs {least:g} ms between two switchings"
        return ""

    @property
    def hours(self) -> float:
        """Until its life in switchings is over, h."""
        return self.facts.life * (self.on_s + self.off_s) / 3600


def cycle(c: Circuit, part_id: str) -> Cycle | None:
    """How a relay is switched in the plan; nothing for another part."""
    facts = c.parts[part_id].facts.relay
    if facts is None:
        return None
    on, off = (asked_s(c, part_id, key) for key in ("on_s", "off_s"))
    return Cycle(on, off, facts)


def asked_s(c: Circuit, part_id: str, key: str, usual: float = USUAL_S) -> float:
    """A time that the program keeps, s."""
    return c.placed[part_id].setting(key, usual, 0.0)

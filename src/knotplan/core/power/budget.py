"""A sum of currents against its limit, and what is in it."""

from msgspec import Struct

from knotplan.core.engine.readings import Reading
from knotplan.core.power.activities import Worst


class Item(Struct, frozen=True):
    """One contribution, amperes."""

    title: str
    usual_a: float
    worst_a: float
    why: str = ""


class Budget(Struct, frozen=True):
    """A sum of currents against a limit."""

    id: str
    title: str
    kind: str
    """"rail", "pins", "bank" or "supply" """
    limit_a: float
    items: tuple[Item, ...]
    note: str = ""
    part: str = ""
    """the supply on the bench that it is about, if it is about one"""
    total: Worst | None = None
    """of supplies and rails: over what can happen together"""
    pins: tuple[str, ...] = ()
    """of banks, and of all pins together: the contacts"""

    @property
    def usual_a(self) -> float:
        """The usual current of everything in it, A."""
        return self.total.usual_a if self.total else sum(i.usual_a for i in self.items)

    @property
    def worst_a(self) -> float:
        """The current at worst, over what can happen together, A."""
        return self.total.worst_a if self.total else sum(i.worst_a for i in self.items)


def pin_current(readings: list[Reading]) -> tuple[float, float]:
    """(usual, worst) magnitude of a pin's current over its running cases."""
    running = [r for r in readings if r.case.moment == "running"]
    return max((abs(r.typ) for r in running), default=0.0), max((r.most for r in running), default=0.0)

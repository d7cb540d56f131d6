"""How a number was computed: formula, inputs with their origin, and the results."""

from msgspec import Struct

from knotplan.core.quantity.written import show


class Number(Struct, frozen=True):
    """One quantity beside what it is compared with."""

    name: str
    value: float
    unit: str
    limit: float | None = None
    origin: str = ""
    """where it comes from: a field of the catalogue, the plan, or the engine"""
    lower: bool = False
    """the limit is what it has to be at least"""

    @property
    def limit_words(self) -> str:
        """The limit as it stands beside the value; empty where there is none."""
        if self.limit is None:
            return ""
        return f"{'at least' if self.lower else 'limit'} {show(self.limit, self.unit)}"

    @property
    def within(self) -> bool:
        """The value keeps its limit, or has none."""
        if self.limit is None:
            return True
        return self.value >= self.limit * (1 - 1e-9) if self.lower else self.value <= self.limit * (1 + 1e-9)

    def words(self, digits: int = 3) -> str:
        """The number beside its limit and its origin, as far as it has them.

        >>> Number("most current", 0.0486, "A", 0.02).words()
        'most current: 48.6 mA, limit 20 mA'
        """
        limit = f", {self.limit_words}" if self.limit is not None else ""
        return f"{self.name}: {show(self.value, self.unit, digits)}{limit}" + (
            f" ({self.origin})" if self.origin else ""
        )


class Working(Struct, frozen=True):
    """The way to a result, for whoever wants to follow it."""

    formula: str
    inputs: tuple[Number, ...]
    results: tuple[Number, ...]
    source: str

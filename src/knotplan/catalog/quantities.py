"""A quantity with its spread, as catalogue files write it: ``[least, typical, most]``."""

import msgspec


class Range(msgspec.Struct, frozen=True, array_like=True):
    """Least, typical and most of one quantity, in SI units."""

    min: float
    """the least"""
    typ: float
    """the usual one"""
    max: float
    """the most"""

    def __post_init__(self) -> None:
        if not self.min <= self.typ <= self.max:
            raise ValueError(f"[{self.min}, {self.typ}, {self.max}] is not in rising order")

    @classmethod
    def exactly(cls, value: float) -> "Range":
        """A quantity without spread."""
        return cls(value, value, value)

    @classmethod
    def around(cls, value: float, tolerance: float) -> "Range":
        """A positive quantity with a relative tolerance (0.05 is 5 %)."""
        return cls(value * (1 - tolerance), value, value * (1 + tolerance))

    def scaled(self, by: float) -> "Range":
        """The same relative spread around another value (`by` is not negative)."""
        return Range(self.min * by, self.typ * by, self.max * by)

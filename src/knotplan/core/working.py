"""How a number was computed: formula, inputs with their origin, and the results."""

from msgspec import Struct


class Number(Struct, frozen=True):
    """One quantity beside what it is compared with."""

    name: str
    value: float
    unit: str
    limit: float | None = None
    origin: str = ""
    """where it comes from: a field of the catalogue, the plan, or the engine"""


class Working(Struct, frozen=True):
    """The way to a result, for whoever wants to follow it."""

    formula: str
    inputs: tuple[Number, ...]
    results: tuple[Number, ...]
    source: str

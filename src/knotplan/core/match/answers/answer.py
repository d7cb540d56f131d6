"""The answer of one contact to one alternative of a need."""

from msgspec import Struct


class Answer(Struct, frozen=True):
    """How one alternative of a need is met."""

    ok: bool
    plus: tuple[str, ...] = ()
    """what speaks for it"""
    minus: tuple[str, ...] = ()
    """what it costs"""
    cost: float = 0.0


def no(reason: str) -> Answer:
    """It cannot, and why."""
    return Answer(False, (), (reason,))

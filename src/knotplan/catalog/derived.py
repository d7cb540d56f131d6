"""What is derived from a board, a part or a circuit lives with it, and goes with it."""

from collections.abc import Callable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, Protocol, TypeVar


class Keeps(Protocol):
    """Something that keeps answers about itself."""

    @property
    def derived(self) -> dict[tuple[Any, ...], Any]:
        """{(question, further arguments): answer}"""


K = TypeVar("K", bound=Keeps)
P = ParamSpec("P")
R = TypeVar("R")


def derived(function: Callable[Concatenate[K, P], R]) -> Callable[Concatenate[K, P], R]:
    """Works an answer out once for each first argument, and for each set of
    further ones, which have to be hashable.

    The first argument keeps it. A cache that is keyed by circuits or boards would keep
    them, and all that hangs on them, alive.
    """

    @wraps(function)
    def answer(subject: K, /, *arguments: P.args, **named: P.kwargs) -> R:
        assert not named, "the further arguments are the key"
        key = (function, *arguments)
        kept = subject.derived
        if key not in kept:
            kept[key] = function(subject, *arguments, **named)
        known: R = kept[key]
        return known

    return answer

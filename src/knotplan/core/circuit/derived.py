"""What is derived from a circuit lives with it, and goes with it."""

from collections.abc import Callable
from functools import wraps
from typing import TYPE_CHECKING, Concatenate, ParamSpec, TypeVar

if TYPE_CHECKING:
    from knotplan.core.circuit.circuit import Circuit

P = ParamSpec("P")
R = TypeVar("R")


def derived(function: "Callable[Concatenate[Circuit, P], R]") -> "Callable[Concatenate[Circuit, P], R]":
    """Works an answer out once for each circuit, and for each set of further arguments, which have to be hashable. A cache
    that is keyed by circuits would keep them, and all that hangs on them, alive."""

    @wraps(function)
    def answer(circuit: "Circuit", /, *arguments: P.args, **named: P.kwargs) -> R:
        assert not named, "the further arguments are the key"
        key = (function, *arguments)
        kept = circuit.derived
        if key not in kept:
            kept[key] = function(circuit, *arguments, **named)
        made: R = kept[key]
        return made

    return answer

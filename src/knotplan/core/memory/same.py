"""Whether two answers say the same, to the last digit and in the same order."""

from math import copysign
from operator import is_
from typing import Any

from msgspec import Struct
from msgspec.msgpack import Encoder

WRITE = Encoder().encode


def same(one: Any, other: Any) -> bool:
    """Equal, and nothing that follows from one could differ from what follows from the other: unlike with
    ``==``, the order of a dictionary, the type of a number and the sign of a zero count.

    >>> same({"a": 1, "b": 2}, {"b": 2, "a": 1}), same(0.0, -0.0), same(1, 1.0), same((1.5, "x"), (1.5, "x"))
    (False, False, False, True)
    """
    if one is other:
        return True
    kind = type(one)
    if kind is not type(other):
        return False
    if kind is float:
        return bool(one == other and (one or copysign(1.0, one) == copysign(1.0, other)))
    if kind is list or kind is tuple:
        return len(one) == len(other) and (all(map(is_, one, other)) or all(map(same, one, other)))
    if kind is dict:
        return list(one) == list(other) and all(map(same, one.values(), other.values()))
    if issubclass(kind, Struct) and kind.__struct_config__.eq:
        return one == other and _alike(one, other, kind)
    if issubclass(kind, tuple):
        return len(one) == len(other) and all(map(same, one, other))
    return bool(one == other)


def _alike(one: Any, other: Any, kind: type[Struct]) -> bool:
    """Two structs that are equal, field by field; as bytes where they can be written as such."""
    try:
        return WRITE(one) == WRITE(other)
    except TypeError:
        return all(same(getattr(one, name), getattr(other, name)) for name in kind.__struct_fields__)

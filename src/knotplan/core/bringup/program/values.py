"""What is known of a value in a program: which constants it may be, and by which names they came."""

from typing import Any

from msgspec import Struct

from knotplan.core.bringup.difference import Spot

MOST = 64
"""values of one expression that are told apart"""
MOST_NAMES = 8


class Value(Struct, frozen=True):
    """One constant."""

    value: int | float | str | bool
    at: Spot
    """where it is written"""
    names: tuple[str, ...] = ()
    """constants, variables and parameters through which it came"""
    symbol: bool = False
    """a word that the program does not define: `value` is how it is written"""


class Many(Struct, frozen=True):
    """A list."""

    items: tuple["Known", ...]
    at: Spot
    names: tuple[str, ...] = ()


class Table(Struct, frozen=True):
    """A dictionary or structure."""

    items: tuple[tuple["Known", "Known"], ...]
    at: Spot
    names: tuple[str, ...] = ()

    def field(self, name: str) -> "Known":
        """What stands under a text."""
        found: list[Any] = []
        for key, value in self.items:
            if any(isinstance(k, Value) and str(k.value) == name for k in key):
                found += value
        return tuple(found)

    def under(self, key: "Known") -> "Known":
        """What stands under a key; under any where the key is not known."""
        found: list[Any] = []
        for own, value in self.items:
            if not key or _words(key) & _words(own):
                found += value
        return tuple(found)

    def with_row(self, key: "Known", value: "Known") -> "Table":
        """The same with a value under a key, in the place of what stood there."""
        kept = tuple((own, old) for own, old in self.items if not key or _words(own) != _words(key))
        return Table((*kept, (key, value)), self.at, self.names)


class Thing:
    """An object: of a class of the program, or given by a call of a dialect. Its fields change as the program
    goes."""

    def __init__(self, kind: str, at: Spot, names: tuple[str, ...] = ()):
        self.kind, self.at, self.names = kind, at, names
        self.fields: dict[str, Known] = {}


Known = tuple[Value | Many | Table | Thing, ...]
"""the possible values of an expression; empty where nothing is known"""


def _words(key: Known) -> frozenset[str]:
    """A key's plain values, so that keys of different places compare."""
    return frozenset(str(v.value) for v in key if isinstance(v, Value))


def named(known: Known, name: str) -> Known:
    """The same values, that have got one more name."""
    found: list[Value | Many | Table | Thing] = []
    for one in known[:MOST]:
        if name in one.names or len(one.names) >= MOST_NAMES:
            found.append(one)
        elif isinstance(one, Thing):
            one.names = (*one.names, name)
            found.append(one)
        elif isinstance(one, Value):
            found.append(Value(one.value, one.at, (*one.names, name), one.symbol))
        elif isinstance(one, Many):
            found.append(Many(one.items, one.at, (*one.names, name)))
        else:
            found.append(Table(one.items, one.at, (*one.names, name)))
    return tuple(found)


def together(*several: Known) -> Known:
    """All that may be, each once."""
    found: list[Value | Many | Table | Thing] = []
    for known in several:
        for one in known:
            if one not in found and len(found) < MOST:
                found.append(one)
    return tuple(found)


def numbers(known: Known) -> list[Value]:
    """The plain values among them."""
    return [one for one in known if isinstance(one, Value)]

"""What the engine found, as values: readings of voltages and currents, case by case.

Loading this costs nothing: the arrays behind it come from `knotplan.core.engine.operating_points`.
"""

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, TypeVar

from msgspec import Struct

from knotplan.catalog.part.elements import Varies
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.keys import Key, of_part

if TYPE_CHECKING:
    from knotplan.core.engine.solver.network import Floats


K = TypeVar("K")


class Case(Struct, frozen=True):
    """One state of a cluster: what each pin does, where contacts and knobs stand."""

    moment: str
    """"running" or "power-on" """
    pins: tuple[tuple[str, str], ...] = ()
    """(contact of the pin, "high", "low", "input" or a state at power-on)"""
    contacts: tuple[tuple[Key, str], ...] = ()
    """(element of a part, "open", "closed", "high", "low", or a position such as "0.5")"""

    def pin(self, contact: str) -> str:
        """The state of a pin in this case; empty where it has no part in it."""
        return next((state for pin, state in self.pins if pin == contact), "")

    def contact(self, part: str, element: str) -> str:
        """The state of a switch or knob in this case; empty where it has no part in it."""
        key = of_part(part, element)
        return next((stands for of, stands in self.contacts if of == key), "")

    def words(self, circuit: Circuit) -> str:
        """The case as people say it."""
        words = ["at power-on"] if self.moment == "power-on" else []
        words += [f"{circuit.titles.of(p)} {state}" for p, state in self.pins]
        words += [_stands(circuit, key, s) for key, s in self.contacts]
        return ", ".join(words) or "always"


def _stands(circuit: Circuit, key: Key, state: str) -> str:
    """How a contact, a knob or a sensor stands, in words."""
    e, text = circuit.parts[key.part].elements[key.element], circuit.placed[key.part].name
    if isinstance(e, Varies) and state in ("0", "1"):
        return f"{text} in {e.when_least}" if state == "0" else f"{text} in {e.when_most}"
    return f"{text} {'at ' if state[0].isdigit() else ''}{state}"


class Reading(Struct, frozen=True):
    """One quantity in one case: over all corners its least, at the centre its typical, its most."""

    case: Case
    min: float
    typ: float
    max: float

    @property
    def most(self) -> float:
        """The greatest magnitude."""
        return max(abs(self.min), abs(self.max))


class Sweep:
    """One quantity over its cases and corners; its readings are made when somebody asks, and kept."""

    __slots__ = ("_made", "cases", "negative_of", "values")

    def __init__(self, cases: list[Case], values: "Floats", negative_of: "Sweep | None" = None):
        """`values`: (cases, corners), the first corner being the centre."""
        self.cases, self.values, self.negative_of = cases, values, negative_of
        self._made: list[Reading] | None = None

    @property
    def readings(self) -> list[Reading]:
        """All of them, whatever they are about."""
        if self._made is None:
            v = self.values
            low, mid, high = v.min(axis=1).tolist(), v[:, 0].tolist(), v.max(axis=1).tolist()
            self._made = [Reading(*x) for x in zip(self.cases, low, mid, high, strict=True)]
        return self._made


class Readings(Mapping[K, list[Reading]]):
    """Readings by what they are of, one for every case; made from the arrays when asked for."""

    def __init__(self, rows: Mapping[K, Sweep] | None = None) -> None:
        self.rows = {} if rows is None else rows

    def __getitem__(self, key: K) -> list[Reading]:
        return self.rows[key].readings

    def __iter__(self) -> Iterator[K]:
        return iter(self.rows)

    def __len__(self) -> int:
        return len(self.rows)


class Draw(Struct, frozen=True):
    """What one cluster takes from a supplied net."""

    loads: tuple[str, ...]
    """the parts whose current it is: coils and motors, or the only part
    there; none where only signals flow"""
    usual_a: float
    """typical, in the hungriest running case"""
    worst_a: float


class Points(Struct, frozen=True, eq=False):
    """The operating points of a circuit."""

    volts: Readings[str] = Readings()
    """by net"""
    junctions: Readings[Key] = Readings()
    """current by element of a part or bead"""
    bars: Readings[Key] = Readings()
    """current by element of a part or bead"""
    pins: Readings[str] = Readings()
    """current out of a pin (negative: into it) by its contact"""
    draws: Mapping[str, list[Draw]] = {}
    """current out of a supplied net, by net: one for each cluster"""


def pin_volts(circuit: Circuit, points: Points, contact: str) -> list[Reading]:
    """The voltage at a tied pin, for each case."""
    return points.volts.get(circuit.nets.of(contact), [])

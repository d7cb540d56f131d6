"""The model of a board file.

A board is headers of pins, rails that its supply pins bring out, sockets that feed it, and the
electrical character of its pins. Lengths are in millimetres, everything else in SI units.
"""

import re
from typing import Literal

import msgspec

from knotplan.catalog.quantities import Range

SupplyKind = Literal["io", "supply", "ground", "control", "unconnected"]
PowerOn = Literal["pull-up", "pull-down", "floating", "high", "low"]
WAKES: dict[PowerOn, str] = {
    "pull-up": "pulled up", "pull-down": "pulled down", "floating": "floating", "high": "high", "low": "low",
}  # fmt: skip
"""what a pin is at power-on, in words"""


class _Item(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    pass


class Scheme(_Item):
    """One way of naming pins."""

    title: str
    prefixes: tuple[str, ...] = ()
    """what may be left off or put before a name: "L" for "L12", "pos" for "pos 12" """
    note: str = ""


class Header(_Item):
    """A block of contacts, rows by columns; row 1 lies at the marked end."""

    title: str
    rows: int
    columns: int
    x_mm: float
    y_mm: float
    pitch_mm: float = 2.54
    column_gap_mm: float = 2.54


class Driver(_Item):
    """The electrical character that pins have in common."""

    rail: str
    high_ohm: Range
    low_ohm: Range
    recommended_a: float
    absolute_a: float
    input_low_v: float
    """most voltage that is surely read as low"""
    input_high_v: float
    """least voltage that is surely read as high"""
    max_v: float
    """absolute maximum at the pin, unpowered clamps apart"""
    min_v: float = -0.3
    pull_up_ohm: Range | None = None
    pull_down_ohm: Range | None = None
    leak_a: float = 1e-6
    source: str = ""


class Function(_Item):
    """One job that a pin can do, by a numbered instance of a peripheral: ``pwm:A.1``."""

    kind: str
    instance: str = ""
    channel: str = ""

    def __str__(self) -> str:
        tail = f".{self.channel}" if self.channel else ""
        return f"{self.kind}:{self.instance}{tail}" if self.instance else self.kind


FUNCTION = re.compile(r"(?P<kind>[a-z0-9]+)(?::(?P<instance>[A-Za-z0-9]+)(?:\.(?P<channel>[a-z0-9-]+))?)?")


def parse_function(text: str) -> Function:
    """The function that ``pwm:A.1`` spells.

    >>> parse_function("i2c:1.sda")
    Function(kind='i2c', instance='1', channel='sda')
    """
    found = FUNCTION.fullmatch(text)
    if not found:
        raise ValueError(f"{text!r} is not a function such as 'digital', 'pwm:A.1' or 'i2c:1.sda'")
    return Function(found["kind"], found["instance"] or "", found["channel"] or "")


class Peripheral(_Item):
    """What the channels of one instance have in common."""

    title: str
    shares: tuple[str, ...] = ()
    """what its channels cannot have each for itself, e.g. "frequency" """
    note: str = ""


class Reservation(_Item):
    """Something that already uses pins, and what lifts that."""

    title: str
    reason: str
    lifted_by: str
    severity: Literal["stop", "care", "note"] = "care"


class Rail(_Item):
    """A voltage that the board brings out on supply pins."""

    title: str
    volts: Range
    limit_a: float
    """what attached parts may draw together"""
    source_ohm: float
    fed_from: str = ""
    """the rail that this one is made from; empty for a rail that sockets feed"""
    efficiency: float | None = None
    """of a switching regulator; a linear one passes its current on"""
    holds_v: float | None = None
    """below this the board resets"""
    own_usual_a: float = 0.0
    own_worst_a: float = 0.0
    note: str = ""


class Socket(_Item):
    """A way in for power."""

    title: str
    rail: str
    volts: Range
    limit_a: float
    drop_v: float = 0.0
    side: Literal["top", "bottom"] = "top"
    note: str = ""


class Bank(_Item):
    """Pins that have a current limit in common."""

    title: str
    limit_a: float
    pins: tuple[str, ...] = ()


class Converter(_Item):
    """Analogue inputs: resolution and the rail they measure against."""

    title: str
    bits: int
    reference: str
    note: str = ""


class Outline(_Item):
    """The board's edge and the mark that tells which end is which."""

    width_mm: float
    height_mm: float
    mark: str
    """what the marked end is called: "notch end" """


class Pin(_Item):
    """A contact of the board."""

    row: int
    col: int
    names: dict[str, str]
    header: str = "main"
    kind: SupplyKind = "io"
    rail: str = ""
    functions: tuple[str, ...] = ()
    driver: str = "io"
    power_on: PowerOn = "floating"
    fitted_pull_ohm: float | None = None
    """a resistor on the board itself, to the driver's rail"""
    reserved: str = ""
    note: str = ""

    def jobs(self, kind: str) -> list[Function]:
        """The pin's functions of one kind."""
        return [f for f in map(parse_function, self.functions) if f.kind == kind]


class Board(_Item, eq=False):
    """Everything that a board file says. A board is itself only: what is derived from it can be kept by it."""

    id: str
    title: str
    summary: str
    logic_v: float
    outline: Outline
    schemes: dict[str, Scheme]
    spoken: str
    """the scheme to begin with"""
    headers: dict[str, Header]
    rails: dict[str, Rail]
    sockets: dict[str, Socket]
    drivers: dict[str, Driver]
    pins: dict[str, Pin]
    all_pins_a: float
    all_pins_note: str = ""
    banks: dict[str, Bank] = {}
    peripherals: dict[str, Peripheral] = {}
    converters: dict[str, Converter] = {}
    reservations: dict[str, Reservation] = {}

    def name(self, pin_id: str, scheme: str) -> str:
        """What a pin is called in a scheme; a pin that has no name there keeps its printed one."""
        names = self.pins[pin_id].names
        return names.get(scheme) or names.get("label") or next(iter(names.values()), pin_id)

"""The model of a board file.

A board is headers of pins, rails that its supply pins bring out, sockets that feed it, and the
electrical character of its pins. Lengths are in millimetres, everything else in SI units.
"""

import re
from functools import lru_cache
from typing import Literal

import msgspec

from knotplan.catalog.quantities import Range

SupplyKind = Literal["io", "supply", "ground", "control", "unconnected", "contact"]
"""a contact passes on whatever comes in at another one: only hubs have some"""
PowerOn = Literal["pull-up", "pull-down", "floating", "high", "low", "toggling"]
WAKES: dict[str, str] = {
    "pull-up": "pulled up", "pull-down": "pulled down", "floating": "floating", "high": "high", "low": "low",
    "toggling": "toggling",
}  # fmt: skip
"""what a pin is before a program runs, in words"""
ANY = "any"
"""as an instance: the board gives the pin whichever unit of a pool is free (``pwm:any``)"""


class _Item(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    pass


class Scheme(_Item):
    """One way of naming pins."""

    title: str
    prefixes: tuple[str, ...] = ()
    """what may be left off or put before a name: "L" for "L12", "pos" for "pos 12" """
    note: str = ""
    other_end: bool = False
    """numbers that people easily count from the wrong end"""


class Header(_Item):
    """A block of contacts, rows by columns; row 1 lies at the marked end. One with more columns than rows
    lies across the board, and its cords leave over the nearer end."""

    title: str
    rows: int
    columns: int
    x_mm: float
    y_mm: float
    pitch_mm: float = 2.54
    """from row to row"""
    column_gap_mm: float = 2.54
    contact: Literal["post", "pad", "clip"] = "post"
    """pads reach to the board's edge; clips take a crocodile clip"""

    @property
    def across(self) -> bool:
        return self.columns > self.rows


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
    high_drop_v: float = 0.0
    low_drop_v: float = 0.0
    """how far high and low stay from rail and ground whatever the current: of bipolar drivers"""
    most_load_v: float = 0.0
    """most voltage of a load that it switches"""
    clamps: str = ""
    """the lead that its clamp diodes lead to: a coil's kick ends there while that lead is tied"""
    element: str = ""
    """the element of a hub that switches, where its circuit is known: the engine has that one then"""
    note: str = ""
    """what makes these pins unlike the others"""
    source: str = ""


class Function(_Item):
    """One job that a pin can do, by a numbered instance of a peripheral: ``pwm:A.1``.

    An instance that can be led to several groups of pins, but only as a whole, names the group: ``uart:1.tx~2``.
    """

    kind: str
    instance: str = ""
    channel: str = ""
    remap: str = ""

    def __str__(self) -> str:
        tail = (f".{self.channel}" if self.channel else "") + (f"~{self.remap}" if self.remap else "")
        return f"{self.kind}:{self.instance}{tail}" if self.instance else self.kind

    @property
    def unit(self) -> str:
        """The instance that does the job, as boards list it: ``pwm:A``."""
        return f"{self.kind}:{self.instance}" if self.instance else ""


KINDS = ("digital", "input", "output", "adc", "dac", "pwm", "i2c", "spi", "uart", "onewire", "capture", "touch",
         "sink", "source", "bridge", "stream")  # fmt: skip
"""what pins can do; "input" is a level that can be read but not driven, "output" one that can be driven but not read;
sink, source and bridge switch the current of a load; "stream" hands on a timed protocol"""
FUNCTION = re.compile(r"(?P<kind>[a-z0-9]+)"
                      r"(?::(?P<instance>[A-Za-z0-9]+)(?:\.(?P<channel>[a-z0-9-]+))?(?:~(?P<remap>[a-z0-9]+))?)?")  # fmt: skip


@lru_cache(4096)
def parse_function(text: str) -> Function:
    """The function that ``pwm:A.1`` spells.

    >>> parse_function("i2c:1.sda")
    Function(kind='i2c', instance='1', channel='sda', remap='')
    """
    found = FUNCTION.fullmatch(text)
    if not found:
        raise ValueError(f"{text!r} is not a function such as 'digital', 'pwm:A.1' or 'i2c:1.sda'")
    return Function(found["kind"], *(found[part] or "" for part in ("instance", "channel", "remap")))


class Divider(_Item):
    """How a unit makes its rate: rate = hz / (times * divisor).

    The divisors are `steps`, or where there are none every one from `least` to `most` in steps of `finest`."""

    hz: float
    """the clock that goes in"""
    error: float = 0.0
    """how far that clock may be off, as a share"""
    steps: tuple[float, ...] = ()
    least: float = 1.0
    most: float = 1.0
    finest: float = 1.0
    times: float = 1.0
    """divided clocks for each bit: a UART looks at a bit 16 times"""


class Counter(Divider):
    """A divider with a counter behind it: frequency = hz / (divisor * counts)."""

    bits: int = 16
    full: bool = False
    """it always counts to its end, 2^bits; elsewhere a program says how far"""
    less_one: bool = False
    """a program writes the divisor less one"""


class _Clocked(_Item, kw_only=True):
    """How fast a unit can run."""

    rate: Divider | None = None
    """of an SPI controller or a UART"""
    counter: Counter | None = None
    """of a timer"""
    speeds: tuple[float, ...] = ()
    """of an I2C bus: the clocks that it can be given, Hz, the usual one first"""
    waits: bool = True
    """of an I2C bus: it waits while a device holds the clock low"""


class Peripheral(_Clocked):
    """What the channels of one instance have in common."""

    title: str
    shares: tuple[str, ...] = ()
    """what its channels cannot have each for itself, e.g. "frequency" """
    number: str = ""
    """what the system or a program calls it, where that differs: "i2c-7" """
    device: str = ""
    """the file by which programs reach it on Linux: "/dev/i2c-7" """
    group: str = ""
    """who is in this group of users may open that file"""
    residents: dict[str, int] = {}
    """what the board itself has on an I2C bus: {what: its address, of 7 bits}"""
    setting: str = ""
    """what has to be switched on first"""
    least_hz: float = 0.0
    most_hz: float = 1e12
    """frequencies of pulses that it can give at all"""
    note: str = ""


class Pool(_Clocked):
    """Units that the board can lead to any pin that offers ``kind:any``."""

    title: str
    kind: str
    channels: int
    """how many pins can have one at a time"""
    frequencies: int = 0
    """how many different frequencies they can have among them; 0 where each has its own"""
    note: str = ""


class Setting(_Item):
    """Something that the board's system has on or off at first, and that its owner can change."""

    title: str
    starts: Literal["on", "off"]
    how: str
    """how it is changed"""
    note: str = ""


class Strap(_Item):
    """A level that the board reads at a pin when it starts."""

    title: str
    level: Literal["high", "low"]
    """what it has to be for a usual start"""
    otherwise: str
    """what happens when it is not"""
    pull_ohm: float | None = None
    """the resistor on the board that holds it there"""


class Reservation(_Item):
    """Something that already uses pins, and what lifts that."""

    title: str
    reason: str
    lifted_by: str
    severity: Literal["stop", "care", "note"] = "care"
    setting: str = ""
    """the pins are free while this is switched off"""


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
    kelvin_per_watt: float = 0.0
    """thermal resistance of a linear regulator, junction to air; 0 where nobody says"""
    holds_v: float | None = None
    """below this the board resets"""
    own_usual_a: float = 0.0
    own_worst_a: float = 0.0
    accepts: Range | None = None
    """what a supply may feed in at its pins; nothing where it only gives"""
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
    blocked_by: str = ""
    """it cannot be used while this setting is on"""
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
    starting: PowerOn | Literal[""] = ""
    """what it becomes after that, until a program runs, where that differs"""
    fitted_pull_ohm: float | None = None
    """a resistor on the board itself, to the driver's rail"""
    reserved: str = ""
    strap: str = ""
    x_mm: float | None = None
    """where it lies along a header whose contacts are not evenly spaced"""
    wide_mm: float = 0.0
    note: str = ""

    def jobs(self, kind: str) -> list[Function]:
        """The pin's functions of one kind."""
        return [f for f in map(parse_function, self.functions) if f.kind == kind]

    @property
    def drives(self) -> bool:
        """A program can set its level."""
        return "digital" in self.functions or "output" in self.functions

    @property
    def reads(self) -> bool:
        """A program can read its level."""
        return "digital" in self.functions or "input" in self.functions

    @property
    def wakes(self) -> tuple[str, ...]:
        """What it is before a program runs, one after another."""
        return (self.power_on, self.starting) if self.starting and self.starting != self.power_on else (self.power_on,)

    @property
    def wakes_words(self) -> str:
        """The same in words: "pulled up, then toggling"."""
        return ", then ".join(WAKES[w] for w in self.wakes)


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
    memory_bytes: int = 0
    """that a program can use; 0 where an operating system has plenty"""
    all_pins_note: str = ""
    banks: dict[str, Bank] = {}
    peripherals: dict[str, Peripheral] = {}
    converters: dict[str, Converter] = {}
    reservations: dict[str, Reservation] = {}
    pools: dict[str, Pool] = {}
    settings: dict[str, Setting] = {}
    straps: dict[str, Strap] = {}
    keeps_time: tuple[str, ...] = ("digital", "input")
    """kinds of functions whose levels a program times to a microsecond; with an operating system around it, only
    those that hardware makes"""
    note: str = ""

    def pool(self, kind: str) -> Pool | None:
        """The pool of one kind of function, if the board has one."""
        return next((p for p in self.pools.values() if p.kind == kind), None)

    def name(self, pin_id: str, scheme: str) -> str:
        """What a pin is called in a scheme; a pin that has no name there keeps its printed one."""
        names = self.pins[pin_id].names
        return names.get(scheme) or names.get("label") or next(iter(names.values()), pin_id)

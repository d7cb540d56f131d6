"""Timers, buses and converters, and how they make their rates."""

from knotplan.catalog.board.item import Item


class Divider(Item):
    """How a unit makes its rate: rate = hz / (times * divisor).

    The divisors are `steps`, or where there are none every one from
    `least` to `most` in steps of `finest`."""

    hz: float
    """the clock that goes in"""
    error: float = 0.0
    """how far that clock may be off, as a share"""
    steps: tuple[float, ...] = ()
    """the divisors that there are"""
    least: float = 1.0
    """the least divisor"""
    most: float = 1.0
    """the largest divisor"""
    finest: float = 1.0
    """from one divisor to the next"""
    times: float = 1.0
    """divided clocks for each bit: a UART looks at a bit 16 times"""


class Counter(Divider):
    """A divider with a counter behind it: frequency = hz / (divisor * counts)."""

    bits: int = 16
    """how far it counts: 2^bits"""
    full: bool = False
    """it always counts to its end, 2^bits; elsewhere a program says how far"""
    less_one: bool = False
    """a program writes the divisor less one"""


class Clocked(Item, kw_only=True):
    """How fast a unit can run."""

    rate: Divider | None = None
    """of an SPI controller or a UART"""
    counter: Counter | None = None
    """of a timer"""
    speeds: tuple[float, ...] = ()
    """of an I2C bus: the clocks that it can be given, Hz, the usual one first"""
    waits: bool = True
    """of an I2C bus: it waits while a device holds the clock low"""


class Peripheral(Clocked):
    """What the channels of one instance have in common."""

    title: str
    """what it is called"""
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
    """the lowest frequency of pulses, Hz"""
    most_hz: float = 1e12
    """frequencies of pulses that it can give at all"""
    time_base: bool = False
    """the system counts its time by it: another frequency upsets delays"""
    note: str = ""
    """what else is worth knowing"""


class Pool(Clocked):
    """Units that the board can lead to any pin that offers ``kind:any``."""

    title: str
    """what they are called"""
    kind: str
    """the kind of function"""
    channels: int
    """how many pins can have one at a time"""
    frequencies: int = 0
    """how many different frequencies they can have among them; 0 where each has its own"""
    note: str = ""
    """what else is worth knowing"""


class Converter(Item):
    """Analogue inputs: resolution and the rail they measure against."""

    title: str
    """what it is called"""
    bits: int
    """its resolution"""
    reference: str
    """the rail that it measures against"""
    blocked_by: str = ""
    """it cannot be used while this setting is on"""
    note: str = ""
    """what else is worth knowing"""

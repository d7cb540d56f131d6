"""A dialect: which calls and words of a program mean what. It is data; shipped ones and makers' own are
alike."""

from typing import Literal

from msgspec import Struct

Does = Literal[
    "",
    "setup",
    "write",
    "read",
    "pulse",
    "wait",
    "i2c",
    "bus",
    "spi",
    "uart",
    "steps",
    "pixels",
    "settings",
    "path",
]
"""what a call does: nothing of its own (it gives a thing), sets a pin up, sets its level, reads it, gives
pulses, waits, speaks to an address, opens a bus, sets SPI or a UART up, says steps a turn, sets pixels up,
holds settings, writes a file"""
Role = Literal[
    "pin",
    "direction",
    "level",
    "bias",
    "active_low",
    "seconds",
    "hertz",
    "period_s",
    "pulse_s",
    "address",
    "bus",
    "mode",
    "baud",
    "steps",
    "pixels",
    "user",
    "settings",
    "path",
    "text",
    "coils",
]
"""what an argument is"""


class CallMeans(Struct, frozen=True, forbid_unknown_fields=True):
    """What one call means."""

    name: str
    """as it is written: "gpiod.request_lines"; ".set_value" for a method of whatever; "request.set_value" for
    a method of a thing that another call gives; "spi.mode=" for a field that is set"""
    does: Does = ""
    gives: str = ""
    """the name of the thing that it gives"""
    args: dict[Role, str] = {}
    """where each argument is: "0" by its place, "config" by its name, both as "0|config"; ".keys", ".values"
    of a dictionary; "self" for the thing whose method it is; "rest" for all of them as a list"""
    fixed: dict[Role, str | int | float | bool] = {}
    """what the call itself says: that it is an output"""
    times: float = 1.0
    """of a time: what one of its unit is in seconds"""


class Words(Struct, frozen=True, forbid_unknown_fields=True):
    """Which symbols of programs mean what; compared by their last part."""

    output: tuple[str, ...] = ()
    input: tuple[str, ...] = ()
    high: tuple[str, ...] = ()
    low: tuple[str, ...] = ()
    pull_up: tuple[str, ...] = ()
    pull_down: tuple[str, ...] = ()
    no_pull: tuple[str, ...] = ()
    active_low: tuple[str, ...] = ()
    active_high: tuple[str, ...] = ()


class Dialect(Struct, frozen=True, forbid_unknown_fields=True):
    """One way of speaking to pins and buses."""

    title: str
    languages: tuple[str, ...]
    """c, cpp, python, devicetree"""
    scheme: str = ""
    """in which its pin numbers count; empty for the one that the plan's program speaks"""
    known_by: tuple[str, ...] = ()
    """imports, headers or texts that show that a program speaks it"""
    calls: tuple[CallMeans, ...] = ()
    words: Words = Words()
    level_is_active: bool = False
    """a level of 1 means on, whichever level that is on the pin: a line that is active-low is inverted
    below"""
    id: str = ""

"""What a lead requires: the catalogue's vocabulary of needs.

A lead lists its alternatives in order of preference: an LED's anode may go to an output or to a
supply. Voltages are relative to the part's own ground, in volts; currents in amperes.
"""

from typing import Literal

import msgspec


class _Need(msgspec.Struct, frozen=True, forbid_unknown_fields=True, tag_field="kind"):
    pass


class Output(_Need, tag="output"):
    """A pin that drives the lead high and low."""

    active: Literal["high", "low"] = "high"
    high_v: float | None = None
    """least voltage that the lead takes as high"""
    low_v: float | None = None
    """most voltage that the lead takes as low"""
    wakes_load: bool = False
    """an active level switches something that a person notices (a relay, a motor)"""


class Pulse(_Need, tag="pulse"):
    """A pin that gives timed pulses by hardware."""

    frequency_hz: float
    least_s: float | None = None
    most_s: float | None = None
    active: Literal["high", "low"] = "high"
    high_v: float | None = None
    low_v: float | None = None
    wakes_load: bool = False


class Input(_Need, tag="input"):
    """A pin that reads the lead's level."""

    contact: bool = False
    """the lead is a bare contact that holds no level of its own when open"""


class Analog(_Need, tag="analog"):
    """A pin that measures the lead's voltage."""


class Bus(_Need, tag="bus"):
    """A pin of a bus instance, in one of its roles; all of a part's leads on a bus go to one instance."""

    bus: Literal["i2c", "spi", "uart"]
    role: str
    """the channel as boards name it: "sda", "sclk", "select", "tx" """

    @property
    def shared(self) -> bool:
        """Several parts may hang on the same pin."""
        return self.role in ("sda", "scl", "sclk", "mosi", "miso")


class Supply(_Need, tag="supply"):
    """A rail within these volts."""

    least_v: float
    most_v: float
    jerks: bool = False
    """the load starts and stalls so hard that it pulls a weak rail down (a motor, a servo)"""
    signal: bool = False
    """only milliamperes that belong to a signal flow here (an LED's anode, the top of a knob)"""


class Ground(_Need, tag="ground"):
    """The common return."""


class Feed(_Need, tag="feed"):
    """A socket through which a supply feeds a board."""


class Gives(_Need, tag="gives"):
    """The live end of a supply: it offers, and needs nothing."""


Need = Output | Pulse | Input | Analog | Bus | Supply | Ground | Feed | Gives
Driven = (Output, Pulse)
"""needs that are met by a pin that drives"""


BUSES = {"i2c": "I2C", "spi": "SPI", "uart": "UART"}
ROLES = {"sda": "data", "scl": "clock", "sclk": "clock", "tx": "transmit", "rx": "receive"}


def brief(need: Need) -> str:
    """The need as it fits on a card."""
    match need:
        case Pulse(frequency_hz=f):
            return f"pulses, {f:g} Hz" if f < 1000 else f"pulses, {f / 1000:g} kHz"
        case Supply(least_v=a, most_v=b):
            return f"{a:g} – {b:g} V"
    return words(need)


def words(need: Need) -> str:
    """The need in a few words, as the interface and the sheets print it."""
    match need:
        case Output(active=active):
            return f"output, active {active}"
        case Pulse(frequency_hz=f, least_s=a, most_s=b):
            rate = f"{f:g} Hz" if f < 1000 else f"{f / 1000:g} kHz"
            return f"pulses at {rate}" + (f", {a * 1e3:g} – {b * 1e3:g} ms" if a and b else "")
        case Input(contact=contact):
            return "input for a contact" if contact else "input"
        case Analog():
            return "analogue input"
        case Bus(bus=bus, role=role):
            return f"{BUSES[bus]} {ROLES.get(role, role)}"
        case Supply(least_v=a, most_v=b):
            return f"supply, {a:g} – {b:g} V"
        case Ground():
            return "ground"
        case Feed():
            return "feeds a board"
        case Gives():
            return "gives power"

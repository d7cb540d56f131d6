"""What a lead requires: the catalogue's vocabulary of needs.

A lead lists its alternatives in order of preference: an LED's anode may go to an output or to a
supply. Voltages are relative to the part's own ground, in volts; currents in amperes.
"""

from typing import Literal

import msgspec


class _Need(msgspec.Struct, frozen=True, forbid_unknown_fields=True, tag_field="kind"):
    pass


class _Level(_Need):
    """What a lead takes as high and low; shares are of the voltage of
    the part's lead `of`, its own supply."""

    high_v: float | None = None
    """least voltage that the lead takes as high"""
    low_v: float | None = None
    """most voltage that the lead takes as low"""
    high_share: float | None = None
    """the same as a share of the supply"""
    low_share: float | None = None
    """the same as a share of the supply"""
    of: str = ""
    """the lead with that supply"""
    most_v: float | None = None
    """most voltage that the lead bears"""


class Output(_Level, tag="output"):
    """A pin that drives the lead high and low."""

    active: Literal["high", "low"] = "high"
    """the level at which the part does what it is for"""
    wakes_load: bool = False
    """an active level switches something that a person notices (a relay, a motor)"""


class Pulse(_Level, tag="pulse", kw_only=True):
    """A pin that gives timed pulses by hardware."""

    frequency_hz: float
    """how often they come, Hz"""
    least_s: float | None = None
    """the shortest that means something, s"""
    most_s: float | None = None
    """the longest that means something, s"""
    active: Literal["high", "low"] = "high"
    """the level of a pulse"""
    wakes_load: bool = False
    """an active level switches something that a person notices"""
    loose: bool = False
    """only the mean counts: any frequency does that is too fast to be noticed"""


class Stream(_Level, tag="stream", kw_only=True):
    """A pin that keeps a timed protocol on a single line, out of the pin or both ways."""

    protocol: Literal["pixels", "one-wire", "single-line"]
    """which one"""
    finest_s: float
    """the shortest time that the protocol tells apart"""
    answers: bool = False
    """the part answers on the same line"""

    @property
    def shared(self) -> bool:
        """Several parts may hang on the same pin."""
        return self.protocol == "one-wire"


class Switched(_Need, tag="switched", kw_only=True):
    """A hub's contact that switches the current of a load: more than a pin can."""

    by: Literal["low", "high", "bridge"]
    """to ground, to a supply, or either way"""
    worst_a: float
    """the load's current at worst, A"""
    volts: float
    """what the load is made for"""


class Input(_Need, tag="input"):
    """A pin that reads the lead's level."""

    contact: bool = False
    """the lead is a bare contact that holds no level of its own when open"""
    measured_s: float | None = None
    """the length of its pulses is measured, this finely"""
    open_drain: bool = False
    """the lead pulls low only; a pull-up makes its high"""


class Analog(_Need, tag="analog"):
    """A pin that measures the lead's voltage."""


class Bus(_Need, tag="bus"):
    """A pin of a bus instance, in one of its roles; all of a part's leads on a bus go to one instance."""

    bus: Literal["i2c", "spi", "uart"]
    """which one"""
    role: str
    """the channel as boards name it: "sda", "sclk", "select", "tx": of the pin,
    so that a lead that sends needs "rx" """
    high_v: float | None = None
    """least voltage that the lead takes as high, V"""
    high_share: float | None = None
    """the same as a share of the supply"""
    of: str = ""
    """the lead with that supply"""
    most_v: float | None = None
    """most voltage that the lead bears, V"""

    @property
    def shared(self) -> bool:
        """Several parts may hang on the same pin."""
        return self.role in SHARED

    @property
    def driven(self) -> bool:
        """The board's pin drives it high and low (the lines of I2C are only ever pulled low)."""
        return self.role in ("sclk", "mosi", "select", "tx")


SHARED = ("sda", "scl", "sclk", "mosi", "miso")


class Supply(_Need, tag="supply"):
    """A rail within these volts."""

    least_v: float
    """with less it does not work, V"""
    most_v: float
    """more it does not bear, V"""
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


class Open(_Need, tag="open"):
    """Nothing: a contact that stays free unless somebody wants it (a
    relay's), or an output for another part."""


class Coupled(_Need, tag="coupled"):
    """Whatever the load needs that hangs on the other side: a relay's common contact, a bar's feed."""


Need = (
    Output
    | Pulse
    | Stream
    | Switched
    | Input
    | Analog
    | Bus
    | Supply
    | Ground
    | Feed
    | Gives
    | Open
    | Coupled
)
Driven = (Output, Pulse, Stream)
"""needs that are met by a pin that drives"""


PLAIN: dict[type, str] = {
    Ground: "ground",
    Feed: "feeds a board",
    Gives: "gives power",
    Analog: "analogue input",
    Open: "output for another part",
    Coupled: "what it passes on",
}
STREAMS = {"pixels": "pixel data", "one-wire": "one-wire data", "single-line": "single-line data"}
SWITCHES = {"low": "switched to ground", "high": "switched supply", "bridge": "driven either way"}
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
        case Stream(protocol=protocol):
            return STREAMS[protocol]
        case Switched(by=by, worst_a=a):
            return f"{SWITCHES[by]}, {a:g} A"
        case Bus(bus=bus, role=role):
            return f"{BUSES[bus]} {ROLES.get(role, role)}"
        case Supply(least_v=a, most_v=b):
            return f"supply, {a:g} – {b:g} V"
    return PLAIN[type(need)]

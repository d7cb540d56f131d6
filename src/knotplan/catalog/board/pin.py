"""A contact of the board, and its names."""

from typing import Literal

from knotplan.catalog.board.function import Function, parse_function
from knotplan.catalog.board.item import Item

SupplyKind = Literal["io", "supply", "ground", "control", "unconnected", "contact"]
"""a contact passes on whatever comes in at another one: only hubs have some"""


PowerOn = Literal["pull-up", "pull-down", "floating", "high", "low", "toggling"]


After = Literal["stays", "input", "power-on"]
AFTER_WORDS: dict[str, str] = {
    "stays": "stays as the program left it",
    "input": "becomes an input without a pull",
    "power-on": "is again what it is at power-on",
}
"""what a pin does after a program has ended or crashed, in words"""


POWER_ON_WORDS: dict[str, str] = {
    "pull-up": "pulled up",
    "pull-down": "pulled down",
    "floating": "floating",
    "high": "high",
    "low": "low",
    "toggling": "toggling",
}
"""what a pin is before a program runs, in words"""


KERNEL = "kernel"
"""the scheme in which boards with a Linux system have the offsets of the GPIO character device"""


class Scheme(Item):
    """One way of naming pins."""

    title: str
    """what the scheme is called"""
    short: str = ""
    """in one word, where there is not room for more"""
    prefixes: tuple[str, ...] = ()
    """what may be left off or put before a name: "L" for "L12", "pos" for "pos 12" """
    note: str = ""
    """where its names are met"""
    other_end: bool = False
    """numbers that people easily count from the wrong end"""


class Pin(Item):
    """A contact of the board."""

    row: int
    """its row in the header, from 1"""
    col: int
    """its column in the header, from 1"""
    names: dict[str, str]
    """its name in each scheme, by the scheme's key; under `label` what is printed where no scheme has it"""
    header: str = "main"
    """the header that it is in"""
    kind: SupplyKind = "io"
    """what kind of contact it is"""
    rail: str = ""
    """the rail that a supply pin brings out"""
    functions: tuple[str, ...] = ()
    """what it can do: `digital`, `input`, `pwm:0.2`, `i2c:1.sda`"""
    driver: str = "io"
    """its electrical character"""
    power_on: PowerOn = "floating"
    """what it is at power-on"""
    starting: PowerOn | Literal[""] = ""
    """what it becomes after that, until a program runs, where that differs"""
    after: After | Literal[""] = ""
    """what it does after a program has ended or crashed, where that is not as on the rest of the board"""
    fitted_pull_ohm: float | None = None
    """a resistor on the board itself, to the driver's rail"""
    reserved: str = ""
    """what already uses it"""
    strap: str = ""
    """the level that the board reads there at start"""
    x_mm: float | None = None
    """where it lies along a header whose contacts are not evenly spaced"""
    wide_mm: float = 0.0
    """how wide its pad is; 0 for the usual"""
    note: str = ""
    """what else is worth knowing"""

    def jobs(self, kind: str) -> list[Function]:
        """The pin's functions of one kind."""
        return [f for f in map(parse_function, self.functions) if f.kind == kind]

    @property
    def hands_on(self) -> bool:
        """A contact of a part that passes a timed protocol on to the next one."""
        return bool(self.jobs("stream"))

    @property
    def drives(self) -> bool:
        """A program can set its level."""
        return "digital" in self.functions or "output" in self.functions

    @property
    def reads(self) -> bool:
        """A program can read its level."""
        return "digital" in self.functions or "input" in self.functions

    @property
    def power_on_states(self) -> tuple[str, ...]:
        """What it is before a program runs, one after another."""
        return (
            (self.power_on, self.starting)
            if self.starting and self.starting != self.power_on
            else (self.power_on,)
        )

    @property
    def power_on_words(self) -> str:
        """The same in words: "pulled up, then toggling"."""
        return ", then ".join(POWER_ON_WORDS[w] for w in self.power_on_states)

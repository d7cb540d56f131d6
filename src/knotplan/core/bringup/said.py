"""What a bench says of itself, as it was read: nothing here is compared yet."""

from typing import Literal

from msgspec import Struct

Answer = Literal["answers", "driver", "silent", "not tried"]
"""of an address in a scan; driver: it was not asked, because a driver of the system has it"""

Direction = Literal["", "input", "output"]
Bias = Literal["", "pull-up", "pull-down", "disabled"]
Drive = Literal["", "open-drain", "open-source"]
"""of a line; nothing where the system does not say"""
Level = Literal[0, 1]


class BusScan(Struct, frozen=True):
    """Which addresses of a bus answer."""

    bus: int | None
    """as the system counts it; nothing where the scan does not say"""
    cells: dict[int, Answer]
    """by address of 7 bits; what is missing was not tried"""
    place: str = ""
    """where it was read: "line 3" """
    trouble: str = ""
    """why the bus could not be asked; then there are no cells"""

    def answer(self, address: int) -> Answer:
        """What was heard at an address."""
        return self.cells.get(address, "not tried")

    @property
    def heard(self) -> tuple[int, ...]:
        """The addresses at which somebody is."""
        return tuple(a for a, answer in sorted(self.cells.items()) if answer in ("answers", "driver"))


class LineState(Struct, frozen=True, forbid_unknown_fields=True):
    """One line of a GPIO chip, as the system has it; a bench file has it by the same names."""

    chip: str
    offset: int
    """below 0 where it is known by its name alone"""
    name: str = ""
    used_by: str = ""
    direction: Direction = ""
    bias: Bias = ""
    active_low: bool = False
    """the user of the line sees its level inverted"""
    drive: Drive = ""
    level: Level | None = None
    """the level on the pin itself, where it is known"""

    @property
    def title(self) -> str:
        """What it is called at the bench."""
        if self.offset < 0:
            return self.name
        named = f" ({self.name})" if self.name else ""
        return f"{self.chip or 'gpiochip'} line {self.offset}{named}"

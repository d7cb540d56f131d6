"""What the system and a program call a bus, what has to be switched on first, and who may use it."""

import re

from msgspec import Struct

from knotplan.catalog.board.units import Peripheral
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.unit_id import UnitId


class Called(Struct, frozen=True):
    """A bus as a program finds it."""

    number: str
    """"i2c-7"; empty where nobody counts"""
    device: str
    group: str
    switch_on: str
    """how a setting that it needs is switched on, where it is off"""

    @property
    def lines(self) -> list[str]:
        """In sentences, what there is to say."""
        lines = []
        if self.number:
            lines.append(f"The system counts it as {self.number}.")
        if self.device:
            lines.append(f"Programs reach it as {self.device}.")
        if self.group:
            lines.append(f"Who uses it has to be in the group {self.group}, or be root.")
        if self.switch_on:
            lines.append(f"Off until switched on: {self.switch_on}.")
        return lines


def called(c: Circuit, unit: UnitId | None) -> Called:
    """A unit in the words of the system; empty words where the board has none."""
    spec = c.hardware.unit_spec(unit)
    if not isinstance(spec, Peripheral):
        return Called("", "", "", "")
    setting = c.board.settings.get(spec.setting)
    off = setting.how if setting is not None and not c.hardware.is_on(spec.setting) else ""
    return Called(spec.number, spec.device, spec.group, off)


def number_of(c: Circuit, unit: UnitId) -> int | None:
    """The number by which a program opens a bus: that of the system, else that of the chip.

    >>> from knotplan.catalog.load import shipped
    >>> from knotplan.core.plan.document import Plan
    >>> number_of(Circuit(Plan("capstan-34"), shipped()), UnitId("board", "i2c", "0"))
    7
    """
    spec = c.hardware.unit_spec(unit)
    text = (spec.number if isinstance(spec, Peripheral) else "") or unit.instance
    digits = re.search(r"\d+$", text.partition(",")[0])
    return int(digits[0]) if digits else None

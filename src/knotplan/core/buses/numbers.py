"""What the system and a program call a bus, what has to be switched on first, and who may use it."""

import re

from msgspec import Struct

from knotplan.catalog.boards import Peripheral
from knotplan.core.buses.addresses import trunk
from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.uart import links
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.timing.pulses import timers


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
        said = []
        if self.number:
            said.append(f"The system counts it as {self.number}.")
        if self.device:
            said.append(f"Programs reach it as {self.device}.")
        if self.group:
            said.append(f"Who uses it has to be in the group {self.group}, or be root.")
        if self.switch_on:
            said.append(f"Off until switched on: {self.switch_on}.")
        return said


def called(c: Circuit, unit: str) -> Called:
    """A unit in the words of the system; empty words where the board has none."""
    spec = c.unit_spec(unit)
    if not isinstance(spec, Peripheral):
        return Called("", "", "", "")
    setting = c.board.settings.get(spec.setting)
    off = setting.how if setting is not None and not c.is_on(spec.setting) else ""
    return Called(spec.number, spec.device, spec.group, off)


def permissions(c: Circuit) -> list[str]:
    """Which groups of users a program has to be in for the buses and timers that the plan uses, in sentences."""
    units = [trunk(c, b.bus)[-1].unit for b in i2c_buses(c) if b.devices]
    units += [k.unit for k in controllers(c) if k.unit] + [x.unit for x in links(c) if x.unit] + [t.unit for t in timers(c)]
    by_group: dict[str, list[str]] = {}
    for unit in dict.fromkeys(units):
        says = called(c, unit)
        if says.group and says.device:
            by_group.setdefault(says.group, []).append(says.device)
    return [f"Be in the group {group}, or root, to use {' and '.join(devices)}." for group, devices in by_group.items()]


def number_of(c: Circuit, unit: str) -> int | None:
    """The number by which a program opens a bus: that of the system, else that of the chip.

    >>> from knotplan.catalog.load import shipped
    >>> from knotplan.core.plan.document import Plan
    >>> number_of(Circuit(Plan("capstan-34"), shipped()), "board.i2c:0")
    7
    """
    spec = c.unit_spec(unit)
    text = (spec.number if isinstance(spec, Peripheral) else "") or split(unit)[1].rpartition(":")[2]
    digits = re.search(r"\d+$", text.partition(",")[0])
    return int(digits[0]) if digits else None

"""Who may use the buses, timers and lines of a plan."""

from collections.abc import Iterator

from knotplan.catalog.part.needs import Input, Output
from knotplan.core.buses.addresses import trunk
from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.buses.numbers import called
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.uart import links
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import BOARD, split
from knotplan.core.timing.pulses import timers

GPIO_DEVICE = "/dev/gpiochip*"


def permissions(c: Circuit) -> list[str]:
    """Which groups of users a program has to be in for the buses and
    timers that the plan uses, in sentences."""
    return [
        f"Be in the group {group}, or root, to use {' and '.join(devices)}."
        for group, devices in devices_by_group(c).items()
    ]


def devices_by_group(c: Circuit) -> dict[str, list[str]]:
    """By group: the device files of buses and timers that the plan uses."""
    units = [trunk(c, b.bus)[-1].unit for b in i2c_buses(c) if b.devices]
    units += (
        [k.unit for k in controllers(c) if k.unit]
        + [x.unit for x in links(c) if x.unit]
        + [t.unit for t in timers(c)]
    )
    by_group: dict[str, list[str]] = {}
    for unit in dict.fromkeys(units):
        says = called(c, unit)
        if says.group and says.device:
            by_group.setdefault(says.group, []).append(says.device)
    return by_group


def lines(c: Circuit) -> Iterator[tuple[str, str]]:
    """(group, device file) of the GPIO lines, where the board has a system and a program sets or reads
    one."""
    if c.board.devicetree is None:
        return
    plain = (c.needs.of(tie.lead) for contact, _, tie in c.ties.on_pins() if split(contact)[0] == BOARD)
    if any(isinstance(need, Output | Input) for need in plain):
        yield c.board.devicetree.gpio_group, GPIO_DEVICE

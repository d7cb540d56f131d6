"""Who may use the buses and timers of a plan."""

from knotplan.core.buses.addresses import trunk
from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.buses.numbers import called
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.uart import links
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.timing.pulses import timers


def permissions(c: Circuit) -> list[str]:
    """Which groups of users a program has to be in for the buses and
    timers that the plan uses, in sentences."""
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
    return [
        f"Be in the group {group}, or root, to use {' and '.join(devices)}."
        for group, devices in by_group.items()
    ]

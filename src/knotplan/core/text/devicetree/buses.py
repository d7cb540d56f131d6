"""Buses and what hangs on them, as nodes of their controllers (bindings i2c/i2c-controller, i2c/i2c-mux,
spi/spi-controller)."""

import re
from collections.abc import Iterator

from knotplan.catalog.board.devicetree import Devicetree
from knotplan.catalog.part.needs import Bus
from knotplan.core.buses.addresses import Place, named
from knotplan.core.buses.i2c import I2cBus, i2c_buses
from knotplan.core.buses.spi import Controller, Select, controllers
from knotplan.core.buses.uart import links
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.plan.document import BOARD, split
from knotplan.core.text.devicetree.lines import ACTIVE_LOW, gpio
from knotplan.core.text.devicetree.node import (
    Cells,
    Hex,
    Node,
    Property,
    Target,
    node_name,
    properties,
    unlike,
)
from knotplan.core.text.devicetree.settings import GPIO, Held, PinSettings

NO_DRIVER = "compatible: put in what your device's driver is called (`vendor,device`), then take out `status`"


class Buses:
    """The targets that are buses."""

    def __init__(self, c: Circuit, tree: Devicetree, settings: PinSettings):
        self._c, self._tree, self._settings = c, tree, settings
        self.used: set[str] = set()
        """pins that a bus has"""

    def targets(self) -> Iterator[Target]:
        """Every bus with something on it that the board's tree has."""
        buses = i2c_buses(self._c)
        for bus in buses:
            label = self._label(bus.bus.unit)
            if label and any(p.part for p in bus.devices):
                yield self._i2c(bus, buses, label)
        for controller in controllers(self._c):
            label = self._label(controller.unit) if controller.unit is not None else ""
            if label and controller.unit is not None:
                yield self._spi(controller, controller.unit, label)
        for link in links(self._c):
            label = self._label(link.unit) if link.unit is not None else ""
            if label and link.unit is not None:
                pins = self._pins_of(link.unit)
                self.used |= {p for p, _ in pins}
                status = properties(status="okay")
                yield Target(label, status + self._settings.of(label, label, pins))

    def _label(self, unit: UnitId) -> str:
        return self._tree.units.get(unit.name, "") if unit.on_board else ""

    def _pins_of(self, unit: UnitId) -> list[Held]:
        """The pins of a unit that the plan uses for it; what else is tied to one of its pins is no part of
        it. Buses bring their pull-ups themselves."""
        found = []
        for contact, pin, tie in self._c.ties.on_pins():
            need = self._c.needs.of(tie.lead)
            on_bus = isinstance(need, Bus) and need.bus == unit.kind and split(contact)[0] == BOARD
            if on_bus and any(j.instance == unit.instance for j in pin.jobs(unit.kind)):
                found.append((contact, "none"))
        return found

    def _i2c(self, bus: I2cBus, buses: tuple[I2cBus, ...], label: str) -> Target:
        pins = self._pins_of(bus.bus.unit)
        self.used |= {p for p, _ in pins}
        head = properties(status="okay", clock_frequency=(round(bus.hz),))
        cells = _cells()
        return Target(
            label, head + cells + self._settings.of(label, label, pins), tuple(self._answering(bus, buses))
        )

    def _answering(self, bus: I2cBus, buses: tuple[I2cBus, ...]) -> Iterator[Node]:
        names: set[str] = set()
        for place in bus.devices:
            if place.part:
                yield self._device(place, buses, names)

    def _device(self, place: Place, buses: tuple[I2cBus, ...], names: set[str]) -> Node:
        branches = [b for b in buses if b.bus.unit.owner == place.part]
        mux = _cells() if branches else ()
        children = []
        for branch in branches:
            number = re.search(r"\d+$", branch.bus.unit.instance)
            at = int(number[0]) if number else 0
            children.append(
                Node(
                    f"i2c@{at:x}",
                    (Property("reg", (Hex(at),)), *_cells()),
                    tuple(self._answering(branch, buses)),
                )
            )
        name = unlike(f"{node_name(self._c.placed[place.part].part)}@{place.address:x}", names)
        return self._driven(
            place.part, name, (Hex(place.address),), mux, tuple(children), named(self._c, place)
        )

    def _driven(
        self,
        part: str,
        name: str,
        reg: Cells,
        more: tuple[Property, ...],
        inside: tuple[Node, ...],
        title: str,
    ) -> Node:
        """A device on a bus: with its driver where the part's file says it, else switched off until somebody
        puts it in."""
        drivers = [b for b in self._c.parts[part].compatible if "," in b]
        head = properties(compatible=tuple(drivers)) if drivers else ()
        off = () if drivers else properties(status="disabled")
        remark = title if drivers else f"{title}. {NO_DRIVER}"
        said = (*head, Property("reg", reg), *more, *off)
        return Node(name, said, inside, remark=remark)

    def _spi(self, controller: Controller, unit: UnitId, label: str) -> Target:
        lines = [self._select(s) for s in controller.selects]
        plain = [(s.contact, "none") for s, line in zip(controller.selects, lines, strict=True) if line]
        own = [held for held in self._pins_of(unit) if held not in plain]
        self.used |= {contact for contact, _ in (*own, *plain)}
        head = properties(status="okay") + _cells()
        if plain:
            head += properties(cs_gpios=tuple(line or (0,) for line in lines))
        names: set[str] = set()
        children = [self._selected(controller, s, k, names) for k, s in enumerate(controller.selects)]
        settings = self._settings.of_all(label, {label: own, GPIO: plain})
        return Target(label, head + settings, tuple(children))

    def _select(self, select: Select) -> Cells | None:
        """The line of a select that is an ordinary pin; nothing where the controller drives it."""
        pin = self._c.contacts.pin(select.contact) if select.contact else None
        if pin is None or any(j.channel.startswith("select") for j in pin.jobs("spi")):
            return None
        return gpio(self._c, self._tree, select.contact, ACTIVE_LOW)

    def _selected(self, controller: Controller, select: Select, place: int, names: set[str]) -> Node:
        part = select.devices[0].part
        more = properties(spi_max_frequency=(round(controller.hz),))
        mode = min(controller.modes, default=0)
        more += (Property("spi-cpol", True),) if mode & 2 else ()
        more += (Property("spi-cpha", True),) if mode & 1 else ()
        title = ", then ".join(self._c.titles.part(d.part) for d in select.devices)
        name = unlike(f"{node_name(self._c.placed[part].part)}@{place:x}", names)
        return self._driven(part, name, (Hex(place),), more, (), title)


def _cells() -> tuple[Property, ...]:
    return (Property("#address-cells", (1,)), Property("#size-cells", (0,)))

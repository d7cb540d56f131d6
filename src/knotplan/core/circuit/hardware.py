"""What stands behind a contact: drivers, units, pools, and what the board's system has on or off."""

from collections.abc import Mapping

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.driver import Driver
from knotplan.catalog.board.function import Function
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.board.system import Reservation
from knotplan.catalog.board.units import Peripheral, Pool
from knotplan.catalog.part.part import Part
from knotplan.core.circuit.contacts import Contacts, hub_pins
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.plan.document import BOARD, split


class Hardware:
    """Drivers and units behind the contacts of a board and of hubs."""

    def __init__(self, board: Board, parts: Mapping[str, Part], contacts: Contacts, set_up: tuple[str, ...]):
        """`set_up`: the settings of the board that the plan changes."""
        self._board, self._parts, self._contacts, self._set_up = board, parts, contacts, set_up

    def driver(self, contact: str) -> Driver:
        """The electrical character of a signal pin; raises KeyError for other contacts."""
        owner, name = split(contact)
        if owner == BOARD:
            return self._board.drivers[self._board.pins[name].driver]
        part = self._parts[owner]
        return part.drivers[hub_pins(part)[name].driver]

    def driver_at(self, contact: str) -> Driver | None:
        """The same of any contact; nothing where it is no signal pin."""
        pin = self._contacts.pin(contact)
        return (
            self._contacts.owner(contact).drivers.get(pin.driver)
            if pin is not None and pin.kind == "io"
            else None
        )

    def unit(self, contact: str, job: Function) -> Peripheral | None:
        """The instance of a peripheral that does a pin's job."""
        return self._contacts.owner(contact).peripherals.get(job.unit)

    def unit_id(self, contact: str, job: Function) -> UnitId:
        """The instance, unique on the whole bench."""
        return UnitId(split(contact)[0], job.kind, job.instance)

    def unit_named(self, unit: UnitId | None) -> Peripheral | None:
        """What the catalogue says of an instance; nothing of pools, and of pins that a program drives."""
        if unit is None:
            return None
        holder = self._board if unit.on_board else self._parts.get(unit.owner)
        return holder.peripherals.get(unit.name) if holder else None

    def unit_spec(self, unit: UnitId | None) -> Peripheral | Pool | None:
        """The same, or what it says of the pool that the instance comes from."""
        if unit is not None and unit.on_board and unit.any_pin:
            return self._board.pool(unit.kind)
        return self.unit_named(unit)

    def pool(self, contact: str, kind: str) -> Pool | None:
        """The pool of one kind of function behind a pin."""
        return self._board.pool(kind) if split(contact)[0] == BOARD else None

    def is_on(self, setting: str) -> bool:
        """Whether a setting of the board is on, as the maker means to have
        it; one that is not there always is."""
        spec = self._board.settings.get(setting)
        return spec is None or (spec.starts == "on") != (setting in self._set_up)

    def system_changes(self) -> list[str]:
        """What has to be done to the board's system before the plan works, in words."""
        return [
            f"Switch {spec.title} {'on' if self.is_on(name) else 'off'}: {spec.how}."
            for name, spec in self._board.settings.items()
            if name in self._set_up
        ]

    def reservation(self, pin: Pin) -> Reservation | None:
        """What already uses a pin, unless the maker has switched that off."""
        held = self._board.reservations.get(pin.reserved)
        return None if held is None or (held.setting and not self.is_on(held.setting)) else held

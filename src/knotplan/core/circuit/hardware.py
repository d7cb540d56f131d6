"""What stands behind a contact: drivers, units, pools, and what the board's system has on or off."""

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.driver import Driver
from knotplan.catalog.board.function import ANY, Function
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.board.system import Reservation
from knotplan.catalog.board.units import Peripheral, Pool
from knotplan.catalog.part.part import Part
from knotplan.core.circuit.contacts import Contacts
from knotplan.core.plan.document import BOARD, split


class Hardware:
    """Drivers and units behind the contacts of a board and of hubs."""

    def __init__(self, board: Board, parts: dict[str, Part], contacts: Contacts, set_up: tuple[str, ...]):
        """`set_up`: the settings of the board that the plan changes."""
        self._board, self._parts, self._contacts, self._set_up = board, parts, contacts, set_up

    def driver(self, contact: str) -> Driver:
        """The electrical character of a signal pin; raises KeyError for other contacts."""
        return self._contacts.owner(contact).drivers[self._contacts.pins[contact].driver]

    def driver_at(self, contact: str) -> Driver | None:
        """The same of any contact; nothing where it is no signal pin."""
        pin = self._contacts.pins.get(contact)
        return (
            self._contacts.owner(contact).drivers.get(pin.driver)
            if pin is not None and pin.kind == "io"
            else None
        )

    def unit(self, contact: str, job: Function) -> Peripheral | None:
        """The instance of a peripheral that does a pin's job."""
        return self._contacts.owner(contact).peripherals.get(job.unit)

    def unit_id(self, contact: str, job: Function) -> str:
        """The instance, unique on the whole bench: ``board.pwm:A``, ``shutters.pwm:0``."""
        return f"{split(contact)[0]}.{job.kind}:{job.instance}"

    def unit_named(self, unit_id: str) -> Peripheral | None:
        """The instance of a `unit_id`."""
        owner, unit = split(unit_id)
        holder = self._board if owner == BOARD else self._parts.get(owner)
        return holder.peripherals.get(unit) if holder else None  # plain pins are nobody's unit

    def unit_spec(self, unit_id: str) -> Peripheral | Pool | None:
        """What the catalogue says of a unit, or of the pool that it comes from: `board.spi:0`,
        `board.pwm:any`; what stands behind an `@`, to tell sets of pins apart, does not matter.
        Nothing where there is no such unit."""
        owner, unit = split(unit_id.partition("@")[0])
        if owner == BOARD and unit.endswith(f":{ANY}"):
            return self._board.pool(unit.partition(":")[0])
        return self.unit_named(f"{owner}.{unit}") if owner == BOARD or owner in self._parts else None

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

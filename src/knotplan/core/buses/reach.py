"""How often a program can set or read a pin that it reaches over a bus only."""

from msgspec import Struct

from knotplan.core.buses.addresses import bus_of
from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import BOARD, split

WRITE_BITS, READ_BITS = 29, 39
"""clocks of one transfer, each byte with its acknowledge (NXP UM10204, clauses 3.1.5 and 3.1.10): start,
address, register, value, stop; and start, address, register, start again, address, value, stop"""


class Reach(Struct, frozen=True):
    """A pin of a hub on I2C."""

    hub: str
    bus: str
    bus_id: str
    hz: float

    @property
    def write_s(self) -> float:
        """The shortest time between two settings of it."""
        return WRITE_BITS / self.hz

    @property
    def read_s(self) -> float:
        """The shortest time between two readings of it."""
        return READ_BITS / self.hz


def over_bus(c: Circuit, contact: str) -> Reach | None:
    """The way to a pin that only messages reach; nothing for the board's own, and for outputs that follow
    an input of their hub or make their pulses by themselves."""
    owner, pin, lead = split(contact)[0], c.contacts.pin(contact), c.contacts.lead(contact)
    if owner == BOARD or pin is None or "digital" not in pin.functions or c.parts[owner].facts.i2c is None:
        return None
    if lead is not None and lead.offers is not None and lead.offers.driven_by:
        return None
    own = bus_of(c, owner)
    bus = next((b for b in i2c_buses(c) if b.bus == own), None)
    return Reach(owner, bus.title, bus.id, bus.hz) if bus is not None else None

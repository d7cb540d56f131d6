"""UARTs: which lines cross, and how far both ends' rates lie apart."""

from msgspec import Struct

from knotplan.catalog.part.needs import Bus
from knotplan.core.buses.rates import Reached, nearest
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import bus_instances
from knotplan.core.match.exchanged import crossed_lines
from knotplan.core.memory.question import question
from knotplan.core.plan.document import BOARD, split

GOOD, EDGE = 0.02, 0.05
"""both ends' error together: a practical limit for eight bits without parity, and half a bit in 9.5"""
RATES = (1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200, 230400, 460800, 921600)


class UartLine(Struct, frozen=True):
    """One direction between two ends."""

    lead: str
    contact: str
    sends: bool
    """the part sends here"""
    crossed: bool
    """right: what one sends the other receives"""


class Link(Struct, frozen=True):
    """A part on a UART."""

    part: str
    unit: UnitId | None
    """of the board; nothing where a program makes the bits itself"""
    title: str
    lines: tuple[UartLine, ...]
    baud: float
    reached: Reached | None
    """what the board's divider makes of it; nothing where the catalogue does not say"""
    clock_error: float
    """of the board's own clock"""
    part_error: float
    frame: str
    console: str
    """what else already uses these pins"""

    @property
    def error(self) -> float:
        """Both ends together at worst, as a share."""
        off = abs(self.reached.error) if self.reached else 0.0
        return off + self.clock_error + self.part_error

    @property
    def bits(self) -> int:
        """Of one frame: start, data, parity, stop.

        >>> Link("", "", "", (), 9600, None, 0, 0, "8N1", "").bits
        10
        """
        data, parity, stop = self.frame[0], self.frame[1], self.frame[2:]
        return 1 + int(data) + (parity.upper() != "N") + int(float(stop))

    @property
    def bytes_per_s(self) -> float:
        """Bytes that pass in a second, with start, parity and stop bits."""
        return self.baud / self.bits


@question
def links(c: Circuit) -> tuple[Link, ...]:
    """Every part that speaks over a UART and is tied."""
    all_links = []
    crossed = {t.lead for t in crossed_lines(c)}
    for part_id in having(c, "uart"):
        part = c.parts[part_id]
        assert part.facts.uart is not None
        ties = [
            t
            for name in part.leads
            if (t := c.ties.of(f"{part_id}.{name}")) is not None
            and isinstance(n := c.needs.of(t.lead), Bus)
            and n.bus == "uart"
        ]
        if not ties:
            continue
        unit = _unit(c, part_id, ties[0].to)
        spec = c.hardware.unit_spec(unit)
        baud = c.placed[part_id].setting("baud", part.facts.uart.baud, 0.0)
        divider = spec.rate if spec is not None else None
        lines = tuple(UartLine(t.lead, t.to, _sends(c, t.lead), t.lead not in crossed) for t in ties)
        holds = [
            r.title
            for t in ties
            if (pin := c.contacts.pin(t.to)) is not None and (r := c.hardware.reservation(pin)) is not None
        ]
        all_links.append(
            Link(
                part_id,
                unit,
                spec.title if spec else "plain pins",
                lines,
                baud,
                nearest(divider, baud) if divider else None,
                divider.error if divider else 0.0,
                part.facts.uart.rate_error,
                part.facts.uart.frame,
                holds[0] if holds else "",
            )
        )
    return tuple(all_links)


def _sends(c: Circuit, lead: str) -> bool:
    """A lead that needs a pin which receives is one that sends."""
    need = c.needs.of(lead)
    return isinstance(need, Bus) and need.role == "rx"


def _unit(c: Circuit, part_id: str, contact: str) -> UnitId | None:
    instances = bus_instances(c, part_id, "uart")
    if instances:
        return next(iter(instances)).unit
    pin = c.contacts.pin(contact)
    job = next(iter(pin.jobs("uart")), None) if pin is not None else None
    return UnitId(BOARD, "uart", job.instance) if job is not None and split(contact)[0] == BOARD else None


def good_rates(c: Circuit, link: Link) -> list[float]:
    """The usual rates that both ends keep well enough."""
    spec = c.hardware.unit_spec(link.unit)
    facts = c.parts[link.part].facts.uart
    if spec is None or spec.rate is None or facts is None:
        return []
    return [
        r
        for r in RATES
        if r <= facts.most_baud
        and abs(nearest(spec.rate, r).error) + link.clock_error + link.part_error <= GOOD
    ]

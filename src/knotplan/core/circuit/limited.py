"""What limits the current of LEDs: a resistor on the way, its own or one that several share."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.elements import Diode, Led
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having
from knotplan.core.circuit.leds import leds_of
from knotplan.core.memory.question import question, table

LedId = tuple[str, str]
"""(part, element)"""


class Shared(Struct, frozen=True):
    """LEDs that meet on a net from which only a resistor leads on."""

    net: str
    leds: tuple[LedId, ...]


def has_voltage(circuit: Circuit, net: str) -> bool:
    """Something sets the voltage of a net: a supply, ground, or a pin."""
    members = circuit.nets.members.get(net, [net])
    return (
        net == circuit.nets.ground
        or net in circuit.supplies.origins
        or any(m in circuit.ties.holders for m in members)
    )


@table
def _junctions(circuit: Circuit) -> dict[str, list[tuple[LedId, str, bool]]]:
    """The LEDs and diodes of parts at each net: (which, the net of its other end, it leads away from
    here)."""
    at: dict[str, list[tuple[LedId, str, bool]]] = {}
    for part_id in having(circuit, Led, Diode):
        for name, e in circuit.parts[part_id].elements.items():
            if isinstance(e, Led | Diode):
                a, b = (_net(circuit, part_id, end) for end in (e.a, e.b))
                at.setdefault(a, []).append(((part_id, name), b, True))
                at.setdefault(b, []).append(((part_id, name), a, False))
    return at


def _net(circuit: Circuit, part_id: str, end: str) -> str:
    contact = f"{part_id}.{end}"
    return circuit.nets.of(contact) if end in circuit.parts[part_id].leads else f"{part_id}/{end}"


def _stiff(circuit: Circuit, net: str, but: LedId, onwards: bool) -> bool:
    """From a net something with a voltage is reached over junctions alone, without a resistor: the way on
    from a cathode, or the way back from an anode."""
    seen, fresh = {net}, [net]
    while fresh:
        here = fresh.pop()
        if has_voltage(circuit, here):
            return True
        for led, other, away in _junctions(circuit).get(here, ()):
            if led != but and away == onwards and other not in seen:
                seen.add(other)
                fresh.append(other)
    return False


def is_limited(circuit: Circuit, part_id: str, led: Led, name: str) -> bool:
    """On one side of an LED a resistor lies on every way to a supply or a pin."""
    own = part_id, name
    back = _stiff(circuit, _net(circuit, part_id, led.a), own, onwards=False)
    on = _stiff(circuit, _net(circuit, part_id, led.b), own, onwards=True)
    return not (back and on)


@question
def shared_resistors(circuit: Circuit) -> list[Shared]:
    """Nets on which several LEDs meet, whose other ends have a voltage, and from which only a resistor
    leads on."""
    return list(_shared(circuit))


def _shared(circuit: Circuit) -> Iterator[Shared]:
    meeting: dict[str, list[LedId]] = {}
    for part_id in having(circuit, Led):
        for name, led in leds_of(circuit, part_id):
            for own, other in ((led.a, led.b), (led.b, led.a)):
                here, there = _net(circuit, part_id, own), _net(circuit, part_id, other)
                if has_voltage(circuit, there) and not has_voltage(circuit, here):
                    meeting.setdefault(here, []).append((part_id, name))
    for net, leds in meeting.items():
        tied = any(m in circuit.ties.at for m in circuit.nets.members.get(net, [net]))
        if len(leds) > 1 and tied:
            yield Shared(net, tuple(leds))

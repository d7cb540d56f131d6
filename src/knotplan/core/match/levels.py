"""What a part's input bears, and whether a pin's level suits what it is tied to, before anything is
solved."""

from knotplan.catalog.board.pin import Pin
from knotplan.catalog.part.elements import Talks
from knotplan.catalog.part.needs import Bus, Input, Need, Output, Pulse, Stream
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show


def bears(c: Circuit, lead: str) -> float | None:
    """The most voltage that a part's input bears; nothing where nobody knows."""
    need = c.needs.of(lead)
    if not isinstance(need, Output | Pulse | Stream | Bus):
        return None
    part_id, name = split(lead)
    gate = c.parts[part_id].gates.get(name)
    known = [v for v in (need.most_v, gate) if v is not None]
    own = c.supplies.origin(f"{part_id}.{need.of}") if need.of else None
    if own is not None and need.most_v is None:
        known.append(own.volts.max + c.assumed("input_above"))
    return min(known, default=None)


def unsuited(c: Circuit, lead: str, need: Need, contact: str, pin: Pin) -> tuple[str, ...]:
    """What speaks against a pin because of its levels: a level shifter would have to come between."""
    rail = c.supplies.rail_volts(contact) if pin.driver else None
    if rail is None:
        return ()
    if isinstance(need, Output | Pulse | Stream) or (isinstance(need, Bus) and need.driven):
        most = bears(c, lead)
        if most is not None and rail.typ > most:
            return (
                f"gives {show(rail.typ, 'V')}, and the part bears {show(most, 'V')}: wants a level shifter",
            )
    if isinstance(need, Input) or (isinstance(need, Bus) and need.role in ("rx", "miso")):
        high, least = _says(c, lead), as_fed(c, contact).input_high_v
        if high is not None and high < least:
            return (f"reads high from {show(least, 'V')}, and the part gives {show(high, 'V')}",)
    return ()


def _says(c: Circuit, lead: str) -> float | None:
    """The high of a part's output, where the part has a regulator of its own for it."""
    part_id, name = split(lead)
    talks = (e for e in c.parts[part_id].elements.values() if isinstance(e, Talks) and e.a == name)
    return next((e.most_v for e in talks if e.most_v), None)

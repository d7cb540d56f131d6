"""The LEDs of parts, and which lead belongs to which."""

from knotplan.catalog.part.elements import Led
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split


def leds_of(circuit: Circuit, part_id: str) -> list[tuple[str, Led]]:
    """(element name, element) of each of a part's LEDs."""
    return [(n, e) for n, e in circuit.parts[part_id].elements.items() if isinstance(e, Led)]


def led_of(circuit: Circuit, part_id: str, name: str = "") -> tuple[str, Led] | None:
    """(element name, element) of one of a part's LEDs, the first where none is named."""
    return next((wanted for wanted in leds_of(circuit, part_id) if name in ("", wanted[0])), None)


def led_at(circuit: Circuit, lead: str) -> str:
    """The LED that a lead belongs to alone; empty for other leads, and for the common one of several LEDs."""
    part_id, own = split(lead)
    names = [n for n, e in leds_of(circuit, part_id) if own in (e.a, e.b)]
    return names[0] if len(names) == 1 else ""


def is_wished(circuit: Circuit, part_id: str) -> bool:
    """The maker has said which current a part's LEDs are to have; otherwise any that suits them is right."""
    return circuit.parts[part_id].parameter("wished current") in circuit.placed[part_id].params

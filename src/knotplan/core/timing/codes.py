"""Codes of a converter that were measured at both ends of a knob or stick: the program maps from them."""

from knotplan.catalog.part.needs import Analog
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split


def analog_leads(c: Circuit) -> list[str]:
    """Leads that a converter measures."""
    return [tie.lead for tie in c.ties if isinstance(c.needs.of(tie.lead), Analog)]


def code_keys(lead: str) -> tuple[str, str]:
    """The settings that hold the codes of a lead's two ends."""
    return f"{lead}_low_code", f"{lead}_high_code"


def measured_codes(c: Circuit, lead: str) -> tuple[float, float] | None:
    """What the converter has shown at a lead's two ends, if that was taken over."""
    part_id, name = split(lead)
    low, high = (c.placed[part_id].settings.get(key) for key in code_keys(name))
    return (
        (float(low), float(high)) if isinstance(low, int | float) and isinstance(high, int | float) else None
    )

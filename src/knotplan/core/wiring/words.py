"""Beads, cords and settings as hands need them told."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.names.counting import Place
from knotplan.core.plan.beads import (
    Bead,
    Capacitor,
    Clamp,
    Diode,
    Fuse,
    LevelShifter,
    PullDown,
    PullUp,
    SeriesResistor,
    Zener,
)
from knotplan.core.plan.document import BOARD
from knotplan.core.quantity.series import bands
from knotplan.core.quantity.written import show


def resistor(ohm: float, tolerance: float) -> str:
    """A resistor with its bands, as one looks for it in the drawer.

    >>> resistor(180.0, 0.05)
    '180 Ω (brown grey brown gold)'
    """
    marks = " ".join(bands(ohm, tolerance))
    return f"{show(ohm, 'Ω')} ({marks})" if marks else show(ohm, "Ω")


def bead_task(c: Circuit, bead: Bead) -> str:
    """How a bead goes into its cord."""
    match bead:
        case SeriesResistor(ohm=ohm, tolerance=tolerance):
            return f"through {resistor(ohm, tolerance)}"
        case PullUp(ohm=ohm, tolerance=tolerance, rail=rail):
            return f"with {resistor(ohm, tolerance)} up to {_rail(c, rail)}"
        case PullDown(ohm=ohm, tolerance=tolerance):
            return f"with {resistor(ohm, tolerance)} down to ground"
        case Capacitor(farad=farad, volts=volts):
            return f"with {show(farad, 'F')} ({show(volts, 'V')}) to ground"
        case Diode(towards=towards, style=style):
            end = "part" if towards == "lead" else "pin"
            return f"through a {style} diode, its ring towards the {end}"
        case Clamp(rail=rail):
            return f"with a diode up to {_rail(c, rail)}, its ring at {_rail(c, rail)}"
        case Zener(volts=volts):
            return f"with a {show(volts, 'V')} zener diode to ground, its ring at the cord"
        case Fuse(amps=amps):
            return f"through a {show(amps, 'A')} fuse"
        case LevelShifter(style=style, lead_rail=lead_rail, pin_rail=pin_rail):
            kind = "transistor level shifter" if style == "mosfet" else "buffer"
            sides = f"{_rail(c, lead_rail)} at the part's side, {_rail(c, pin_rail)} at the pin's"
            return f"through a {kind} ({sides})"


def _rail(c: Circuit, contact: str) -> str:
    return c.titles.of(contact) if contact else "a supply (not chosen yet)"


def between(c: Circuit, where: Place) -> str:
    """Between which pins a hole lies in its row: "between GND and L0"."""
    names = [c.titles.of(f"{BOARD}.{n}") for n in (where.before, where.after) if n]
    if not names:
        return ""
    return f"beside {names[0]}" if len(names) == 1 else f"between {names[0]} and {names[1]}"


def set_by_hand(c: Circuit, part_id: str, stands: dict[str, str | float]) -> str:
    """How what is set on a part has to stand, what differs from the usual first."""
    specs = c.parts[part_id].params
    known = {name: value for name, value in stands.items() if name in specs}
    unusual = sorted(known, key=lambda name: known[name] == specs[name].default)
    texts = []
    for name in unusual:
        value, spec = known[name], specs[name]
        text = value if isinstance(value, str) else show(value, spec.unit)
        texts.append(f"{spec.title}: {text}" + (" (as usual)" if value == spec.default else ""))
    return "; ".join(texts)

"""A bead as written on its cord."""

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
from knotplan.core.quantity.written import show


def bead_words(bead: Bead) -> str:
    """A bead as written on the cord."""
    match bead:
        case SeriesResistor(ohm=ohm):
            return show(ohm, "Ω")
        case PullUp(ohm=ohm):
            return f"{show(ohm, 'Ω')} ↑"
        case PullDown(ohm=ohm):
            return f"{show(ohm, 'Ω')} ↓"
        case Capacitor(farad=farad):
            return f"{show(farad, 'F')} ↓"
        case Diode(towards=towards):
            return "diode" if towards == "lead" else "diode, back"
        case Fuse(amps=amps):
            return f"fuse {show(amps, 'A')}"
        case LevelShifter(style=style):
            return "shifter" if style == "mosfet" else "buffer"
        case Clamp():
            return "clamp ↑"
        case Zener(volts=volts):
            return f"zener {show(volts, 'V')} ↓"

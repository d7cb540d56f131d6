"""Small components, by kind and value; a pack of resistors where it has all of them."""

from collections.abc import Sequence

from knotplan.core.circuit.circuit import Circuit
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
from knotplan.core.quantity.series import SERIES, bands_words
from knotplan.core.quantity.written import code, farad_code, show
from knotplan.core.text.shopping.line import Pack

LEAST_IN_PACK = 4
"""with fewer values single resistors are less to buy"""
PACKED = ("E3", "E6", "E12", "E24")
"""series that are sold as packs"""
RESISTORS = (SeriesResistor, PullUp, PullDown)
KINDS: tuple[type, ...] = (*RESISTORS, Capacitor, Diode, Clamp, Zener, Fuse, LevelShifter)


def bought(bead: Bead) -> tuple[str, str]:
    """(what, details) of a bead in a shop."""
    match bead:
        case Capacitor(farad=farad, volts=volts):
            return f"Capacitor {show(farad, 'F')}", f"{farad_code(farad)}, at least {volts:g} V"
        case Diode(style=style):
            return "Diode", f"{style}, 1 A"
        case Clamp():
            return "Diode", "silicon, 1 A, to catch a coil's kick"
        case Zener(volts=volts):
            return "Zener diode", f"{show(volts, 'V')}, 0.5 W"
        case Fuse(amps=amps):
            return f"Fuse {show(amps, 'A')}", "with a holder for the cord"
        case LevelShifter(style=style):
            return (
                "Level shifter",
                "one channel, transistor with two pull-ups" if style == "mosfet" else "one channel, buffer",
            )
        case SeriesResistor() | PullUp() | PullDown():
            rating = f", {show(bead.rating_w, 'W')}" if isinstance(bead, SeriesResistor) else ""
            mark = (
                f"{code(bead.ohm)}, {bead.tolerance * 100:g}%{rating}, bands "
                f"{bands_words(bead.ohm, bead.tolerance)}"
            )
            return f"Resistor {show(bead.ohm, 'Ω')}", mark


def in_order(bead: Bead) -> tuple[int, float, str]:
    """Resistors first, all by their values."""
    kind = 0 if isinstance(bead, RESISTORS) else KINDS.index(type(bead))
    value = next((getattr(bead, f) for f in ("ohm", "farad", "amps", "volts") if hasattr(bead, f)), 0.0)
    return kind, float(value), str(bought(bead))


def pack(c: Circuit) -> Pack | None:
    """The pack whose series has every resistor of the plan, where these are several."""
    resistors = [b for t in c.plan.ties for b in t.beads if isinstance(b, RESISTORS)]
    counts: dict[float, int] = {}
    for bead in resistors:
        counts[bead.ohm] = counts.get(bead.ohm, 0) + 1
    series = next((s for s in PACKED if all(_is_in(ohm, SERIES[s]) for ohm in counts)), None)
    if len(counts) < LEAST_IN_PACK or series is None:
        return None
    return Pack(series, min(b.tolerance for b in resistors), len(counts), max(counts.values()))


def _is_in(ohm: float, series: Sequence[float]) -> bool:
    """A preferred value, in whatever decade (IEC 60063)."""
    digits = float(f"{ohm:.3e}".split("e")[0])
    return any(abs(digits - m) < 5e-4 for m in series)

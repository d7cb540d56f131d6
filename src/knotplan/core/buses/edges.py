"""How fast a signal's edge is where it is listened to: what drives it, through which resistances, into which
capacitances.

The delay of a chain of resistances and capacitances is Elmore's, ``tau = sum of C * (all R before it)``
(W. C. Elmore, J. Appl. Phys. 19, 1948, 55); an edge from 10 % to 90 % takes ``ln(9) tau``.
"""

from msgspec import Struct

from knotplan.catalog.part.elements import Talks
from knotplan.core.buses.lines import CONTACT_FARAD, FARAD_PER_M
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import USUAL_M
from knotplan.core.plan.beads import (
    BUFFER_OHM,
    SHIFTER_PULL_OHM,
    Bead,
    Capacitor,
    LevelShifter,
    SeriesResistor,
)
from knotplan.core.plan.document import Tie, split

EDGE = 2.2
"""ln(9): from 10 % to 90 % through a resistance into a capacitance"""


class Edge(Struct, frozen=True):
    """The slowest edge on the way from who drives a line to who listens."""

    seconds: float
    ohm: float
    """all that the current goes through"""
    farad: float
    by: str
    """the bead that makes most of it, in words; empty where it is the cord itself"""


def edge(c: Circuit, tie: Tie) -> Edge | None:
    """Of a tie whose one end drives and whose other end listens; nothing where nobody knows what drives
    it."""
    to_part = c.needs.drives(tie.lead)
    ohm = _driver_ohm(c, tie, to_part)
    if ohm is None:
        return None
    beads = tie.beads[::-1] if to_part else tie.beads
    cord = (tie.length_m or USUAL_M) * FARAD_PER_M[tie.lay] + CONTACT_FARAD
    return _along(ohm, beads, cord, _other_farad(c, tie))


def _driver_ohm(c: Circuit, tie: Tie, to_part: bool) -> float | None:
    """The weaker of both outputs of what drives."""
    if to_part:
        driver = c.hardware.driver_at(tie.to)
        return max(driver.high_ohm.max, driver.low_ohm.max) if driver is not None else None
    part_id, name = split(tie.lead)
    talks = [e for e in c.parts[part_id].elements.values() if isinstance(e, Talks) and e.a == name]
    return max((max(e.high_ohm.max, e.low_ohm.max) for e in talks), default=None)


def _other_farad(c: Circuit, tie: Tie) -> float:
    """Capacitors in other ties of the same pin."""
    others = [t for t in c.ties.at.get(tie.to, ()) if t.id != tie.id]
    return sum(b.farad for t in others for b in t.beads if isinstance(b, Capacitor))


def _along(ohm: float, beads: tuple[Bead, ...], cord: float, beside: float) -> Edge:
    """Beads in order from who drives; a level shifter drives anew."""
    tau, farad, worst = ohm * beside, beside, Edge(0.0, ohm, 0.0, "")
    by, most = ("capacitor", tau) if beside else ("", 0.0)
    for bead in beads:
        match bead:
            case SeriesResistor(ohm=more):
                ohm += more
                by, most = max((by, most), ("series resistor", more * cord), key=lambda x: x[1])
            case Capacitor(farad=more):
                farad += more
                tau += ohm * more
                by, most = max((by, most), ("capacitor", ohm * more), key=lambda x: x[1])
            case LevelShifter(style=style):
                worst = max(worst, Edge(EDGE * tau, ohm, farad, by), key=lambda e: e.seconds)
                ohm = SHIFTER_PULL_OHM if style == "mosfet" else BUFFER_OHM
                tau, farad = 0.0, 0.0
                by, most = ("level shifter", ohm * cord) if style == "mosfet" else ("", 0.0)
    last = Edge(EDGE * (tau + ohm * cord), ohm, farad + cord, by)
    return max(worst, last, key=lambda e: e.seconds)

"""The rule about edges: is a signal fast enough for its protocol where it is listened to?"""

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.part.needs import Bus, Input, Pulse, Stream
from knotplan.core.buses.edges import edge
from knotplan.core.buses.spi import controllers
from knotplan.core.buses.uart import links
from knotplan.core.check.asked import on_demand
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import ties
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Capacitor, LevelShifter, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.quantity.series import at_or_above
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

USUAL_OHM = 330.0
"""a series resistor that damps a data line"""


class _Allowed(Struct, frozen=True):
    """How long an edge may take: up to the first it is right, beyond the second nothing is understood."""

    good_s: float
    most_s: float
    why: str


def _allowed(c: Circuit, tie: Tie) -> _Allowed | None:
    """By what the line is timed; nothing where time does not matter."""
    part_id = split(tie.lead)[0]
    match c.needs.of(tie.lead):
        case Stream(answers=False, finest_s=finest, protocol=protocol):
            return _Allowed(finest, 2 * finest, f"{protocol} tell {show(finest, 's')} apart")
        case Bus(bus="spi", role=role) if role != "select":
            hz = next((x.hz for x in controllers(c) if any(d.part == part_id for d in x.devices)), 0.0)
            return _Allowed(0.5001 / hz, 1.0 / hz, f"half a clock at {show(hz, 'Hz')}") if hz else None
        case Bus(bus="uart"):
            baud = next((x.baud for x in links(c) if x.part == part_id), 0.0)
            return _Allowed(0.15 / baud, 0.4 / baud, f"a bit at {baud:g} baud") if baud else None
        case Pulse() if not tie.beads:
            return None  # no cord makes a pulse of hundreds of microseconds doubtful
        case Pulse(frequency_hz=hz, least_s=least):
            if least:
                return _Allowed(0.02 * least, 0.1 * least, f"a pulse of {show(least, 's')}")
            return _Allowed(0.02 / hz, 0.25 / hz, f"pulses at {show(hz, 'Hz')}")
        case Input(measured_s=finest) if finest is not None:
            return _Allowed(finest, 20 * finest, f"it is measured to {show(finest, 's')}")
    return None


@rule(
    "edge-slow",
    "Edges too slow",
    "stop",
    "A resistance and a capacitance together delay every edge. Where that takes as long as what tells the "
    "bits apart, nothing is understood any more.",
    "R of the driver, the beads and level shifters, C of capacitors, cord and input: t = 2.2 · R · C (10 % "
    "to 90 %), Elmore 1948",
    each=ties,
)
def edge_slow(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    allowed = _allowed(c, tie)
    found = edge(c, tie) if allowed is not None else None
    if allowed is None or found is None or found.seconds <= allowed.good_s:
        return
    by = f" its {found.by} makes most of that;" if found.by else ""
    yield Observation(
        f"An edge on {c.titles.of(tie.lead)} takes {show(found.seconds, 's')} "
        f"({show(found.ohm, 'Ω')} into {show(found.farad, 'F')});{by} {allowed.why}: at most "
        f"{show(allowed.good_s, 's')} are left for it.",
        (tie.lead, tie.to),
        (
            Number("edge", found.seconds, "s", allowed.good_s),
            Number("resistance", found.ohm, "Ω"),
            Number("capacitance", found.farad, "F"),
        ),
        on_demand(_faster, tie),
        None if found.seconds > allowed.most_s else "care",
    )


def _faster(tie: Tie) -> Iterator[Remedy]:
    """Without the capacitor, with a usual resistor, with a shifter that drives."""
    for at, bead in enumerate(tie.beads):
        if isinstance(bead, Capacitor):
            yield remedy(f"Take out the {show(bead.farad, 'F')} capacitor", edits.remove_bead, tie.id, at)
        elif isinstance(bead, SeriesResistor) and bead.ohm > USUAL_OHM:
            usual = replace(bead, ohm=USUAL_OHM)
            yield remedy(f"Take {show(USUAL_OHM, 'Ω')} instead", edits.change_bead, tie.id, at, usual)
        elif isinstance(bead, LevelShifter) and bead.style == "mosfet":
            fast = replace(bead, style="buffer")
            yield remedy("Take a level shifter that drives", edits.change_bead, tie.id, at, fast)


RUSH_S = 1e-6
"""a rush that is over sooner than this no pin minds: cords and inputs make such ones at every edge"""


@rule(
    "pin-rush",
    "Capacitor straight on an output",
    "care",
    "At every edge the pin charges or discharges the capacitor, and only its own resistance limits the "
    "current: far more than it is made for, again and again.",
    "I = V / R_pin at the first moment, over after some R C; catalogue: limits of the pin",
    each=ties,
)
def pin_rush(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    pin = c.contacts.pin(tie.to)
    farad, ohm = _charged(tie)
    if not farad or pin is None or pin.kind != "io" or not pin.drives or not c.needs.driven_over(tie):
        return
    driver, volts = c.hardware.driver(tie.to), c.supplies.rail_volts(tie.to)
    whole = driver.high_ohm.typ + ohm
    if volts is None or not driver.absolute_a or whole * farad < RUSH_S:
        return
    amps = volts.typ / whole
    if amps > driver.absolute_a:
        yield Observation(
            f"{c.titles.full(tie.to)} charges the {show(farad, 'F')} capacitor in {c.titles.of(tie.lead)} "
            f"with {show(amps, 'A')} at every edge, for {show(whole * farad, 's')}; it bears "
            f"{show(driver.absolute_a, 'A')}.",
            (tie.lead, tie.to),
            (Number("rush", amps, "A", driver.absolute_a), Number("time constant", whole * farad, "s")),
            on_demand(_braked, c, tie, volts.max / driver.recommended_a - driver.high_ohm.min),
        )


def _charged(tie: Tie) -> tuple[float, float]:
    """(farads of the capacitor nearest to the pin, ohms between)."""
    ohm = 0.0
    for bead in reversed(tie.beads):
        if isinstance(bead, SeriesResistor):
            ohm += bead.ohm
        if isinstance(bead, Capacitor):
            return bead.farad, ohm
    return 0.0, ohm


def _braked(c: Circuit, tie: Tie, least_ohm: float) -> Iterator[Remedy]:
    """A resistor between pin and capacitor, or no capacitor."""
    ohm = at_or_above(least_ohm, c.series)
    bead = SeriesResistor(ohm, c.resistor_tolerance)
    yield remedy(f"Put {show(ohm, 'Ω')} between pin and capacitor", edits.put_bead, tie.id, bead, "pin")
    at = max(k for k, b in enumerate(tie.beads) if isinstance(b, Capacitor))
    yield remedy("Take the capacitor out", edits.remove_bead, tie.id, at)

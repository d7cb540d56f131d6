"""The resistor of an LED: the preferred value for a wished current, and what it really gives."""

from collections.abc import Callable
from functools import cached_property

from msgspec import Struct

from knotplan.catalog.load import Catalog
from knotplan.catalog.part.elements import Led
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.leds import led_at, led_of
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.nearby import nearby
from knotplan.core.engine.readings import Reading
from knotplan.core.engine.solver.junction import fit
from knotplan.core.memory.question import question
from knotplan.core.plan import edits
from knotplan.core.plan.beads import SeriesResistor
from knotplan.core.plan.document import Plan, Tie
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.quantity import series
from knotplan.core.quantity.working import Number, Working
from knotplan.core.quantity.written import show

RATINGS_W = (0.25, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0)
"""watts that resistors are sold for"""


class Current(Struct, frozen=True):
    """Least, typical and most current, amperes."""

    min: float
    typical: float
    max: float


class Resistor(Struct, frozen=True):
    """The outcome for one resistor value."""

    ohm: float
    current: Current
    power_w: float
    """at the most current"""


class Choice(Struct, frozen=True, dict=True):
    """What the bead of an LED should be, with its neighbours in the series."""

    part: str
    tie: Tie
    bead_at: int | None
    """place among the tie's beads, or nothing where there is no resistor yet"""
    best: Resistor
    drawer: str
    """the series of preferred values"""
    outcome: Callable[[float], Resistor]
    """of another value"""
    reaches: bool
    """the wished current can be reached at all from this supply"""
    working: Working
    tolerance: float = 0.05
    """of a resistor that is chosen"""
    load_share: float = 0.5
    """of a resistor's rating that it is used at, at most"""

    @cached_property
    def lower(self) -> Resistor:
        """The next value below in the series; worked out when somebody looks, as the next one."""
        return self.outcome(series.below(self.best.ohm, self.drawer))

    @cached_property
    def higher(self) -> Resistor:
        """The next value of its series above it."""
        return self.outcome(series.above(self.best.ohm, self.drawer))

    @property
    def now_ohm(self) -> float | None:
        """The resistor that is there now."""
        bead = self.tie.beads[self.bead_at] if self.bead_at is not None else None
        return bead.ohm if isinstance(bead, SeriesResistor) else None

    @property
    def rating_w(self) -> float:
        """The smallest one on sale of which half is enough at the most current."""
        return next((w for w in RATINGS_W if w * self.load_share >= self.best.power_w), RATINGS_W[-1])

    def remedy(self) -> Remedy:
        """The edit that puts the chosen value in."""
        bead = SeriesResistor(self.best.ohm, self.tolerance, self.rating_w)
        if self.bead_at is None:
            return remedy(f"Add a {show(self.best.ohm, 'Ω')} resistor", edits.add_bead, self.tie.id, bead)
        return remedy(
            f"Change the resistor to {show(self.best.ohm, 'Ω')}",
            edits.change_bead,
            self.tie.id,
            self.bead_at,
            bead,
        )


def lit(readings: list[Reading]) -> Reading | None:
    """The running case in which the LED is brightest."""
    running = [r for r in readings if r.case.moment == "running"]
    return max(running, key=lambda r: r.typ, default=None)


def resistor_place(circuit: Circuit, part_id: str, name: str = "") -> tuple[Tie, int | None] | None:
    """The tie with the LED's resistor and its place there; else the tie where one belongs: never that of a
    lead which several LEDs have in common."""
    element = led_of(circuit, part_id, name)
    leads = [f"{part_id}.{n}" for n in (element[1].a, element[1].b)] if element else []
    own = [lead for lead in leads if led_at(circuit, lead)]
    ties = [t for lead in own or leads for t in circuit.ties.at.get(lead, ())]
    for tie in ties:
        for at, bead in enumerate(tie.beads):
            if isinstance(bead, SeriesResistor):
                return tie, at
    ties.sort(key=lambda t: not circuit.needs.drives(t.lead))
    return (ties[0], None) if ties else None


def _with_bead(plan: Plan, tie_id: str, at: int | None, ohm: float) -> Plan:
    bead = SeriesResistor(ohm, plan.resistor_tolerance)
    return edits.add_bead(plan, tie_id, bead) if at is None else edits.change_bead(plan, tie_id, at, bead)


@question
def _outcome(
    circuit: Circuit, catalog: Catalog, part_id: str, name: str, where: tuple[Tie, int | None], ohm: float
) -> Resistor:
    from knotplan.core.engine.operating_points import (
        operating_points,  # brings NumPy in, which the window can show itself without
    )

    changed = _with_bead(circuit.plan, where[0].id, where[1], ohm)
    near = Circuit(nearby(circuit, changed, part_id), catalog)
    reading = lit(operating_points(near).junctions.get(of_part(part_id, name), []))
    if reading is None:
        return Resistor(ohm, Current(0, 0, 0), 0)
    return Resistor(ohm, Current(reading.min, reading.typ, reading.max), reading.max**2 * ohm)


def choose(circuit: Circuit, catalog: Catalog, part_id: str, name: str = "") -> Choice | None:
    """The preferred resistor for an LED's wished current, or nothing while it is not tied up.

    The exact value is R = (V - V_F(I))/I - R_pin at typical values; the choice is the next preferred
    one at or above that also keeps the most current within the LED's and the pin's limits.
    """
    found, where = led_of(circuit, part_id, name), resistor_place(circuit, part_id, name)
    if found is None or where is None:
        return None
    name, led = found
    given = _given(circuit, part_id, led)
    if given is None:
        return None
    supply, pin_ohm, recommended = given
    law = fit(led.points)
    forward = law.voltage(led.wished_a)
    exact = (supply.typ - forward) / led.wished_a - pin_ohm.typ
    limit = min(led.most_a, recommended)
    drawer, share = circuit.series, circuit.assumed("resistor_load")

    def outcome(ohm: float) -> Resistor:
        return _outcome(circuit, catalog, part_id, name, where, ohm)

    best = outcome(series.at_or_above(max(exact, 1.0), drawer))
    while best.current.max > limit and best.ohm < 1e7:
        best = outcome(series.above(best.ohm, drawer))
    working = Working(
        "R = (V − V_F(I)) / I − R_pin, then the next preferred value at or above whose greatest current "
        "stays within the limits; currents by nodal analysis at every corner",
        (
            Number("supply", supply.typ, "V", origin=f"catalogue, {circuit.board.title}"),
            Number(
                "forward voltage at the wished current",
                forward,
                "V",
                origin="catalogue, curve through two points",
            ),
            Number("wished current", led.wished_a, "A", origin="plan"),
            Number("resistance of the pin", pin_ohm.typ, "Ω", origin=f"catalogue, {circuit.board.title}"),
            Number("limit of LED and pin", limit, "A", origin="catalogue"),
        ),
        (
            Number("exact resistor", exact, "Ω"),
            Number("chosen", best.ohm, "Ω", origin=f"{drawer}, IEC 60063"),
            Number("least current", best.current.min, "A"),
            Number("typical current", best.current.typical, "A"),
            Number("most current", best.current.max, "A", limit),
            Number("power in the resistor", best.power_w, "W", RATINGS_W[0] * share),
        ),
        "Shockley's junction law and Kirchhoff's laws; preferred values of IEC 60063",
    )
    tolerance = circuit.resistor_tolerance
    return Choice(part_id, *where, best, drawer, outcome, exact > 0, working, tolerance, share)


def _given(circuit: Circuit, part_id: str, led: Led) -> tuple[Range, Range, float] | None:
    """(supply, resistance of the pins in the way, recommended pin current) of a tied LED."""
    supply, inner, recommended = None, Range.exactly(0.0), float("inf")
    for lead_name, lights_high in ((led.a, True), (led.b, False)):
        lead = f"{part_id}.{lead_name}"
        tie = circuit.ties.of(lead)
        if tie is None:
            return None
        pin = circuit.contacts.pin(tie.to)
        if pin is not None and pin.kind == "io" and pin.driver:
            driver = circuit.hardware.driver(tie.to)
            more = driver.high_ohm if lights_high else driver.low_ohm
            inner = Range(inner.min + more.min, inner.typ + more.typ, inner.max + more.max)
            recommended = min(recommended, driver.recommended_a)
            if lights_high:
                supply = circuit.supplies.rail_volts(tie.to)
        elif lights_high:
            origin = circuit.supplies.origin(tie.to)
            supply = origin.volts if origin else None
    return (supply, inner, recommended) if supply else None

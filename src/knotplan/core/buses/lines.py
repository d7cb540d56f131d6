"""The lines of an I2C bus as wires: what pulls them up, what loads them, how
fast they rise and how low they get.

All pull-ups of a line act in parallel; what lies behind a level shifter is a section of its own.
"""

from msgspec import Struct

from knotplan.catalog.part.needs import Bus, Supply
from knotplan.catalog.quantities import Range
from knotplan.core.buses.addresses import bus_of
from knotplan.core.buses.pulls import Pull, pulls, shifter_in, together
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import USUAL_M
from knotplan.core.circuit.having import having, ties_of
from knotplan.core.circuit.units import BusUnit
from knotplan.core.memory.question import question
from knotplan.core.plan.beads import Capacitor, SeriesResistor
from knotplan.core.plan.document import BOARD, Tie, split

RISES = 0.8473
"""ln(0.7/0.3): from 30 % to 70 % of the supply (NXP UM10204 clause 7.1)"""
CONTACT_FARAD = 10e-12
"""of a pin, where the catalogue gives nothing better"""
FARAD_PER_M = {"": 50e-12, "ribbon": 65e-12, "twisted": 80e-12, "shielded": 100e-12}
"""of a cord towards its neighbours, by how it lies; about 50 to 100 pF/m"""
LOW_V = 0.4
"""to which a driver has to pull a line where its supply is above 2 V (UM10204 table 10, V_OL1)"""
LOW_SUPPLY_V, LOW_SHARE = 2.0, 0.2
"""up to this supply it is this share of it (the same table, V_OL2)"""


def low_level(supply_v: float) -> float:
    """The level that a driver has to pull a line to: 0.4 V, or 0.2 of a supply up to 2 V.

    >>> low_level(3.3), round(low_level(1.8), 3)
    (0.4, 0.36)
    """
    return LOW_V if supply_v > LOW_SUPPLY_V else LOW_SHARE * supply_v


class Mode(Struct, frozen=True):
    """What a bus has to keep up to a clock (NXP UM10204 tables 10 and 11)."""

    title: str
    hz: float
    rise_s: float
    farad: float
    sinks_a: float


MODES = (
    Mode("Standard mode", 100e3, 1000e-9, 400e-12, 3e-3),
    Mode("Fast mode", 400e3, 300e-9, 400e-12, 3e-3),
    Mode("Fast-mode plus", 1e6, 120e-9, 550e-12, 20e-3),
)


def mode_for(hz: float) -> Mode:
    """The mode that a clock belongs to.

    >>> mode_for(250e3).title
    'Fast mode'
    """
    return next((m for m in MODES if hz <= m.hz * (1 + 1e-9)), MODES[-1])


class Weight(Struct, frozen=True):
    """Something that loads a line."""

    what: str
    farad: float
    metres: float = 0.0
    """of cord, where it is one"""


class Sink(Struct, frozen=True):
    """Something that pulls a line low: with so much current it still gets it to 0.4 V."""

    what: str
    amps: float


class Section(Struct, frozen=True):
    """One line of a bus, as far as no level shifter parts it."""

    role: str
    """"sda" or "scl" """
    nets: tuple[str, ...]
    pulls: tuple[Pull, ...]
    weights: tuple[Weight, ...]
    sinks: tuple[Sink, ...]
    devices: tuple[str, ...]
    """parts on it"""

    @property
    def ohm(self) -> Range | None:
        """All pull-ups together, or nothing where there is none: 1/R = sum of 1/R_k."""
        return together(self.pulls)

    @property
    def volts(self) -> Range | None:
        """To which the pull-ups pull: between their rails, weighted by how strongly each pulls."""
        ohm = self.ohm
        if ohm is None:
            return None
        parts = (
            sum(getattr(p.volts, at) / p.ohm.typ for p in self.pulls) * ohm.typ
            for at in ("min", "typ", "max")
        )
        return Range(*parts)

    @property
    def farad(self) -> float:
        """Capacitance of the line: cords, pins and devices together, F."""
        return sum(w.farad for w in self.weights)

    @property
    def rise(self) -> Range | None:
        """Rise time from 30 to 70 %, s: t_r = 0.8473 * R_p * C_b (NXP UM10204 clause 7.1)."""
        return self.ohm.scaled(RISES * self.farad) if self.ohm else None

    @property
    def weakest(self) -> Sink | None:
        """The driver that bears least."""
        return min(self.sinks, key=lambda s: s.amps, default=None)

    @property
    def least_ohm(self) -> float:
        """The strongest pull-up that the weakest driver still pulls low: R_p(min)
        = (V_DD - V_OL) / I_OL (clause 7.1)."""
        weak, volts = self.weakest, self.volts
        if not weak or not volts:
            return 0.0
        low = low_level(volts.typ)
        return (volts.max - low) / (weak.amps * low / LOW_V)

    def most_ohm(self, mode: Mode) -> float:
        """The weakest pull-up that rises in time: R_p(max) = t_r / (0.8473 * C_b) (clause 7.1)."""
        return mode.rise_s / (RISES * self.farad)

    @property
    def pulled_a(self) -> float:
        """The most current that a driver has to sink at 0.4 V."""
        return (self.volts.max - low_level(self.volts.typ)) / self.ohm.min if self.volts and self.ohm else 0.0

    def low_v(self, sink: Sink) -> float:
        """The level that a driver leaves, at worst: V_OL = V * R_on /
        (R_on + R_p), with R_on = 0.4 V / I_OL."""
        if self.volts is None or self.ohm is None:
            return 0.0
        on = LOW_V / sink.amps
        return self.volts.max * on / (on + self.ohm.min)

    def more_metres(self, mode: Mode, farad_per_m: float = FARAD_PER_M[""]) -> float:
        """By how much the line may still grow in this mode, m; below 0 where it is too long already."""
        if self.ohm is None:
            return 0.0
        most = min(mode.farad, mode.rise_s / (RISES * self.ohm.max))
        return (most - self.farad) / farad_per_m


@question
def sections(circuit: Circuit, bus: BusUnit) -> tuple[Section, ...]:
    """The sections of both lines of a bus, those at its controller first."""
    return tuple(s for role in ("sda", "scl") for s in _sections(circuit, bus, role))


def _sections(c: Circuit, bus: BusUnit, role: str) -> list[Section]:
    ties = [t for t in _ties(c) if bus_of(c, split(t.lead)[0]) == bus and _role(c, t.lead) == role]
    head = next((t.to for t in ties), "")
    if not head:
        return []
    cut, done = [], set()
    todo = [c.nets.of(head)]
    while todo:
        net = todo.pop(0)
        if net in done:
            continue
        nets, beyond = _joined(c, net, ties)
        done |= nets
        todo += beyond
        cut.append(_section(c, role, nets))
    return cut


@question
def _ties(c: Circuit) -> list[Tie]:
    """Ties of leads that are data or clock of an I2C bus."""
    return [t for part_id in having(c, Bus) for t in ties_of(c, part_id, Bus) if _role(c, t.lead)]


def _role(c: Circuit, lead: str) -> str:
    need = c.needs.of(lead)
    return need.role if isinstance(need, Bus) and need.bus == "i2c" else ""


def _joined(c: Circuit, net: str, ties: list[Tie]) -> tuple[set[str], list[str]]:
    """The nets that series resistors join with one, and those behind its level shifters."""
    nets, beyond = {net}, []
    for _ in ties:
        before = len(nets)
        for tie in ties:
            ends = {c.nets.of(tie.lead), c.nets.of(tie.to)}
            if ends & nets and any(isinstance(b, SeriesResistor) for b in tie.beads) and not shifter_in(tie):
                nets |= ends
        if len(nets) == before:
            break
    for tie in ties:
        ends = {c.nets.of(tie.lead), c.nets.of(tie.to)}
        if ends & nets and shifter_in(tie):
            beyond += [n for n in ends if n not in nets]
    return nets, beyond


def _section(c: Circuit, role: str, nets: set[str]) -> Section:
    contacts = _in_the_order_of_the_plan(c, {m for n in nets for m in c.nets.members.get(n, [n])})
    parts = tuple(dict.fromkeys(p for m in contacts if (p := split(m)[0]) in c.parts and _role(c, m) == role))
    return Section(
        role,
        tuple(sorted(nets)),
        tuple(pulls(c, nets, contacts)),
        tuple(_weights(c, nets, contacts)),
        tuple(_sinks(c, role, contacts)),
        parts,
    )


def _in_the_order_of_the_plan(c: Circuit, contacts: set[str]) -> list[str]:
    """The board's contacts, then those of the parts as the plan has them: names and ids decide nothing."""
    by_part: dict[str, set[str]] = {}
    for contact in contacts:
        by_part.setdefault(split(contact)[0], set()).add(contact)
    ordered = sorted(by_part.pop(BOARD, ()))
    talking = having(c, Bus)  # which stays the same when other parts come and go
    strangers = by_part.keys() - {*talking}
    for part_id in (p for p in (c.parts if strangers else talking) if p in by_part):
        here = by_part[part_id]
        ordered += [lead for name in c.parts[part_id].leads if (lead := f"{part_id}.{name}") in here]
    return ordered


def _weights(c: Circuit, nets: set[str], contacts: list[str]) -> list[Weight]:
    weights = []
    for m in contacts:
        part_id = split(m)[0]
        if part_id == BOARD:
            weights.append(Weight(c.titles.full(m), CONTACT_FARAD))
        elif part_id in c.parts:
            facts = c.parts[part_id].facts.i2c
            weights.append(Weight(c.placed[part_id].name, facts.farad if facts else CONTACT_FARAD))
    for tie in {t.id: t for m in contacts for t in c.ties.at.get(m, ())}.values():
        if c.nets.of(tie.lead) in nets:  # behind a shifter the cord belongs to the part's side
            metres = tie.length_m or USUAL_M
            weights.append(Weight(f"cord of {c.titles.of(tie.lead)}", metres * FARAD_PER_M[tie.lay], metres))
        weights += [
            Weight(f"capacitor at {c.titles.of(tie.lead)}", b.farad)
            for b in tie.beads
            if isinstance(b, Capacitor)
        ]
    return weights


def _sinks(c: Circuit, role: str, contacts: list[str]) -> list[Sink]:
    """Who pulls the line low. A controller always does; a device's clock line only where it stretches."""
    sinks = []
    for m in contacts:
        part_id, pin = split(m)[0], c.contacts.pin(m)
        facts = c.parts[part_id].facts.i2c if part_id in c.parts else None
        if facts is not None and not facts.passes_all and (role == "sda" or facts.stretches):
            sinks.append(Sink(c.placed[part_id].name, facts.sinks_a))
        elif part_id == BOARD and pin is not None and pin.kind == "io":
            driver = c.hardware.driver(m)
            sinks.append(Sink(c.titles.full(m), min(LOW_V / driver.low_ohm.max, driver.absolute_a)))
    return sinks


def supply_of(c: Circuit, part_id: str) -> Range | None:
    """The voltage of the supply on which a device's inputs are measured: its first supply lead's."""
    for name, lead in c.parts[part_id].leads.items():
        if (
            isinstance(lead.needs[0], Supply)
            and (origin := c.supplies.origin(f"{part_id}.{name}")) is not None
        ):
            return origin.volts
    return None

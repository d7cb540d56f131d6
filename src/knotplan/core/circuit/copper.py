"""Cords as copper: gauge, resistance, and what a tie's cord usually is.

Resistivity of annealed copper 1.724e-8 ohm m at 20 degC (International Annealed Copper Standard),
rising by 0.393 % a kelvin.
"""

import math
from collections.abc import Iterator
from typing import Literal

from msgspec import Struct

from knotplan.catalog.part.elements import Coil, Load, Motor
from knotplan.catalog.part.needs import Ground, Switched
from knotplan.catalog.part.part import Part
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having
from knotplan.core.memory.question import each, table
from knotplan.core.plan.document import BOARD, Tie, split

RESISTIVITY, PER_KELVIN = 1.724e-8, 0.00393
THIN_AWG = (28, 26, 24, 22)
"""even gauges in which thin cords are sold; the metric sizes of IEC 60228 begin at 0.5 mm²"""
METRIC = (0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0)
"""mm², IEC 60228"""
USUAL_M = 0.2
CARRIES = ((1.0, 0.129), (2.0, 0.205), (4.0, 0.5), (7.0, 0.75), (10.0, 1.5), (1e9, 2.5))
"""(up to so many amperes, usual cross-section) of short cords in free air"""
BEARS = (
    (0.081, 1.0),
    (0.129, 1.9),
    (0.205, 3.2),
    (0.326, 5.0),
    (0.5, 7.0),
    (0.75, 10.0),
    (1.0, 13.0),
    (1.5, 17.0),
    (2.5, 24.0),
    (4.0, 32.0),
    (6.0, 41.0),
)
"""(cross-section, amperes for ever) of single cords in free air: usual figures, on the safe side of those of
IEC 60364-5-52, which begin at 1.5 mm² and are for fixed installations"""
Fixing = Literal["jumper", "clip", "solder", "screw"]


def awg_mm(number: int) -> float:
    """Diameter of an American wire gauge: 0.127 mm * 92^((36 - n)/39) (ASTM B258).

    >>> round(awg_mm(36), 3), round(awg_mm(22), 3)
    (0.127, 0.644)
    """
    return 0.127 * math.pow(92, (36 - number) / 39)


def awg_mm2(number: int) -> float:
    """Cross-section of an American wire gauge, mm², of three figures.

    >>> awg_mm2(26), awg_mm2(20)
    (0.129, 0.518)
    """
    return float(f"{math.pi * awg_mm(number) ** 2 / 4:.3g}")


SIZES = (*(awg_mm2(n) for n in THIN_AWG), *METRIC)
"""cross-sections that hook-up wire is sold in, mm²"""


def as_awg(mm2: float) -> int:
    """The even gauge, as they are sold, that has at least this cross-section.

    >>> as_awg(0.25), as_awg(0.5), as_awg(0.129), as_awg(2.5)
    (22, 20, 26, 12)
    """
    return next((n for n in range(36, 0, -2) if awg_mm2(n) >= mm2 * (1 - 1e-9)), 0)


def size_words(mm2: float) -> str:
    """A cross-section as it is asked for in a shop: by gauge where it is thinner than the metric sizes.

    >>> size_words(0.205), size_words(0.5), size_words(0.14)
    ('AWG 24 (0.205 mm²)', '0.5 mm² (AWG 20)', '0.14 mm² (AWG 24)')
    """
    gauge = as_awg(mm2)
    return f"AWG {gauge} ({mm2:g} mm²)" if awg_mm2(gauge) == mm2 else f"{mm2:g} mm² (AWG {gauge})"


def cord_ohm(length_m: float, mm2: float, celsius: float = 20.0) -> float:
    """Resistance of one conductor: R = rho * l / A * (1 + alpha * (T - 20 degC)), ohm.

    >>> round(cord_ohm(1.0, 0.25), 4)
    0.069
    """
    return RESISTIVITY * length_m / (mm2 * 1e-6) * (1 + PER_KELVIN * (celsius - 20))


def bears(mm2: float) -> float:
    """Amperes that a cord of a cross-section bears for ever.

    >>> bears(0.326), bears(0.3), bears(0.0405)
    (5.0, 3.2, 0.5)
    """
    return max((a for size, a in BEARS if size <= mm2 * (1 + 1e-9)), default=BEARS[0][1] * mm2 / BEARS[0][0])


class CordKind(Struct, frozen=True):
    """What a cord is made of, with the usual values filled in."""

    length_m: float
    mm2: float
    fixing: Fixing

    @property
    def what(self) -> str:
        """What it is called in a shop."""
        return {
            "jumper": "Jumper cord",
            "clip": "Clip cord",
            "solder": "Hook-up wire",
            "screw": "Hook-up wire",
        }[self.fixing]

    @property
    def words(self) -> str:
        """Length and gauge, as people say them: "20 cm, 0.14 mm² (AWG 26)"."""
        length = f"{self.length_m * 100:.3g} cm" if self.length_m < 1 else f"{self.length_m:g} m"
        return f"{length}, {size_words(self.mm2)}"


def tie_ohm(circuit: Circuit, tie: Tie) -> float:
    """Resistance of a tie's cord, one way, ohm."""
    return cord_ohm(tie.length_m or USUAL_M, tie.mm2 or _usual_mm2(circuit, tie))


def cord_of(circuit: Circuit, tie: Tie) -> CordKind:
    """The cord of a tie: what the maker says, else what is usual for what flows in it and where it ends."""
    return CordKind(tie.length_m or USUAL_M, tie.mm2 or _usual_mm2(circuit, tie), _fixing(circuit, tie))


def _usual_mm2(circuit: Circuit, tie: Tie) -> float:
    """By what flows at worst: of a supply all that it can give, of a hub what
    it passes on, and its ground as much."""
    part_id = split(tie.lead)[0]
    part = circuit.parts[part_id]
    amps = 0.0
    if isinstance(circuit.needs.of(tie.lead), Ground):
        gives = part.source.limit_a if part.source is not None else 0.0
        amps = max(gives, _carried_by_part(circuit).get(part_id, 0.0))
    elif part.source is not None and split(tie.lead)[1] != part.source.fed_from:
        amps = part.source.limit_a
    else:
        amps = carried(circuit).get(tie.lead, NOTHING)[1]
    return next(mm2 for most, mm2 in CARRIES if amps <= most)


STEPPER_COILS = 2
"""so many windings of a stepper are on at once at most, in wave, full and half steps alike"""


def _drawing(c: Circuit) -> list[str]:
    return having(c, Load, Coil, Motor)


@each(_drawing)
def _draws(c: Circuit, part_id: str) -> tuple[tuple[str, float, float], ...]:
    """(lead, usual, worst amperes) of what a part draws itself, through its own lead and through each of
    those that feed it."""
    found = []
    for name, usual, worst in _own(c.parts[part_id]):
        lead, hops, ratio = f"{part_id}.{name}", 0, 1.0
        while lead and hops < MOST_HOPS and split(lead)[0] in c.parts:
            found.append((lead, usual * ratio, worst * ratio))
            lead, hops = parent_contact(c, lead), hops + 1
            lead, ratio = _through_converter(c, lead, ratio)
    return tuple(found)


@table
def carried(c: Circuit) -> dict[str, tuple[float, float]]:
    """(usual, worst) amperes of each supply lead by the catalogue: its
    part's own draw and all that hangs on it.

    The tree of supplies says it better, activities and engine included, and needs the
    cords for that: so this comes first.
    """
    amps_of: dict[str, tuple[float, float]] = {}
    for draws in _draws.all(c).values():
        for lead, usual, worst in draws:
            before = amps_of.get(lead, NOTHING)
            amps_of[lead] = before[0] + usual, before[1] + worst
    return amps_of


def _through_converter(c: Circuit, contact: str, ratio: float) -> tuple[str, float]:
    """Of what comes from a converter's output, the lead that feeds it and
    how much of the current flows there."""
    part_id = split(contact)[0]
    source = c.supplies.on_bench.get(part_id)
    if source is None or not source.fed_from or contact != f"{part_id}.{source.plus}":
        return contact, ratio
    lead = f"{part_id}.{source.fed_from}"
    origin = c.supplies.origin(lead)
    volts = origin.volts.min if origin else 0.0
    return lead, ratio * source.volts.typ / (
        volts * source.efficiency
    ) if source.efficiency and volts > 0 else ratio


@table
def _carried_by_part(circuit: Circuit) -> dict[str, float]:
    carried_by_part: dict[str, float] = {}
    for lead, (_, worst) in carried(circuit).items():
        part_id = split(lead)[0]
        carried_by_part[part_id] = carried_by_part.get(part_id, 0.0) + worst
    return carried_by_part


MOST_HOPS = 20
NOTHING = 0.0, 0.0


def _own(part: Part) -> Iterator[tuple[str, float, float]]:
    """(lead, usual, worst amperes) of what a part itself draws."""
    for e in part.elements.values():
        if isinstance(e, Load):
            yield e.a, e.usual_a, e.worst_a
    coils = [e for e in part.elements.values() if isinstance(e, Coil | Motor)]
    if coils:
        worst = max(
            (n.worst_a for lead in part.leads.values() for n in lead.needs if isinstance(n, Switched)),
            default=0.0,
        )
        amps = worst * min(len(coils), STEPPER_COILS)
        yield coils[0].a, amps, amps


def parent_contact(c: Circuit, lead: str) -> str:
    """Where the current of a lead comes from: the contact that its tie leads to, and through a
    hub's output the lead that feeds it."""
    tie = c.ties.of(lead)
    if tie is None:
        return ""
    owner, name = split(tie.to)
    if owner == BOARD or owner not in c.parts:
        return tie.to
    spec, pin = c.contacts.lead(tie.to), c.contacts.pin(tie.to)
    if pin is not None and pin.kind == "contact" and spec and spec.offers:
        return f"{owner}.{spec.offers.via}"
    if pin is not None and {"bridge", "source"} & set(pin.functions):
        return f"{owner}.{c.hardware.driver(tie.to).rail}"
    return _comes_in(c, owner, name) or f"{owner}.{name}"


def return_tie(c: Circuit, part_id: str) -> Tie | None:
    """The tie of a part's ground lead, over which its current comes back."""
    ground = c.parts[part_id].ground
    return c.ties.of(f"{part_id}.{ground}") if ground else None


def _comes_in(c: Circuit, owner: str, name: str) -> str:
    """The contact of a relay at which that comes in which leaves at its common contact."""
    contacts = (f"{owner}.{other}" for other in c.parts[owner].contacts_of.get(name, ()))
    return next((x for x in contacts if c.ties.of(x) is not None and c.nets.comes_in_at(x)), "")


def _fixing(circuit: Circuit, tie: Tie) -> Fixing:
    """How the cord's far end is held: by the board's header, or by the screws of a supply or hub."""
    owner, name = split(tie.to)
    if owner != BOARD:
        return "screw" if circuit.parts[owner].source or circuit.parts[owner].is_hub else "jumper"
    pin = circuit.board.pins.get(name)
    contact = circuit.board.headers[pin.header].contact if pin else "post"
    return {"post": "jumper", "pad": "solder", "clip": "clip"}[contact]  # type: ignore[return-value]

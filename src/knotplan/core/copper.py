"""Cords as copper: gauge, resistance, and what a tie's cord usually is.

Resistivity of annealed copper 1.724e-8 ohm m at 20 degC (International Annealed Copper Standard),
rising by 0.393 % a kelvin.
"""

import math
from typing import Literal

from msgspec import Struct

from knotplan.catalog.elements import Load
from knotplan.catalog.needs import Ground, Supply
from knotplan.core.circuit import Circuit
from knotplan.core.plan import BOARD, Tie, split

RESISTIVITY, PER_KELVIN = 1.724e-8, 0.00393
SIZES = (0.08, 0.14, 0.25, 0.5, 0.75, 1.0, 1.5, 2.5)
"""cross-sections that hook-up wire is sold in, mm² (0.5 and more by IEC 60228)"""
USUAL_M = 0.2
CARRIES = ((1.0, 0.14), (2.0, 0.25), (4.0, 0.5), (7.0, 0.75), (10.0, 1.5), (1e9, 2.5))
"""(up to so many amperes, usual cross-section) of short cords in free air"""
Fixing = Literal["jumper", "clip", "solder", "screw"]


def awg_mm(number: int) -> float:
    """Diameter of an American wire gauge: 0.127 mm * 92^((36 - n)/39) (ASTM B258).

    >>> round(awg_mm(36), 3), round(awg_mm(22), 3)
    (0.127, 0.644)
    """
    return 0.127 * math.pow(92, (36 - number) / 39)


def nearest_awg(mm2: float) -> int:
    """The gauge whose cross-section lies nearest, by ratio.

    >>> nearest_awg(0.25), nearest_awg(0.5), nearest_awg(0.14)
    (23, 20, 26)
    """
    return min(range(10, 37), key=lambda n: abs(math.log(math.pi * awg_mm(n) ** 2 / 4 / mm2)))


def cord_ohm(length_m: float, mm2: float, celsius: float = 20.0) -> float:
    """Resistance of one conductor: R = rho * l / A * (1 + alpha * (T - 20 degC)), ohm.

    >>> round(cord_ohm(1.0, 0.25), 4)
    0.069
    """
    return RESISTIVITY * length_m / (mm2 * 1e-6) * (1 + PER_KELVIN * (celsius - 20))


class CordKind(Struct, frozen=True):
    """What a cord is made of, with the usual values filled in."""

    length_m: float
    mm2: float
    fixing: Fixing

    @property
    def what(self) -> str:
        """What it is called in a shop."""
        return {"jumper": "Jumper cord", "clip": "Clip cord", "solder": "Hook-up wire", "screw": "Hook-up wire"}[self.fixing]

    @property
    def words(self) -> str:
        """Length and gauge, as people say them: "20 cm, 0.14 mm² (AWG 26)"."""
        length = f"{self.length_m * 100:.3g} cm" if self.length_m < 1 else f"{self.length_m:g} m"
        return f"{length}, {self.mm2:g} mm² (AWG {nearest_awg(self.mm2)})"


def cord_of(circuit: Circuit, tie: Tie) -> CordKind:
    """The cord of a tie: what the maker says, else what is usual for what flows in it and where it ends."""
    return CordKind(tie.length_m or USUAL_M, tie.mm2 or _usual_mm2(circuit, tie), _fixing(circuit, tie))


def _usual_mm2(circuit: Circuit, tie: Tie) -> float:
    part = circuit.parts[split(tie.lead)[0]]
    amps = 0.0
    if isinstance(circuit.need(tie.lead), Supply | Ground):
        amps = sum(e.worst_a for e in part.elements.values() if isinstance(e, Load))
    if part.source is not None:
        amps = part.source.limit_a
    return next(mm2 for most, mm2 in CARRIES if amps <= most)


def _fixing(circuit: Circuit, tie: Tie) -> Fixing:
    """How the cord's far end is held: by the board's header, or by the screws of a supply or hub."""
    owner, name = split(tie.to)
    if owner != BOARD:
        return "screw" if circuit.parts[owner].source or circuit.parts[owner].is_hub else "jumper"
    pin = circuit.board.pins.get(name)
    contact = circuit.board.headers[pin.header].contact if pin else "post"
    return {"post": "jumper", "pad": "solder", "clip": "clip"}[contact]  # type: ignore[return-value]

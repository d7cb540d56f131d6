"""Lines on which several speak in turn over one wire: one-wire buses and single-line sensors."""

import math

from msgspec import Struct

from knotplan.catalog.part.needs import Stream
from knotplan.catalog.quantities import Range
from knotplan.core.buses.lines import CONTACT_FARAD, FARAD_PER_M, LOW_V
from knotplan.core.buses.pulls import Pull, pulls, together
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import USUAL_M
from knotplan.core.circuit.having import having, ties_of
from knotplan.core.circuit.units import keeps_time
from knotplan.core.memory.question import question
from knotplan.core.plan.beads import Capacitor
from knotplan.core.plan.document import Tie, split

SLOT_S = 9e-6
"""from the end of a one's pulse (6 µs) until the line is looked at (15 µs): so long it has to rise"""
HIGH_SHARE = 0.7
SINKS_A = 4e-3
"""that a one-wire device pulls to 0.4 V"""


class SingleLine(Struct, frozen=True):
    """One such line."""

    contact: str
    protocol: str
    parts: tuple[str, ...]
    pulls: tuple[Pull, ...]
    farad: float
    metres: float
    timed: bool
    """its pin keeps the time"""
    finest_s: float
    parasitic: tuple[str, ...]
    """parts that live on the data line alone"""
    convert_a: float
    """what those draw while they measure, one at a time"""
    least_v: float

    @property
    def ohm(self) -> Range | None:
        """All pull-ups together."""
        return together(self.pulls)

    @property
    def volts(self) -> Range | None:
        """The highest and lowest rail among those of the pull-ups."""
        if not self.pulls:
            return None
        rails = [p.volts for p in self.pulls]
        return Range(min(v.min for v in rails), rails[0].typ, max(v.max for v in rails))

    @property
    def rise_s(self) -> float | None:
        """Until high is sure: t = R * C * ln(1 / (1 - 0.7)), at worst."""
        return self.ohm.max * self.farad * math.log(1 / (1 - HIGH_SHARE)) if self.ohm else None

    @property
    def least_ohm(self) -> float:
        """The strongest pull-up that a device still pulls low: R = (V - 0.4 V) / 4 mA."""
        return (self.volts.max - LOW_V) / SINKS_A if self.volts else 0.0

    @property
    def most_ohm(self) -> float:
        """The weakest one that rises in time: R = t / (C * ln(1 / (1 - 0.7)))."""
        return SLOT_S / (self.farad * math.log(1 / (1 - HIGH_SHARE))) if self.farad else math.inf

    @property
    def feeding_ohm(self) -> float | None:
        """The weakest pull-up that feeds a part while it measures: R = (V - V_least)
        / I; nothing where none needs that."""
        if not self.parasitic or self.volts is None or not self.convert_a:
            return None
        return (self.volts.min - self.least_v) / self.convert_a


@question
def single_lines(c: Circuit) -> tuple[SingleLine, ...]:
    """Every pin with a one-wire or single-line part."""
    by_pin: dict[str, list[Tie]] = {}
    for tie in (t for part_id in having(c, Stream) for t in ties_of(c, part_id, Stream)):
        need = c.needs.of(tie.lead)
        if isinstance(need, Stream) and need.protocol != "pixels" and tie.to in c.ties.holders:
            by_pin.setdefault(tie.to, []).append(tie)
    return tuple(_line(c, contact, ties) for contact, ties in by_pin.items())


def _line(c: Circuit, contact: str, ties: list[Tie]) -> SingleLine:
    needs = [n for t in ties if isinstance(n := c.needs.of(t.lead), Stream)]
    parts = tuple(split(t.lead)[0] for t in ties)
    metres = [t.length_m or USUAL_M for t in ties]
    wires = [c.parts[p].facts.one_wire for p in parts]
    farad = (
        CONTACT_FARAD
        + sum(m * FARAD_PER_M[t.lay] for m, t in zip(metres, ties, strict=True))
        + sum(w.farad if w else CONTACT_FARAD for w in wires)
        + sum(b.farad for t in ties for b in t.beads if isinstance(b, Capacitor))
    )
    lives = [
        (p, w)
        for p, w in zip(parts, wires, strict=True)
        if w is not None and c.nets.is_ground(f"{p}.{w.supply}")
    ]
    all_pulls = pulls(
        c, {c.nets.of(end) for t in ties for end in (t.lead, t.to)}, [contact, *(t.lead for t in ties)]
    )
    one_wire = needs[0].protocol == "one-wire"
    timed = keeps_time(c, contact, both_ways=True) or (one_wire and "digital" not in c.board.keeps_time)
    return SingleLine(
        contact,
        needs[0].protocol,
        parts,
        tuple(all_pulls),
        farad,
        sum(metres),
        timed,
        min(n.finest_s for n in needs),
        tuple(p for p, _ in lives),
        max((w.convert_a for _, w in lives), default=0.0),
        max((w.least_v for _, w in lives), default=0.0),
    )

"""Measured ends, from a log or by hand, into the plan: a servo's pulses, a radio channel's, a converter's
codes."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import Remedy, Step
from knotplan.core.quantity.written import show
from knotplan.core.timing.codes import analog_leads, code_keys, measured_codes

MICRO = 1e-6
"""logs have pulses in microseconds"""
ONE, OTHER = "one_end", "other_end"
"""the parameters that hold a part's two ends"""


class Taken(Struct, frozen=True):
    """Something whose two ends are measured."""

    id: str
    part: str
    title: str
    what: str
    """what is measured, in words"""
    keys: tuple[str, str]
    """the ids of what holds its two ends"""
    now: tuple[float, float] | None
    """the ends that the plan has, in `unit`"""
    unit: str = ""
    scale: float = 1.0
    """what one of the log is in `unit`"""
    in_part: bool = False
    """they are parameters of the part; else the program's settings"""

    def shown(self, value: float) -> str:
        """One end, in words."""
        return show(value, self.unit, 4) if self.unit else f"{value:g}"


def takers(c: Circuit) -> Iterator[Taken]:
    """Everything of a plan whose ends can be measured."""
    for part_id, part in c.parts.items():
        title, placed = c.titles.part(part_id), c.placed[part_id]
        if ONE in part.params and OTHER in part.params:
            ends = tuple(float(placed.params.get(k, part.params[k].default)) for k in (ONE, OTHER))
            yield Taken(
                part_id,
                part_id,
                title,
                "pulses at both ends",
                (ONE, OTHER),
                (ends[0], ends[1]),
                "s",
                MICRO,
                True,
            )
        radio = part.facts.radio
        if radio is not None:
            low, high = placed.setting("low_s", radio.least_s), placed.setting("high_s", radio.most_s)
            yield Taken(
                part_id, part_id, title, "a channel's pulses", ("low_s", "high_s"), (low, high), "s", MICRO
            )
    for lead in analog_leads(c):
        part_id, name = split(lead)
        yield Taken(
            lead,
            part_id,
            c.titles.of(lead),
            "the converter's codes at both ends",
            code_keys(name),
            measured_codes(c, lead),
        )


def widened(c: Circuit, part_id: str, pulse_s: float) -> tuple[Remedy, ...]:
    """The edits that let a servo's ends reach a pulse that really comes; nothing for other parts."""
    for taken in takers(c):
        if taken.part == part_id and taken.in_part and taken.now is not None:
            low, high = sorted(taken.now)
            ends = (min(low, pulse_s) / taken.scale, max(high, pulse_s) / taken.scale)
            return (take_over(taken, *ends),)
    return ()


def take_over(taken: Taken, least: float, most: float) -> Remedy:
    """The edit that gives something these ends, in the unit of the log."""
    low, high = sorted((least * taken.scale, most * taken.scale))
    title = f"Let {taken.title} go from {taken.shown(low)} to {taken.shown(high)} in the plan"
    if taken.in_part:
        return Remedy(
            title, (Step(edits.set_params, (taken.part, dict(zip(taken.keys, (low, high), strict=True)))),)
        )
    return Remedy(
        title,
        tuple(
            Step(edits.set_program_setting, (taken.part, key, value))
            for key, value in zip(taken.keys, (low, high), strict=True)
        ),
    )

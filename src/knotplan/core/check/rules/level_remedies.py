"""What brings a level from one side's supply to the other's: level shifters and dividers."""

from collections.abc import Iterator

from knotplan.catalog.part.needs import Bus
from knotplan.catalog.quantities import Range
from knotplan.core.check.rules.remedies import supply_of
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import LevelShifter, PullDown, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step
from knotplan.core.quantity import series
from knotplan.core.quantity.written import show

DIVIDER_OHM = 1000.0
"""the upper resistor of a divider in front of an input: stiff against the pin's
leakage, light on the part's output"""


def divided(c: Circuit, tie: Tie, volts: float, rail: Range) -> Remedy:
    """A divider before a pin, in place of what divides there now: what is at most `volts` comes down to the
    pin's rail."""
    lower = series.at_or_above(DIVIDER_OHM * rail.min / (volts - rail.min), c.series)
    if lower * volts / (lower + DIVIDER_OHM) > rail.max:
        lower = series.below(lower, c.series)
    old = [k for k, b in enumerate(tie.beads) if isinstance(b, SeriesResistor | PullDown)]
    steps = (
        *(Step(edits.remove_bead, (tie.id, k)) for k in reversed(old)),
        Step(edits.add_bead, (tie.id, SeriesResistor(DIVIDER_OHM))),
        Step(edits.add_bead, (tie.id, PullDown(lower))),
    )
    instead = " instead" if old else ""
    return Remedy(f"Divide it by {show(DIVIDER_OHM, 'Ω')} and {show(lower, 'Ω')}{instead}", steps)


def shifted(c: Circuit, tie: Tie) -> Iterator[Remedy]:
    """With a level shifter in a tie, where both sides have a supply; on a bus the other line gets one too."""
    part_id = split(tie.lead)[0]
    own = supply_of(c, part_id)
    pin = c.contacts.pin(tie.to)
    rail = c.supplies.rail_contact(tie.to) if pin is not None and pin.kind == "io" and pin.driver else ""
    if not own or not rail or any(isinstance(b, LevelShifter) for b in tie.beads):
        return
    need = c.needs.of(tie.lead)
    both_ways = isinstance(need, Bus) and need.bus == "i2c"
    bead = LevelShifter("mosfet" if both_ways else "buffer", lead_rail=own, pin_rail=rail)
    together = [
        t
        for name in c.parts[part_id].leads
        if (t := c.ties.of(f"{part_id}.{name}")) is not None
        and (t == tie or (both_ways and isinstance(n := c.needs.of(t.lead), Bus) and n.bus == "i2c"))
    ]
    steps = tuple(Step(edits.put_bead, (t.id, bead, "pin")) for t in together)
    lines = "level shifter" if len(steps) == 1 else f"level shifter in {len(steps)} lines"
    yield Remedy(f"Add a {lines} to {c.titles.full(own)}", steps)

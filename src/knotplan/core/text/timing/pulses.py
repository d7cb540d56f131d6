"""What a timer makes of a frequency, who shares it, and steps of brightness."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import show
from knotplan.core.text.timing.piece import Pieces, Table
from knotplan.core.timing import lightness
from knotplan.core.timing.program_settings import law_of, levels_of, pulsed_leads
from knotplan.core.timing.pulses import Shared, timer_of

MOST_COUNTS = 65535
"""of a table for a program: finer ones are scaled to this"""


def of_pulses(c: Circuit, part_id: str) -> Pieces:
    """What there is to say about a pulse output."""
    for lead in pulsed_leads(c, part_id):
        shared = timer_of(c, lead)
        if shared is None:
            continue
        yield from _timer(c, shared, lead)
        if c.parts[part_id].facts.servo is None:
            yield _steps(c, part_id, shared)


def _timer(c: Circuit, shared: Shared, lead: str) -> Pieces:
    t = shared.timer
    name = f"{shared.title[0].upper()}{shared.title[1:]}"
    if shared.counter is None:
        yield f"{name} is set to {show(t.hz, 'Hz')}; the catalogue does not say how it gets there.", "faint"
    else:
        off = (
            f", {show(abs(t.off), '%', 2)} off the {show(t.wanted_hz, 'Hz')} that are wanted"
            if abs(t.off) > 5e-4
            else ""
        )
        written = f", written as {t.written}" if shared.counter.less_one else ""
        yield (
            f"{name}: divided by {t.divisor:g}{written} and counted to {t.counts} it gives "
            f"{show(t.hz, 'Hz', 5)}{off}.",
            "care" if abs(t.off) > 0.05 else "",
        )
        clock = f"; its clock may be {show(t.error, '%', 2)} off" if t.error else ""
        yield f"Pulses are set to {show(t.tick_s, 's')}, {t.bits:.3g} bits{clock}.", "faint"
    others = [u for u in shared.uses if u.lead != lead]
    if others:
        apart = [u for u in others if u.hz != t.wanted_hz]
        names = ", ".join(c.titles.of(u.lead) for u in others[:3]) + (
            f" and {len(others) - 3} more" if len(others) > 3 else ""
        )
        yield f"One frequency with {names}.", "stop" if apart else "faint"
    if shared.note:
        yield f"{name}: {shared.note}.", "faint"


def steps_of(c: Circuit, part_id: str, shared: Shared) -> tuple[int, ...]:
    """Counts for the steps of brightness; fewer steps than asked for where the counter has fewer counts."""
    most = min(shared.timer.top, MOST_COUNTS)
    return lightness.table(min(levels_of(c, part_id), most + 1), most, law_of(c, part_id))


def _steps(c: Circuit, part_id: str, shared: Shared) -> Table:
    counts = steps_of(c, part_id, shared)
    most = counts[-1]
    rows = tuple(
        (str(k), str(n), show(n / most, "%", 2), f"{lightness.lightness(n / most):.0f}")
        for k, n in enumerate(counts)
    )
    scaled = f", scaled from {shared.timer.counts}" if shared.timer.counts > most + 1 else ""
    return Table(
        f"Steps of brightness, of {most} counts{scaled}", ("step", "count", "on", "seen"), rows, counts
    )

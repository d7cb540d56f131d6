"""Servos: how finely they stand, what they draw when they start, and the way from angle to count."""

from knotplan.catalog.part.elements import Load
from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show
from knotplan.core.text.timing.piece import Pieces, Table
from knotplan.core.timing import servo
from knotplan.core.timing.program_settings import pulsed_leads
from knotplan.core.timing.pulses import Shared, timer_of


def of_servos(report: Report, part_id: str) -> Pieces:
    """What there is to say about a servo."""
    c = report.circuit
    s = c.parts[part_id].facts.servo
    lead = next(iter(pulsed_leads(c, part_id)), "")
    shared = timer_of(c, lead) if lead else None
    if s is None or shared is None:
        return
    t = shared.timer
    step, count = servo.finest(s, t), servo.steps(s, t)
    text = f"{step:.2g}°" if s.degrees else f"a {count}th of its range"
    yield (
        f"Finest step {text}: {count} counts between its ends.",
        "care" if count < servo.least_steps(s) else "",
    )
    if s.seconds_for_60:
        swing = s.seconds_for_60 * s.degrees / 60
        yield (
            f"Unloaded it turns 60° in {show(s.seconds_for_60, 's')}, from end to end in {show(swing, 's')}.",
            "faint",
        )
    drift = s.most_s * t.error
    if t.error > 0.001:
        off = drift / t.tick_s
        yield (
            f"The clock's {show(t.error, '%', 2)} may lengthen the longest pulse by {show(drift, 's')}, "
            f"{off:.0f} counts: measure both ends and enter them with the part.",
            "faint",
        )
    yield from _starts(report, shared)
    what = "angle" if s.degrees else "speed"
    rows = tuple(
        (
            f"{r.at:.4g}°" if s.degrees else show(r.at, "%"),
            show(r.pulse_s, "s", 4),
            str(r.count),
            show(r.made_s, "s", 4),
        )
        for r in servo.table(s, t)
    )
    yield Table(
        "From angle to count" if s.degrees else "From speed to count", (what, "pulse", "count", "made"), rows
    )


def peaks(c: Circuit, shared: Shared) -> tuple[int, float, float]:
    """(how many servos, amperes if all start at once, amperes if one starts while the others run)."""
    parts = dict.fromkeys(
        split(u.lead)[0] for u in shared.uses if c.parts[split(u.lead)[0]].facts.servo is not None
    )
    loads = [e for p in parts for e in c.parts[p].elements.values() if isinstance(e, Load)]
    usual = sum(e.usual_a for e in loads)
    return (
        len(parts),
        sum(e.worst_a for e in loads),
        usual + max((e.worst_a - e.usual_a for e in loads), default=0.0),
    )


def _starts(report: Report, shared: Shared) -> Pieces:
    count, together, apart = peaks(report.circuit, shared)
    if count > 1:
        yield (
            f"If all {count} servos of this counter start at once they draw {show(together, 'A')}; if the "
            f"program starts them one by one, {show(apart, 'A')}.",
            "",
        )
        hub = report.circuit.parts.get(shared.unit.owner)
        if hub is not None and hub.parameter("stagger"):
            yield f"Frames begin {'one after another' if hub.facts.staggered else 'together'}.", "faint"

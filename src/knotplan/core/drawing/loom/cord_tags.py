"""What lenses say of cords: the level at their lead, or the current that they carry,
as a tag where they leave the card."""

from collections.abc import Iterator, Mapping

from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import Bench, LeadSpot
from knotplan.core.drawing.loom.tree import is_stub
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Shape, Text, text_width
from knotplan.core.plan.document import Tie, split
from knotplan.core.power.budgets import pin_current
from knotplan.core.quantity.written import show

Beads = Mapping[str, tuple[tuple[float, float, str], ...]]
CLEAR, ASIDE = (95.0, 18.0), 19.0
"""a bead so near takes the tag's place; the tag then stands aside"""
LEAST_A, LEAST_V = 5e-6, 0.01
"""below these a cord has no tag: leakage, and lines that are never high"""


def cord_tags(
    report: Report, bench: Bench, lens: str, p: Palette, beads: Beads | None = None
) -> Iterator[Shape]:
    """A tag for each cord that is drawn, in the lenses Volts and Load; `beads` are
    where each tie's are, to keep clear of."""
    if lens not in ("volts", "load") or not report.checked:
        return
    c = report.circuit
    fed = (
        {n.lead: n.drawn.worst_a for root in report.power for n in root.walk() if n.lead}
        if lens == "load"
        else {}
    )
    for tie in c.plan.ties:
        spot = bench.leads.get(tie.lead)
        if spot is None or is_stub(c, tie.lead):
            continue
        text = _volts(report, tie) if lens == "volts" else _amps(c, report, tie, fed)
        if text:
            near = any(
                abs(x - spot.x) < CLEAR[0] and abs(y - spot.y) < CLEAR[1]
                for x, y, _ in (beads or {}).get(tie.id, ())
            )
            yield from _tag(spot, text, p, _aside(bench, spot) if near else 0.0)


def _aside(bench: Bench, spot: LeadSpot) -> float:
    """Below the cord where no other lead is, else above it."""
    part = split(spot.contact)[0]
    below = (s for contact, s in bench.leads.items() if split(contact)[0] == part and s.out == spot.out)
    return -ASIDE if any(0 < s.y - spot.y < 2 * ASIDE for s in below) else ASIDE


def _volts(report: Report, tie: Tie) -> str:
    """The highest typical level at the lead while the program runs."""
    readings = report.points.volts.get(report.circuit.nets.of(tie.lead), [])
    most = max((r.typ for r in readings if r.case.moment == "running"), default=0.0)
    return show(most, "V", 3) if most > LEAST_V else ""


def _amps(c: Circuit, report: Report, tie: Tie, fed: dict[str, float]) -> str:
    """The worst current through the cord; nothing where several share a pin."""
    amps = fed.get(tie.lead, 0.0)
    if tie.to in report.points.pins and len(c.ties.holders[tie.to]) == 1:
        amps = max(amps, pin_current(report.points.pins[tie.to])[1])
    return show(amps, "A", 2) if amps > LEAST_A else ""


def _tag(spot: LeadSpot, text: str, p: Palette, dy: float) -> Iterator[Shape]:
    wide = text_width(text, 11, True) + 10
    if spot.out[0]:
        x, y = (spot.x + 8 if spot.out[0] > 0 else spot.x - 8 - wide), spot.y + dy
    else:
        x, y = spot.x - wide / 2, spot.y + spot.out[1] * 17
    yield Box(x, y - 8.5, wide, 17, 4, p.card, p.edge, 1)
    yield Text(x + wide / 2, y + 4, text, 11, p.ink, True, "middle")

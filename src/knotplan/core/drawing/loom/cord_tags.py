"""What lenses say of cords: the level at their lead, or the current that they carry,
as a tag where they leave the card."""

from collections.abc import Iterator, Mapping

from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.beads import Rect, bead_box, overlap
from knotplan.core.drawing.loom.bench import Bench, LeadSpot
from knotplan.core.drawing.loom.tree import is_stub
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Shape, Text, text_width
from knotplan.core.plan.document import Tie, split
from knotplan.core.power.budget import pin_current
from knotplan.core.quantity.written import show

Beads = Mapping[str, tuple[tuple[float, float, str], ...]]
SIZE, HIGH = 11.0, 17.0
ASIDE = 18.0
"""how far above or below its cord a tag stands where the cord itself has no room"""
LEAST_A, LEAST_V = 5e-6, 0.01
"""below these a cord has no tag: leakage, and lines that are never high"""


def cord_tags(
    report: Report, bench: Bench, lens: str, p: Palette, beads: Beads | None = None
) -> Iterator[Shape]:
    """A tag for each cord that is drawn, in the lenses Volts and Load, where there is room for it; `beads`
    are where each tie's are, to keep clear of."""
    if lens not in ("volts", "load") or not report.checked:
        return
    c = report.circuit
    fed = (
        {n.lead: n.drawn.worst_a for root in report.power for n in root.walk() if n.lead}
        if lens == "load"
        else {}
    )
    taken = [bead_box(*bead) for tie in (beads or {}).values() for bead in tie]
    taken += [(card.x + 6, card.y, card.w - 12, card.h) for card in bench.cards]
    for tie in c.plan.ties:
        spot = bench.leads.get(tie.lead)
        if spot is None or is_stub(c, tie.lead):
            continue
        text = _volts(report, tie) if lens == "volts" else _amps(c, report, tie, fed)
        box = _free_place(spot, text, taken, bench) if text else None
        if box:
            taken.append(box)
            yield from _tag(box, text, p)


def _free_place(spot: LeadSpot, text: str, taken: list[Rect], bench: Bench) -> Rect | None:
    """Where a cord leaves its card, or above or below that, where no other cord leaves; nothing where all is
    taken."""
    wide = text_width(text, SIZE, True) + 10
    owner = split(spot.contact)[0]
    others = [
        s
        for s in bench.leads.values()
        if s.out == spot.out and s is not spot and split(s.contact)[0] == owner
    ]
    for aside in (0.0, -ASIDE, ASIDE):
        if spot.out[0]:
            x, y = (spot.x + 8 if spot.out[0] > 0 else spot.x - 8 - wide), spot.y + aside
        else:
            x, y = spot.x - wide / 2 + aside, spot.y + spot.out[1] * ASIDE
        box = (x, y - HIGH / 2, wide, HIGH)
        at_others = aside and any(
            abs(s.y - spot.y - aside) < HIGH if spot.out[0] else abs(s.x - spot.x - aside) < wide
            for s in others
        )
        if not at_others and not any(overlap(box, other) for other in taken):
            return box
    return None


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


def _tag(box: Rect, text: str, p: Palette) -> Iterator[Shape]:
    x, y, w, h = box
    yield Box(x, y, w, h, 4, p.card, p.edge, 1)
    yield Text(x + w / 2, y + h / 2 + 4, text, SIZE, p.ink, True, "middle")

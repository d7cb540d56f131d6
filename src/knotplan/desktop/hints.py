"""The dark bubble beside what the pointer is on: name, state, and the answer to the selected lead."""

from knotplan.catalog.boards import WAKES
from knotplan.core.budgets import pin_current
from knotplan.core.fit import Grade, need_words
from knotplan.core.loom.bench import Bench
from knotplan.core.loom.cords import bead_words, colour_of
from knotplan.core.loom.palette import Palette
from knotplan.core.loom.shapes import Box, Shape, Text, shortened, text_width
from knotplan.core.loom.view import LoomView
from knotplan.core.plan import split
from knotplan.core.quantity import show
from knotplan.core.report import Report
from knotplan.desktop.hits import Hit

WIDEST = 330.0
GRADES = {Grade.BEST: "best", Grade.GOOD: "good", Grade.POSSIBLE: "possible", Grade.IMPOSSIBLE: "cannot"}


def lines(report: Report, view: LoomView, hit: Hit) -> list[tuple[str, str]]:
    """(text, tone) of the bubble; the first line is its head."""
    c = report.circuit
    if hit.kind == "pin":
        return _pin(report, view, hit.id)
    if hit.kind == "lead":
        tie = c.tie_of(hit.id)
        said = f"tied to {c.full_title(tie.to)}" if tie else "not tied"
        if tie is None and hit.id in c.ties_at:
            said = "tied to " + ", ".join(c.title(t.lead) for t in c.ties_at[hit.id])
        return [(c.title(hit.id), "head"), (need_words(c, hit.id), ""), (said, "")]
    if hit.kind == "tie":
        tie = c.plan.tie(hit.id)
        beads = ", ".join(bead_words(b) for b in tie.beads)
        role = f" · “{tie.role}”" if tie.role else ""
        rows = [(f"{c.title(tie.lead)}{role}", "head"), (f"{colour_of(c, tie)} cord to {c.full_title(tie.to)}", "")]
        return [*rows, (f"with {beads}", "")] if beads else rows
    return []


def _pin(report: Report, view: LoomView, contact: str) -> list[tuple[str, str]]:
    c = report.circuit
    pin = c.pin(contact)
    name = split(contact)[1]
    if pin is None:
        socket = c.board.sockets[name]
        return [(socket.title, "head"), (f"up to {show(socket.limit_a, 'A')}", ""), *_answer(view, contact)]
    rows = [(c.full_title(contact), "head")]
    others = [f"{s.title.lower()} {pin.names[k]}" if pin.names[k].isdigit() else pin.names[k]
              for k, s in c.board.schemes.items() if k in pin.names and k not in (c.scheme, "position")]  # fmt: skip
    if others:
        rows.append((", ".join(others), ""))
    if pin.kind == "supply":
        rail = c.board.rails[pin.rail]
        rows.append((f"{rail.title}, up to {show(rail.limit_a, 'A')}" if pin.rail in c.live_rails else "no voltage", ""))
    elif pin.kind == "io":
        rows.append((f"{c.does(contact)}, {WAKES[pin.power_on]} at power-on", ""))
    if name in report.points.pins:
        usual, worst = pin_current(report.points.pins[name])
        limit = c.board.drivers[pin.driver].recommended_a
        rows.append((f"{show(usual, 'A')}, at worst {show(worst, 'A')} of {show(limit, 'A')}", ""))
    if pin.reserved:
        rows.append((f"{c.board.reservations[pin.reserved].title}: has a job already", "care"))
    for tie in c.ties_at.get(contact, ()):
        rows.append((f"tied to {c.title(tie.lead)}", ""))
    return rows + _answer(view, contact)


def _answer(view: LoomView, contact: str) -> list[tuple[str, str]]:
    if contact not in view.answers:
        return []
    answer = view.answers[contact]
    tone = "best" if answer.grade <= Grade.GOOD else "care"
    return [(f"{GRADES[answer.grade]}: {answer.reason}", tone)]


def hint(report: Report, bench: Bench, view: LoomView, hit: Hit, p: Palette) -> list[Shape]:
    """The bubble as shapes, placed where it stays on the bench."""
    rows = lines(report, view, hit)
    if not rows:
        return []
    spot = bench.pins.get(hit.id) or bench.leads.get(hit.id)
    if spot is None:  # a cord
        lead = bench.leads[report.circuit.plan.tie(hit.id).lead]
        x, y = lead.x + (40 if lead.x < 0 else -40), lead.y
    else:
        x, y = spot.x, spot.y
    texts = [(shortened(t, 12, WIDEST), tone) for t, tone in rows]
    wide = max(text_width(t, 12, tone == "head") for t, tone in texts) + 26
    high = 18 * len(texts) + 14
    left = x + 22 if x >= -40 else x - 22 - wide
    bx, by, bw, bh = bench.bounds()
    left = max(bx, min(left, bx + bw - wide))
    top = max(by, min(y - 14, by + bh - high))
    inks = {"head": p.inverse_text, "": p.inverse_text, "best": "#ffcf5a" if p.inverse < "#8" else "#7a5200",
            "care": "#f0b04a" if p.inverse < "#8" else "#8a3d00"}  # fmt: skip
    shapes: list[Shape] = [Box(left, top, wide, high, 6, p.inverse, p.board_edge, 1)]
    for k, (text, tone) in enumerate(texts):
        shapes.append(Text(left + 12, top + 21 + 18 * k, text, 12, inks[tone], tone == "head"))
    return shapes

"""The dark bubble beside what the pointer is on: name, state, and the answer to the selected lead."""

from knotplan.core.check.report import Report
from knotplan.core.circuit.cords import colour_of
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.view import LoomView
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Shape, Text, shortened, text_width
from knotplan.core.match.fit import Grade, need_words
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show
from knotplan.core.text.beads import bead_words
from knotplan.core.text.pin_card import pin_card
from knotplan.desktop.loom.hit_tester import Hit

WIDEST = 330.0
GRADES = {Grade.BEST: "best", Grade.GOOD: "good", Grade.POSSIBLE: "possible", Grade.IMPOSSIBLE: "cannot"}


def lines(report: Report, view: LoomView, hit: Hit) -> list[tuple[str, str]]:
    """(text, tone) of the bubble; the first line is its head."""
    c = report.circuit
    if hit.kind == "pin":
        if hit.id in view.answers:
            return _pin(report, view, hit.id)
        rows = [(f"{row.about} {row.text}", row.tone) for row in pin_card(report, hit.id)]
        return [(c.titles.full(hit.id), "head"), *rows]
    if hit.kind == "lead":
        tie = c.ties.of(hit.id)
        text = f"tied to {c.titles.full(tie.to)}" if tie else "not tied"
        if tie is None and hit.id in c.ties.at:
            text = "tied to " + ", ".join(c.titles.of(t.lead) for t in c.ties.at[hit.id])
        return [(c.titles.of(hit.id), "head"), (need_words(c, hit.id), ""), (text, "")]
    if hit.kind == "tie":
        tie = c.plan.tie(hit.id)
        beads = ", ".join(bead_words(b) for b in tie.beads)
        role = f" · “{tie.role}”" if tie.role else ""
        said_first = [
            (f"{c.titles.of(tie.lead)}{role}", "head"),
            (f"{colour_of(c, tie)} cord to {c.titles.full(tie.to)}", ""),
        ]
        return [*said_first, (f"with {beads}", "")] if beads else said_first
    return []


def _pin(report: Report, view: LoomView, contact: str) -> list[tuple[str, str]]:
    """What matters while a lead is being tied: the pin's names, its job, and its answer to the lead."""
    c = report.circuit
    pin = c.contacts.pin(contact)
    if pin is None:
        socket = c.board.sockets[split(contact)[1]]
        return [(socket.title, "head"), (f"up to {show(socket.limit_a, 'A')}", ""), *_answer(view, contact)]
    rows = [(c.titles.full(contact), "head")]
    others = [
        f"{s.title.lower()} {pin.names[k]}" if pin.names[k].isdigit() else pin.names[k]
        for k, s in c.board.schemes.items()
        if k in pin.names and k not in (c.scheme, "position")
    ]
    if others:
        rows.append((", ".join(others), ""))
    if pin.kind == "supply":
        rail = c.board.rails[pin.rail]
        rows.append(
            (
                f"{rail.title}, up to {show(rail.limit_a, 'A')}"
                if pin.rail in c.supplies.live_rails
                else "no voltage",
                "",
            )
        )
    elif pin.kind == "io":
        rows.append((f"{c.titles.does(contact)}; {pin.power_on_words} at power-on", ""))
    for tie in c.ties.at.get(contact, ()):
        rows.append((f"tied to {c.titles.of(tie.lead)}", ""))
    return rows + _answer(view, contact)


def _answer(view: LoomView, contact: str) -> list[tuple[str, str]]:
    if contact not in view.answers:
        return []
    answer = view.answers[contact]
    tone = "best" if answer.grade <= Grade.GOOD else "care"
    return [(f"{GRADES[answer.grade]}: {answer.reason}", tone)]


def hint(
    report: Report, bench: Bench, view: LoomView, hit: Hit, p: Palette, rested: bool = False
) -> list[Shape]:
    """The bubble as shapes, placed where it stays on the bench; a pin's
    becomes its card where the pointer rests."""
    plain = hit.kind == "pin" and hit.id not in view.answers
    if plain and rested:
        return card(report, bench, hit.id, p)
    rows = _pin(report, view, hit.id) if plain else lines(report, view, hit)
    if not rows:
        return []
    if hit.kind == "tie":
        lead = bench.spot(report.circuit.plan.tie(hit.id).lead)
        if lead is None:
            return []
        x, y = lead.x + (40 if lead.x < 0 else -40), lead.y
    else:
        spot = bench.pins.get(hit.id) or bench.leads.get(hit.id)
        if spot is None:  # folded away
            return []
        x, y = spot.x, spot.y
    texts = [(shortened(t, 12, WIDEST), tone) for t, tone in rows]
    wide = max(text_width(t, 12, tone == "head") for t, tone in texts) + 26
    high = 18 * len(texts) + 14
    left, top = _placed(bench, x, y, wide, high)
    inks = _inks(p)
    shapes: list[Shape] = [Box(left, top, wide, high, 6, p.inverse, p.board_edge, 1)]
    for k, (text, tone) in enumerate(texts):
        shapes.append(Text(left + 12, top + 21 + 18 * k, text, 12, inks[tone], tone == "head"))
    return shapes


def _inks(p: Palette) -> dict[str, str]:
    dark = p.inverse < "#8"
    return {
        "head": p.inverse_text,
        "": p.inverse_text,
        "best": "#ffcf5a" if dark else "#7a5200",
        "care": "#f0b04a" if dark else "#8a3d00",
        "tied": "#8fd6ac" if dark else "#1e5a34",
        "about": "#a9b4bd" if dark else "#5c6266",
    }


def _placed(bench: Bench, x: float, y: float, wide: float, high: float) -> tuple[float, float]:
    """Beside a place, where it stays on the bench."""
    bx, by, bw, bh = bench.bounds()
    left = x + 22 if x >= -40 else x - 22 - wide
    return max(bx, min(left, bx + bw - wide)), max(by, min(y - 14, by + bh - high))


def _beside_board(bench: Bench, contact: str, wide: float, high: float) -> tuple[float, float]:
    """Where the board and its names stay in sight."""
    spot, (x, _, w, _) = bench.pins[contact], bench.board
    bx, by, bw, bh = bench.bounds()
    if spot.out[0]:
        left = x + w + 8 if spot.out[0] > 0 else x - 8 - wide
        return left, max(by, min(spot.y - high / 3, by + bh - high))
    top = (
        spot.y - 74 - high if spot.out[1] > 0 else spot.y + 74
    )  # beyond the names, which stand upright there
    left = max(bx, min(spot.x - wide / 2, bx + bw - wide))
    return left, max(by, min(top, by + bh - high))


def card(report: Report, bench: Bench, contact: str, p: Palette) -> list[Shape]:
    """The card of a pin: everything about it, what is said beside what it is about."""
    rows = [(row, _broken(row.text)) for row in pin_card(report, contact)]
    about = max((text_width(row.about, 11.5) for row, _ in rows), default=0) + 14
    wide = (
        max(
            [
                text_width(report.circuit.titles.full(contact), 14, True),
                *(about + text_width(t, 12) for _, texts in rows for t in texts),
            ]
        )
        + 26
    )
    high = 36 + sum(17 * len(texts) + 2 for _, texts in rows) + 6
    left, top = _beside_board(bench, contact, wide, high)
    inks = _inks(p)
    shapes: list[Shape] = [
        Box(left, top, wide, high, 7, p.inverse, p.board_edge, 1),
        Text(left + 13, top + 23, report.circuit.titles.full(contact), 14, inks["head"], True),
    ]
    y = top + 43
    for row, texts in rows:
        shapes.append(Text(left + 13, y, row.about, 11.5, inks["about"]))
        for text in texts:
            shapes.append(Text(left + 13 + about, y, text, 12, inks[row.tone]))
            y += 17
        y += 2
    return shapes


def _broken(text: str) -> list[str]:
    """A text in lines that fit the card."""
    lines, now = [], ""
    for word in text.split():
        longer = f"{now} {word}".strip()
        if now and text_width(longer, 12) > WIDEST:
            lines.append(now)
            now = word
        else:
            now = longer
    return [*lines, now]

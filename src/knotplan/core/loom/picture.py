"""The picture of a plan: board, cards, cords, and what the lens and the selection add."""

from collections.abc import Iterator
from typing import NamedTuple

from knotplan.catalog.needs import Gives, words
from knotplan.core.budgets import Budget, pin_current
from knotplan.core.circuit import Circuit
from knotplan.core.finding import SEVERITIES
from knotplan.core.fit import Grade
from knotplan.core.loom.bench import LABEL, PIN_R, Bench, Card, PinSpot, is_stub
from knotplan.core.loom.cords import Cord, colour_of, cords, tag
from knotplan.core.loom.marks import cross, severity, triangle
from knotplan.core.loom.palette import CORDS, Palette
from knotplan.core.loom.shapes import Arc, Box, Curve, Disc, Picture, Polygon, Shape, Text, shortened, text_width
from knotplan.core.loom.view import LoomView
from knotplan.core.plan import BOARD, split
from knotplan.core.quantity import show
from knotplan.core.report import Report

CORD_W = 3.4


class Group(NamedTuple):
    """Shapes that change together, and the box that they stay within; painted once, they can be kept."""

    x: float
    y: float
    w: float
    h: float
    shapes: tuple[Shape, ...]
    keep: bool = True
    """changes seldom enough to be worth keeping"""


def picture(report: Report, bench: Bench, view: LoomView, p: Palette, margin: float = 24) -> Picture:
    """Everything, for a file or a sheet."""
    x, y, w, h = bench.bounds()
    below = (s for group in groups(report, bench, view, p) for s in group.shapes)
    shapes = (*below, *overlay(report, bench, view, p))
    return Picture(x - margin, y - margin, w + 2 * margin, h + 2 * margin, p.cloth, shapes)


def groups(report: Report, bench: Bench, view: LoomView, p: Palette) -> list[Group]:
    """What stays while the pointer and the selection move, from below upwards."""
    drawn = cords(report.circuit, bench)
    x, y, w, h = bench.board
    box = bench.bounds()
    made = [Group(x - 24, y - 24, w + 48, h + 48, (*_board(report, bench, p), *_pins(report, bench, view, p)))]
    held = tuple(_held(report.circuit, bench))
    made.append(Group(*box, (*held, *(s for cord in drawn for s in _cord(cord, p))), keep=False))
    made += [Group(card.x - 8, card.y - 4, card.w + 16, card.h + 10, tuple(_card(report, card, p)))
             for card in bench.cards]  # fmt: skip
    made.append(Group(*box, tuple(s for cord in drawn for s in _trimmings(cord, p)), keep=False))
    return made


# --- board --------------------------------------------------------------------------------------


def _board(report: Report, bench: Bench, p: Palette) -> Iterator[Shape]:
    x, y, w, h = bench.board
    circuit = report.circuit
    yield Box(x + 2, y + 3, w, h, 10, "#00000022")
    yield Box(x, y, w, h, 10, p.board, p.board_edge, 1.5)
    turned = circuit.plan.turned
    mx, my = {0: (0.0, y), 90: (x + w, 0.0), 180: (0.0, y + h), 270: (x, 0.0)}[turned]
    yield Disc(mx, my, 9, p.cloth)  # the notch
    back = " (from below)" if circuit.plan.flipped else ""
    text = f"{circuit.board.outline.mark}{back}"
    if bench.upright:
        yield Text(0, my + (26 if turned == 0 else -16), text, 10.5, p.board_faint, False, "middle")
    else:
        yield Text(mx + (-16 if turned == 90 else 24), 0, text, 10.5, p.board_faint, False, "middle", -90)


def _pins(report: Report, bench: Bench, view: LoomView, p: Palette) -> Iterator[Shape]:
    circuit = report.circuit
    loads = {b.id: b for b in report.budgets}
    for contact, spot in bench.pins.items():
        pin = circuit.pin(contact)
        if pin is None:
            yield from _socket(circuit, contact, spot, p)
            continue
        yield from _contact(circuit, contact, spot, p)
        name = circuit.title(contact)
        ink = p.board_text if pin.kind == "io" else p.board_faint
        amount = _load_text(report, contact, loads) if view.lens == "load" else ""
        lift = 4 if amount and not spot.label_angle else 0
        yield Text(spot.label_x, spot.label_y - lift, name, LABEL, ink, pin.kind != "io",
                   spot.label_anchor, spot.label_angle)  # type: ignore[arg-type]  # fmt: skip
        if view.lens == "load":
            yield from _load(report, contact, spot, loads, p)
        if amount:
            dx, dy = (11, 0) if spot.label_angle else (0, 8)
            yield Text(spot.label_x + dx, spot.label_y + dy, amount, 9, "#ffd98a", False,
                       spot.label_anchor, spot.label_angle)  # type: ignore[arg-type]  # fmt: skip


def _contact(circuit: Circuit, contact: str, spot: PinSpot, p: Palette) -> Iterator[Shape]:
    pin = circuit.pin(contact)
    assert pin is not None
    x, y, r = spot.x, spot.y, PIN_R
    if pin.kind == "supply":
        low = circuit.board.rails[pin.rail].volts.typ < 4.5
        live = pin.rail in circuit.live_rails
        yield Box(x - r, y - r, 2 * r, 2 * r, 2, (p.supply_low if low else p.supply) if live else p.board, "#000000", 1)
        yield Disc(x, y, 3.2, p.pin_hole)
    elif pin.kind == "ground":
        yield triangle(x, y + 1, r + 1, p.ground, down=True)
    elif pin.kind == "io":
        yield Disc(x, y, r, p.pin_timed if pin.jobs("pwm") or pin.jobs("adc") else p.pin, p.board_edge, 1)
        yield Disc(x, y, 3.4, p.pin_hole)
        if pin.reserved:
            yield triangle(x + r + 1, y - r + 1, 4.6, p.care)
    else:
        yield Polygon(((x, y - r), (x + r, y), (x, y + r), (x - r, y)), p.board_faint, p.board_edge)


def _held(circuit: Circuit, bench: Bench) -> Iterator[Shape]:
    """A pin with a tie wears its cord's colour."""
    for pin_id, ties in circuit.holders.items():
        spot = bench.pins[f"{BOARD}.{pin_id}"]
        yield Disc(spot.x, spot.y, PIN_R - 2.6, "", CORDS.get(colour_of(circuit, ties[0]), CORDS["grey"]), 3.6)


def _socket(circuit: Circuit, contact: str, spot: PinSpot, p: Palette) -> Iterator[Shape]:
    name = split(contact)[1]
    fed = name == circuit.socket
    title = circuit.board.sockets[name].title.replace(" power", "").replace(" socket", "").replace(" jack", "")
    w, h = (44.0, 18.0) if not spot.out[0] else (18.0, 44.0)
    yield Box(spot.x - w / 2, spot.y - h / 2, w, h, 4, "#8b949c" if fed else "#5d666e", p.board_edge, 1.2)
    yield Text(spot.x + (4 if spot.out[0] else 0), spot.y + (0 if spot.out[0] else 4), title, 9.5, "#10151d", True,
               "middle", -90 if spot.out[0] else 0)  # fmt: skip


def _load_text(report: Report, contact: str, budgets: dict[str, Budget]) -> str:
    name = split(contact)[1]
    if name in report.points.pins:
        return show(pin_current(report.points.pins[name])[1], "A", 2)
    return ""


def _load(report: Report, contact: str, spot: PinSpot, budgets: dict[str, Budget], p: Palette) -> Iterator[Shape]:
    """How much of a pin's or rail's limit the worst case takes: the way round the pin."""
    c, name = report.circuit, split(contact)[1]
    pin = c.pin(contact)
    assert pin is not None
    if name in report.points.pins:
        limit = c.board.drivers[pin.driver].recommended_a
        share = pin_current(report.points.pins[name])[1] / limit
    elif pin.kind == "supply" and pin.rail in budgets:
        share = budgets[pin.rail].worst_a / budgets[pin.rail].limit_a
    else:
        return
    colour = p.stop if share > 1 else p.care if share > 0.75 else "#7fd0a0"
    yield Disc(spot.x, spot.y, PIN_R + 3.2, "", "#ffffff30", 3)
    yield Arc(spot.x, spot.y, PIN_R + 3.2, min(1.0, max(share, 0.02)), colour, 3)
    if share > 1:
        yield from severity(spot.x + 10, spot.y - 8, "stop", p, 6)


# --- parts --------------------------------------------------------------------------------------


def _card(report: Report, card: Card, p: Palette) -> Iterator[Shape]:
    c = report.circuit
    placed, part = c.placed[card.part], c.parts[card.part]
    yield Box(card.x, card.y, card.w, card.h, 8, p.card, p.edge, 1)
    worst = min((SEVERITIES.index(f.severity) for f in report.about(card.part)), default=None)
    room = card.w - 24 - (24 if worst is not None else 0)
    yield Text(card.x + 12, card.y + 19, shortened(placed.name, 13.5, room, True), 13.5, p.ink, True)
    yield Text(card.x + 12, card.y + 35, shortened(part.summary, 11, card.w - 24), 11, p.faint)
    if worst is not None:
        yield from severity(card.x + card.w - 19, card.y + 17, SEVERITIES[worst], p)
    left = card.side == "left"
    for spot in card.leads:
        lead = c.lead(spot.contact)
        assert lead is not None
        tied = spot.contact in c.ties_at
        inset = -11 if left else 11
        title = lead.title
        yield Text(spot.x + inset, spot.y + 4, title, 11.5, p.ink, False, "end" if left else "start")
        taken = text_width(title, 11.5) + 34
        note = shortened(_lead_note(c, spot.contact), 10.5, card.w - taken - 6)
        far = card.x + 12 if left else card.x + card.w - 12
        if len(note) > 3:
            yield Text(far, spot.y + 3.8, note, 10.5, p.faint, False, "start" if left else "end")
        yield Box(spot.x - 5.5, spot.y - 4.5, 11, 9, 3, p.card if not tied else p.edge, p.ink, 1.4)


def _lead_note(c: Circuit, lead: str) -> str:
    tie = c.plan.tie_of(lead)
    spec = c.lead(lead)
    assert spec is not None
    if tie is None:
        if lead in c.ties_at:
            return "to " + ", ".join(c.placed[split(t.lead)[0]].name for t in c.ties_at[lead])
        return "" if isinstance(spec.needs[0], Gives) else f"untied: {words(spec.needs[0])}" if spec.required else "optional"
    if tie.role:
        return f"“{tie.role}”"
    if is_stub(c, lead):
        return tag(c, tie, lead)
    return f"input, own pull-{tie.pull}" if tie.pull != "none" else words(c.need(lead))


# --- cords --------------------------------------------------------------------------------------


def _cord(cord: Cord, p: Palette) -> Iterator[Shape]:
    """The cord with its dark edge, so that white and yellow stay visible."""
    yield Curve(cord.start, cord.pieces, p.cord_edge, CORD_W + 1.6)
    yield Curve(cord.start, cord.pieces, CORDS.get(cord.colour, CORDS["grey"]), CORD_W)


def _trimmings(cord: Cord, p: Palette) -> Iterator[Shape]:
    """Ends of stubs (square supply, triangle ground), and beads."""
    if cord.stub:
        x, y = cord.pieces[0][4:]
        colour = CORDS.get(cord.colour, p.edge)
        if cord.end == "ground":
            yield triangle(x, y + 1, 7, colour, down=True)._replace(stroke=p.cord_edge)
        else:
            yield Box(x - 5.5, y - 5.5, 11, 11, 2, colour, p.cord_edge, 1)
    for x, y, text in cord.beads:
        w = text_width(text, 11, True) + 16
        yield Box(x - w / 2, y - 10, w, 20, 10, p.card, p.ink, 1.5)
        yield Text(x, y + 4, text, 11, p.ink, True, "middle")


# --- what the selection adds ---------------------------------------------------------------------


def overlay(report: Report, bench: Bench, view: LoomView, p: Palette) -> tuple[Shape, ...]:
    """The selected thing, and the pins' answers to a selected lead."""
    return (*_answers(bench, view, p), *_selected(report, bench, view, p))


def _answers(bench: Bench, view: LoomView, p: Palette) -> Iterator[Shape]:
    for contact, answer in view.answers.items():
        spot = bench.pins.get(contact)
        if spot is None:
            lead = bench.leads.get(contact)
            if lead and answer.grade <= Grade.POSSIBLE:
                yield Box(lead.x - 9, lead.y - 8, 18, 16, 5, "", p.care if answer.grade == Grade.POSSIBLE else p.good, 2.4)
            continue
        match answer.grade:
            case Grade.BEST:
                yield Disc(spot.x, spot.y, PIN_R + 3.5, "", "#ffcf5a", 3)
                yield Disc(spot.x, spot.y, PIN_R + 7.2, "", "#ffcf5a", 1.4)
            case Grade.GOOD:
                yield Disc(spot.x, spot.y, PIN_R + 3.5, "", "#8fd6ac", 2.4)
            case Grade.POSSIBLE:
                yield Disc(spot.x, spot.y, PIN_R + 3.5, "", "#f0b04a", 2, True)
            case Grade.IMPOSSIBLE:
                yield Disc(spot.x, spot.y, PIN_R + 0.6, p.board + "c8")
                yield from cross(spot.x, spot.y, 4, p.board_faint)


def _selected(report: Report, bench: Bench, view: LoomView, p: Palette) -> Iterator[Shape]:
    kind, thing = view.selection.kind, view.selection.id
    c = report.circuit
    if kind == "part" and thing in c.placed:
        card = bench.card(thing)
        yield Box(card.x - 2, card.y - 2, card.w + 4, card.h + 4, 9, "", p.active, 2.4)
        held = {t.id for t in c.plan.ties if split(t.lead)[0] == thing or split(t.to)[0] == thing}
        yield from _whole(report, bench, frozenset(held), p)
    elif kind in ("lead", "tie"):
        tie_ids = {t.id for t in c.plan.ties if (t.lead == thing if kind == "lead" else t.id == thing)}
        yield from _whole(report, bench, frozenset(tie_ids), p)
        spot = bench.leads.get(view.selection.lead)
        if spot:
            card = bench.card(split(spot.contact)[0])
            yield Box(card.x + 4, spot.y - 10.5, card.w - 8, 21, 5, p.active + "22", p.active, 1.4)
    elif kind == "pin" and thing in bench.pins:
        pin = bench.pins[thing]
        yield Disc(pin.x, pin.y, PIN_R + 4, "", "#ffffff", 2.4)
        yield Disc(pin.x, pin.y, PIN_R + 6.4, "", p.active, 2.4)
        held = {t.id for t in c.ties_at.get(thing, ())}
        yield from _whole(report, bench, frozenset(held), p)


def _whole(report: Report, bench: Bench, ties: frozenset[str], p: Palette) -> Iterator[Shape]:
    """Selected cords from end to end, standing out from the others."""
    drawn = cords(report.circuit, bench, ties)
    for cord in drawn:
        if cord.tie in ties:
            yield Curve(cord.start, cord.pieces, p.active + "66", CORD_W + 7)
            yield from _cord(cord, p)
    for cord in drawn:
        if cord.beads:
            yield from _trimmings(cord, p)

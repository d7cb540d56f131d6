"""The picture of a plan: board, cards, cords, and what the lens and the selection add."""

from collections.abc import Iterator
from functools import lru_cache
from typing import NamedTuple

from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.cords import colour_of
from knotplan.core.drawing.loom.beads import bead_shapes
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.board_place import PIN_R
from knotplan.core.drawing.loom.board_shapes import Lying, board_shapes
from knotplan.core.drawing.loom.card import card_shapes
from knotplan.core.drawing.loom.cord_tags import cord_tags
from knotplan.core.drawing.loom.cords import Cord, cords
from knotplan.core.drawing.loom.lenses import LENSES, relatives_shown
from knotplan.core.drawing.loom.view import LoomView
from knotplan.core.drawing.marks import cross, severity
from knotplan.core.drawing.palette import CORDS, Palette
from knotplan.core.drawing.shapes import Box, Curve, Disc, Picture, Shape, moved
from knotplan.core.match.fit import Grade
from knotplan.core.plan.document import split

CORD_W = 3.4
VEIL = "a8"
"""how much of a cord is hidden while another is selected"""


class Group(NamedTuple):
    """Shapes that change together, and the box that they stay within; painted once, they can be kept."""

    x: float
    y: float
    w: float
    h: float
    shapes: tuple[Shape, ...]
    keep: bool = True
    """changes seldom enough to be worth keeping"""
    at: tuple[float, float] = (0.0, 0.0)
    """where the shapes' origin lies"""
    snap: bool = False
    """may be put on whole pixels, so that one image serves wherever it lies"""


def picture(report: Report, bench: Bench, view: LoomView, p: Palette, margin: float = 24) -> Picture:
    """Everything, for a file or a sheet."""
    x, y, w, h = bench.bounds()
    below = (moved(s, *group.at) for group in groups(report, bench, view, p) for s in group.shapes)
    shapes = (*below, *overlay(report, bench, view, p))
    return Picture(x - margin, y - margin, w + 2 * margin, h + 2 * margin, p.cloth, shapes)


def groups(report: Report, bench: Bench, view: LoomView, p: Palette) -> list[Group]:
    """What stays while the pointer and the selection move, from below upwards."""
    drawn = cords(report.circuit, bench)
    box = bench.bounds()
    layers = [board_group(report.circuit, bench, p)]
    on_board = [*_held(report.circuit, bench), *LENSES[view.lens](report, bench, p)]
    layers.append(Group(*box, tuple(on_board), keep=False))
    layers += [cord_group(cord, p) for cord in drawn]
    for card in bench.cards:
        shapes = card_shapes(card.form, p)
        layers.append(Group(-9, -9, card.w + 18, card.h + 18, shapes, at=(card.x, card.y), snap=True))
    above = [*_findings(report, bench, p), *(s for cord in drawn for s in bead_shapes(cord.beads, p))]
    above += cord_tags(report, bench, view.lens, p, {cord.tie: cord.beads for cord in drawn})
    layers.append(Group(*box, tuple(above), keep=False))
    return layers


def board_group(c: Circuit, bench: Bench, p: Palette) -> Group:
    """The bare board."""
    x, y, w, h = bench.board
    lying = Lying(c.scheme, c.plan.turned, c.plan.flipped, bench.setting.pitch, True)
    shapes = board_shapes(c.board, lying, c.supplies.live_rails, c.supplies.socket, p)
    return Group(x - 24, y - 24, w + 48, h + 48, shapes)


def _held(circuit: Circuit, bench: Bench) -> Iterator[Shape]:
    """A pin with a tie wears its cord's colour."""
    for contact, ties in circuit.ties.holders.items():
        spot = bench.pins.get(contact)
        if spot is None:
            continue  # a hub's lead: its card shows the cord
        yield Disc(
            spot.x, spot.y, PIN_R - 2.6, "", CORDS.get(colour_of(circuit, ties[0]), CORDS["grey"]), 3.6
        )


# --- cords --------------------------------------------------------------------------------------


def _cord(cord: Cord, p: Palette) -> tuple[Shape, Shape]:
    """The cord with its dark edge, so that white and yellow stay visible."""
    return (
        Curve(cord.start, cord.pieces, p.cord_edge, CORD_W + 1.6),
        Curve(cord.start, cord.pieces, CORDS.get(cord.colour, CORDS["grey"]), CORD_W),
    )


@lru_cache(4096)
def cord_group(cord: Cord, p: Palette) -> Group:
    """A cord and the box that holds it: a curve stays within its control points."""
    xs = [cord.start[0], *(x for piece in cord.pieces for x in piece[::2])]
    ys = [cord.start[1], *(y for piece in cord.pieces for y in piece[1::2])]
    x, y = min(xs) - CORD_W, min(ys) - CORD_W
    return Group(x, y, max(xs) + CORD_W - x, max(ys) + CORD_W - y, _cord(cord, p))


def _findings(report: Report, bench: Bench, p: Palette) -> Iterator[Shape]:
    """The gravest finding about each part, on its card."""
    worst = report.worst_by_part()
    for card in bench.cards:
        if card.part in worst:
            yield from severity(card.x + card.w - 12, card.y + card.form.head + 12.5, worst[card.part], p, 8)


# --- what the selection adds ---------------------------------------------------------------------


def overlay(report: Report, bench: Bench, view: LoomView, p: Palette) -> tuple[Shape, ...]:
    """The selected thing, and the pins' answers to a selected lead."""
    chosen = view.selection.id if view.lens == "sharing" and view.selection.kind == "pin" else ""
    kin = relatives_shown(report.circuit, bench, chosen, p) if chosen else ()
    return (*_answers(bench, view, p), *kin, *_selected(report, bench, view, p))


def _answers(bench: Bench, view: LoomView, p: Palette) -> Iterator[Shape]:
    for contact, answer in view.answers.items():
        spot = bench.pins.get(contact)
        if spot and answer.grade == Grade.IMPOSSIBLE and spot.socket:
            continue  # no cross on its name
        if spot is None:
            lead = bench.leads.get(contact)
            if lead and answer.grade <= Grade.POSSIBLE:
                ink = p.care if answer.grade == Grade.POSSIBLE else p.good
                yield Disc(lead.x, lead.y, 8.5, "", ink, 2.4)
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
    parts = [part for part in view.selection.parts if part in c.placed]
    if parts:
        for card in dict.fromkeys(bench.card(part) for part in parts):
            yield Box(card.x - 2, card.y - 2, card.w + 4, card.h + 4, 9, "", p.active, 2.4)
        held = {t.id for t in c.plan.ties if split(t.lead)[0] in parts or split(t.to)[0] in parts}
        yield from _whole(report, bench, frozenset(held), p)
    elif kind in ("lead", "tie"):
        tie_ids = {t.id for t in c.plan.ties if (t.lead == thing if kind == "lead" else t.id == thing)}
        yield from _whole(report, bench, frozenset(tie_ids), p)
        spot = bench.leads.get(view.selection.lead)
        if spot:
            x, y, w, h = spot.box
            yield Box(x + 2, y + 0.5, w - 4, h - 1, 5, p.active + "22", p.active, 1.4)
    elif kind == "pin" and thing in bench.pins:
        pin = bench.pins[thing]
        yield Disc(pin.x, pin.y, PIN_R + 4, "", "#ffffff", 2.4)
        yield Disc(pin.x, pin.y, PIN_R + 6.4, "", p.active, 2.4)
        held = {t.id for t in c.ties.at.get(thing, ())}
        yield from _whole(report, bench, frozenset(held), p)


def _whole(report: Report, bench: Bench, ties: frozenset[str], p: Palette) -> Iterator[Shape]:
    """Selected cords from end to end, brought to the front; all others step back."""
    drawn = cords(report.circuit, bench, ties)
    chosen = [cord for cord in drawn if cord.tie in ties]
    if chosen:
        for cord in drawn:
            if cord.tie not in ties:
                yield from _veil(cord, bench, p)
    for cord in chosen:
        yield Curve(cord.start, cord.pieces, p.active + "66", CORD_W + 7)
        yield from _cord(cord, p)
    for cord in drawn:
        yield from bead_shapes(cord.beads, p)


def _veil(cord: Cord, bench: Bench, p: Palette) -> Iterator[Shape]:
    """What makes a cord pale: the ground, or the board, drawn thinly over it."""
    x, y, w, h = bench.board
    start = cord.start
    for piece in cord.pieces:
        end = piece[4:]
        on_board = all(x <= px <= x + w and y <= py <= y + h for px, py in (start, end))
        yield Curve(start, (piece,), (p.board if on_board else p.cloth) + VEIL, CORD_W + 2.4)
        start = end

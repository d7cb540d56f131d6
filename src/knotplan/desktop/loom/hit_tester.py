"""What lies under the pointer, in the coordinates of the bench."""

from itertools import pairwise

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.beads import HIGH, wide
from knotplan.core.drawing.loom.bench import Bench, LeadSpot
from knotplan.core.drawing.loom.cords import cords, points
from knotplan.core.drawing.loom.view import Kind

REACH = 13.0
"""how near to a pin's centre counts as on it"""
CORD_REACH = 7.0
EDGE = 9.0
"""how far beyond its card a lead can be taken"""


class Hit(Struct, frozen=True):
    """One thing under the pointer, or nothing."""

    kind: Kind = ""
    id: str = ""


class Hits:
    """The places of one bench."""

    def __init__(self, circuit: Circuit, bench: Bench):
        self.bench = bench
        self.cords = [(c, points(c.start, c.pieces, 12)) for c in cords(circuit, bench)]

    def at(self, x: float, y: float) -> Hit:
        """The uppermost thing at a place."""
        contact = self.contact_at(x, y)
        if contact:
            return Hit("lead" if contact in self.bench.leads else "pin", contact)
        for card in self.bench.cards:
            if card.x <= x <= card.x + card.w and card.y <= y <= card.y + card.h:
                return Hit("part", card.part)
        for cord, along in reversed(self.cords):
            if any(abs(bx - x) < wide(t) / 2 and abs(by - y) < HIGH / 2 for bx, by, t in cord.beads):
                return Hit("tie", cord.tie)
            if any(_near(x, y, *a, *b) < CORD_REACH for a, b in pairwise(along)):
                return Hit("tie", cord.tie)
        return Hit()

    def contact_at(self, x: float, y: float) -> str:
        """The pin or lead at a place; a lead's whole row on its card counts."""
        pins = [((s.x - x) ** 2 + (s.y - y) ** 2, c) for c, s in self.bench.pins.items()]
        if pins:
            near, contact = min(pins)
            if near <= REACH**2:
                return contact
        for card in self.bench.cards:
            if not (
                card.x - EDGE <= x <= card.x + card.w + EDGE and card.y - EDGE <= y <= card.y + card.h + EDGE
            ):
                continue
            on = [spot for spot in card.leads if _on(spot, x, y)]
            if on:
                return min(on, key=lambda spot: (spot.x - x) ** 2 + (spot.y - y) ** 2).contact
        return ""


def _on(spot: LeadSpot, x: float, y: float) -> bool:
    """On what belongs to a lead on its card, or on the place where its cord leaves."""
    left, top, w, h = spot.box
    inside = left <= x <= left + w and top <= y <= top + h
    return inside or (spot.x - x) ** 2 + (spot.y - y) ** 2 <= EDGE**2


def _near(x: float, y: float, ax: float, ay: float, bx: float, by: float) -> float:
    """Distance from a point to a piece of line."""
    dx, dy = bx - ax, by - ay
    length = dx * dx + dy * dy
    t = max(0.0, min(1.0, ((x - ax) * dx + (y - ay) * dy) / length)) if length else 0.0
    return float(((ax + t * dx - x) ** 2 + (ay + t * dy - y) ** 2) ** 0.5)

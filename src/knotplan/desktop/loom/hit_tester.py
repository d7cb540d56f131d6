"""What lies under the pointer, in the coordinates of the bench."""

from itertools import pairwise

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import LEAD_H, Bench
from knotplan.core.drawing.loom.cords import Cord, cords
from knotplan.core.drawing.loom.view import Kind

REACH = 13.0
"""how near to a pin's centre counts as on it"""
CORD_REACH = 7.0


class Hit(Struct, frozen=True):
    """One thing under the pointer, or nothing."""

    kind: Kind = ""
    id: str = ""


class Hits:
    """The places of one bench."""

    def __init__(self, circuit: Circuit, bench: Bench):
        self.bench = bench
        self.cords = [(c, _points(c)) for c in cords(circuit, bench) if not c.stub]

    def at(self, x: float, y: float) -> Hit:
        """The uppermost thing at a place."""
        contact = self.contact_at(x, y)
        if contact:
            return Hit("lead" if contact in self.bench.leads else "pin", contact)
        for card in self.bench.cards:
            if card.x <= x <= card.x + card.w and card.y <= y <= card.y + card.h:
                return Hit("part", card.part)
        for cord, points in reversed(self.cords):
            if any((bx - x) ** 2 / 900 + (by - y) ** 2 / 121 < 1 for bx, by, _ in cord.beads):
                return Hit("tie", cord.tie)
            if any(_near(x, y, *a, *b) < CORD_REACH for a, b in pairwise(points)):
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
            if not (card.x - 10 <= x <= card.x + card.w + 10):
                continue
            for spot in card.leads:
                if abs(spot.y - y) < LEAD_H / 2:
                    return spot.contact
        return ""


def _points(cord: Cord) -> list[tuple[float, float]]:
    """A cord as a polyline fine enough to point at."""
    points, (x0, y0) = [cord.start], cord.start
    for x1, y1, x2, y2, x3, y3 in cord.pieces:
        for k in range(1, 13):
            t, u = k / 12, 1 - k / 12
            points.append(
                (
                    u**3 * x0 + 3 * u * u * t * x1 + 3 * u * t * t * x2 + t**3 * x3,
                    u**3 * y0 + 3 * u * u * t * y1 + 3 * u * t * t * y2 + t**3 * y3,
                )
            )
        x0, y0 = x3, y3
    return points


def _near(x: float, y: float, ax: float, ay: float, bx: float, by: float) -> float:
    """Distance from a point to a piece of line."""
    dx, dy = bx - ax, by - ay
    length = dx * dx + dy * dy
    t = max(0.0, min(1.0, ((x - ax) * dx + (y - ay) * dy) / length)) if length else 0.0
    return float(((ax + t * dx - x) ** 2 + (ay + t * dy - y) ** 2) ** 0.5)

"""Which contact lies next to another one in a direction: what the arrow keys go to."""

from collections.abc import Iterable

from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.form import Side, lies_beside
from knotplan.core.plan.document import split

Direction = tuple[int, int]
"""(1, 0) right, (0, 1) down"""
ASIDE = 2.5
"""how much farther a step aside counts than one straight on"""


def places(bench: Bench) -> dict[str, tuple[float, float]]:
    """Where each contact is: leads where their cords begin, pins and sockets of the board."""
    spots = {contact: (s.x, s.y) for contact, s in bench.leads.items()}
    return spots | {contact: (s.x, s.y) for contact, s in bench.pins.items()}


def neighbour(bench: Bench, contact: str, towards: Direction) -> str:
    """The nearest contact in a direction, straight on before aside; "" where nothing lies there.

    Within 45 degrees of the direction comes first; what lies farther aside only where there is nothing else.
    """
    spots = places(bench)
    x, y = spots.pop(contact)
    return nearest(((other, ox - x, oy - y) for other, (ox, oy) in spots.items()), towards)


def step(bench: Bench, contact: str, towards: Direction) -> str:
    """Where an arrow key goes: along the cards of a side from lead to lead as they are read, else to the
    neighbour."""
    lead = bench.leads.get(contact)
    if lead is not None:
        side = bench.card(split(contact)[0]).side
        by = towards[1] if lies_beside(side) else towards[0]
        order = _in_reading_order(bench, side)
        at = order.index(contact) + by
        if by and 0 <= at < len(order):
            return order[at]
    return neighbour(bench, contact, towards)


def _in_reading_order(bench: Bench, side: Side) -> list[str]:
    """The leads of a side, card after card along the board."""
    cards = [card for card in bench.cards if card.side == side]
    cards.sort(key=lambda c: (c.y, c.x) if lies_beside(side) else (c.x, c.y))
    return [spot.contact for card in cards for spot in card.leads]


def nearest(others: Iterable[tuple[str, float, float]], towards: Direction) -> str:
    """The nearest of several things, each with its distance to the right and down."""
    best, least = "", (2, 0.0)
    for other, dx, dy in others:
        on = dx * towards[0] + dy * towards[1]
        aside = abs(dx * towards[1]) + abs(dy * towards[0])
        if on <= 0.5:
            continue
        cost = (0 if aside <= on else 1, on + ASIDE * aside)
        if cost < least or not best:
            best, least = other, cost
    return best

"""Edits of the board: how it lies, how its pins are called, what is switched on."""

from typing import Literal

from msgspec.structs import replace

from knotplan.catalog.board.board import Board
from knotplan.core.plan.document import BOARD, BusClock, Plan, split
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.edits.parts import without_rails


def set_clock(plan: Plan, unit: str, hz: float) -> Plan:
    """The clock of a bus; 0 for its usual one."""
    others = tuple(c for c in plan.clocks if c.unit != unit)
    try:
        return replace(plan, clocks=(*others, BusClock(unit, hz)) if hz else others)
    except ValueError as error:
        raise EditError(f"{str(error)[0].upper()}{str(error)[1:]}.") from None


def turn(plan: Plan, by: Literal[90, 180, 270] = 90) -> Plan:
    """The board turned clockwise, by degrees."""
    return replace(plan, turned=(plan.turned + by) % 360)


def flip(plan: Plan) -> Plan:
    """The board seen from its other side."""
    return replace(plan, flipped=not plan.flipped)


def speak(plan: Plan, scheme: str) -> Plan:
    """Every pin called by another scheme."""
    return replace(plan, scheme=scheme)


def carry(plan: Plan, board: Board) -> Plan:
    """Another state of the maker's own board, where the plan is on it; what leads to
    contacts that are gone goes with them."""
    if plan.board != board.id:
        return plan

    def there(contact: str) -> bool:
        owner, name = split(contact)
        return owner != BOARD or name in board.pins or name in board.sockets

    ties = tuple(without_rails(t, there) for t in plan.ties if there(t.lead) and there(t.to))
    return replace(plan, carried=board, ties=ties, scheme=plan.scheme if plan.scheme in board.schemes else "")


def set_up(plan: Plan, setting: str) -> Plan:
    """A setting of the board's system changed from what it is at first, or left as it is after all."""
    kept = tuple(s for s in plan.set_up if s != setting)
    return replace(plan, set_up=kept if setting in plan.set_up else (*kept, setting))

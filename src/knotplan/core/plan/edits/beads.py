"""Edits of the small components in a tie."""

from typing import Literal

from knotplan.core.plan.beads import Bead
from knotplan.core.plan.document import Plan
from knotplan.core.plan.edits.changed import tie_changed


def add_bead(plan: Plan, tie_id: str, bead: Bead) -> Plan:
    """A bead put into a tie, after those that are there. Raises KeyError."""
    return tie_changed(plan, tie_id, beads=(*plan.tie(tie_id).beads, bead))


def put_bead(plan: Plan, tie_id: str, bead: Bead, end: Literal["lead", "pin"]) -> Plan:
    """A bead at one end of the tie: before all others, or behind them."""
    beads = plan.tie(tie_id).beads
    return tie_changed(plan, tie_id, beads=(bead, *beads) if end == "lead" else (*beads, bead))


def change_bead(plan: Plan, tie_id: str, at: int, bead: Bead) -> Plan:
    """A bead in the place of another one. Raises KeyError or IndexError."""
    beads = list(plan.tie(tie_id).beads)
    beads[at] = bead
    return tie_changed(plan, tie_id, beads=tuple(beads))


def remove_bead(plan: Plan, tie_id: str, at: int) -> Plan:
    """A bead taken out of a tie. Raises KeyError or IndexError."""
    beads = plan.tie(tie_id).beads
    return tie_changed(plan, tie_id, beads=beads[:at] + beads[at + 1 :])

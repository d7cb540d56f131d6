"""Edits of ties and their cords."""

import re
from typing import Literal

from msgspec.structs import replace

from knotplan.core.plan.document import Plan, Pull, Tie
from knotplan.core.plan.edits.changed import EditError, tie_changed


def tie(plan: Plan, lead: str, to: str, *, extra: bool = False) -> Plan:
    """The lead tied to a contact. A tie that it has moves, with its beads, role and colour;
    `extra` keeps that one and adds another."""
    if lead == to:
        raise EditError("A lead cannot be tied to itself.")
    old = plan.tie_of(lead)
    if old and not extra and old.to == to:
        return plan
    if any({t.lead, t.to} == {lead, to} for t in plan.ties):
        raise EditError("These two are tied already.")
    if old and not extra:
        return tie_changed(plan, old.id, to=to)
    return replace(plan, ties=(*plan.ties, Tie(tie_id(plan, lead), lead, to)))


def tie_id(plan: Plan, lead: str) -> str:
    """An id for another tie of a lead."""
    taken = {t.id for t in plan.ties}
    number, text = 1, lead
    while text in taken:
        number += 1
        text = f"{lead}~{number}"
    return text


def turn_round(plan: Plan, one: str, other: str) -> Plan:
    """Two leads of a part in each other's places, in every tie that leads from them or to them."""
    places = {one: other, other: one}
    ties = tuple(
        replace(t, lead=places.get(t.lead, t.lead), to=places.get(t.to, t.to))
        if {t.lead, t.to} & places.keys()
        else t
        for t in plan.ties
    )
    return replace(plan, ties=ties)


def untie(plan: Plan, tie_id: str) -> Plan:
    """A tie taken away, with its beads."""
    return replace(plan, ties=tuple(t for t in plan.ties if t.id != tie_id))


def set_role(plan: Plan, tie_id: str, role: str) -> Plan:
    """What the program calls the tie: letters, digits and underscores, unique in the plan."""
    role = re.sub(r"\W+", "_", role.strip()).strip("_")
    if role and role[0].isdigit():
        raise EditError(f"A program cannot use a name that begins with a digit: {role!r}.")
    if role and any(t.role.lower() == role.lower() and t.id != tie_id for t in plan.ties):
        raise EditError(f"The role {role!r} is taken by another tie.")
    return tie_changed(plan, tie_id, role=role)


def recolour(plan: Plan, tie_id: str, cord: str) -> Plan:
    """Another colour for a tie's cord."""
    return tie_changed(plan, tie_id, cord=cord)


def set_pull(plan: Plan, tie_id: str, pull: Pull) -> Plan:
    """The pull of the pin that the program is to switch on."""
    return tie_changed(plan, tie_id, pull=pull)


def set_cord(plan: Plan, tie_id: str, length_m: float | None = None, mm2: float | None = None) -> Plan:
    """Length and copper of a cord; 0 for the usual ones."""
    now = plan.tie(tie_id)
    try:
        return tie_changed(
            plan,
            tie_id,
            length_m=now.length_m if length_m is None else length_m,
            mm2=now.mm2 if mm2 is None else mm2,
        )
    except ValueError as error:
        raise EditError(f"{error}.") from None


def lay_cord(plan: Plan, tie_id: str, lay: Literal["", "ribbon", "twisted", "shielded"]) -> Plan:
    """How a cord lies beside the others of its part."""
    return tie_changed(plan, tie_id, lay=lay)


def set_hertz(plan: Plan, tie_id: str, hertz: float) -> Plan:
    """The frequency of a tie's pulses; 0 for the part's own."""
    try:
        return tie_changed(plan, tie_id, hertz=hertz)
    except ValueError as error:
        raise EditError(f"{str(error)[0].upper()}{str(error)[1:]}.") from None


def fix_tie(plan: Plan, tie_id: str, fixed: bool) -> Plan:
    """Whether suggestions leave a tie where it is."""
    return tie_changed(plan, tie_id, fixed=fixed)

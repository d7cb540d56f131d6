"""Edits of several parts at once: copied, put in, taken away, moved, changed alike."""

from collections.abc import Callable, Collection, Iterable, Sequence
from typing import Concatenate, Literal, ParamSpec

from msgspec.structs import replace

from knotplan.core.plan.document import BOARD, PlacedPart, Plan, Tie, split
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.plan.edits.parts import add_part, carry_part, without_rails
from knotplan.core.plan.edits.ties import tie_id
from knotplan.core.plan.rails import rails_moved


def excerpt(plan: Plan, parts: Collection[str]) -> Plan:
    """A plan of these parts alone, with the ties among them; those to the board and to other parts stay."""
    kinds = {p.part for p in plan.parts if p.id in parts}

    def inside(contact: str) -> bool:
        return split(contact)[0] in parts

    ties = [t for t in plan.ties if inside(t.lead) and inside(t.to)]
    return Plan(
        plan.board,
        plan.title,
        carried=plan.carried,
        carried_parts=tuple(c for c in plan.carried_parts if c.id in kinds),
        parts=tuple(replace(p, side="", place=-1) for p in plan.parts if p.id in parts),
        ties=tuple(without_rails(t, lambda rail: inside(rail) or split(rail)[0] == BOARD) for t in ties),
    )


def put_in(plan: Plan, other: Plan) -> Plan:
    """The parts of another plan added to this one with the ties among them, under ids and names of their own.

    A bead that leads to a rail of the board comes along where it is the same board. Raises EditError where
    both plans carry a part of the same id whose files differ.
    """
    lent = {c.id: c for c in plan.carried_parts}
    for carried in other.carried_parts:
        if carried.id in lent and lent[carried.id].lines != carried.lines:
            raise EditError(f"This plan has another part file called {carried.id!r}.")
        plan = carry_part(plan, carried)
    ids: dict[str, str] = {}
    for part in other.parts:
        plan = add_part(plan, part.part, part.name, part.params)
        added = plan.parts[-1]
        ids[part.id] = added.id
        same = replace(part, id=added.id, name=added.name, side="", place=-1)
        plan = replace(plan, parts=(*plan.parts[:-1], same))
    roles = {t.role.lower() for t in plan.ties if t.role}
    for t in other.ties:
        plan = _with_tie(plan, t, ids, other.board == plan.board, roles)
    return plan


def _with_tie(plan: Plan, t: Tie, ids: dict[str, str], same_board: bool, roles: set[str]) -> Plan:
    """A tie among parts that have other ids now; a role that is taken is left behind."""

    def now(contact: str) -> str:
        owner, name = split(contact)
        return f"{ids[owner]}.{name}" if owner in ids else contact

    def there(rail: str) -> bool:
        owner = split(rail)[0]
        return owner in ids or (owner == BOARD and same_board)

    if split(t.lead)[0] not in ids or split(t.to)[0] not in ids:
        return plan
    kept = without_rails(t, there)
    lead = now(t.lead)
    moved = replace(
        kept,
        id=tie_id(plan, lead),
        lead=lead,
        to=now(t.to),
        role="" if t.role.lower() in roles else t.role,
        beads=tuple(rails_moved(b, now) for b in kept.beads),
    )
    return replace(plan, ties=(*plan.ties, moved))


P = ParamSpec("P")


def of_all(
    plan: Plan,
    parts: Iterable[str],
    edit: Callable[Concatenate[Plan, str, P], Plan],
    /,
    *arguments: P.args,
    **named: P.kwargs,
) -> Plan:
    """An edit of one part, made with each of several."""
    for part in parts:
        plan = edit(plan, part, *arguments, **named)
    return plan


def put_at(plan: Plan, parts: Sequence[str], side: Literal["left", "right"], place: int) -> Plan:
    """Parts one after another on a side of the board, the first of them at a place counted from its upper or
    left end."""
    where = {part: place + k for k, part in enumerate(parts)}
    return _changed(plan, {p: (side, min(at, MOST_PLACES)) for p, at in where.items()})


def let_go(plan: Plan, parts: Sequence[str]) -> Plan:
    """Parts back to where the program places them."""
    return _changed(plan, dict.fromkeys(parts, ("", -1)))


MOST_PLACES = 9999


def _changed(plan: Plan, where: dict[str, tuple[Literal["", "left", "right"], int]]) -> Plan:
    def placed(part: PlacedPart) -> PlacedPart:
        return replace(part, side=where[part.id][0], place=where[part.id][1]) if part.id in where else part

    return replace(plan, parts=tuple(placed(p) for p in plan.parts))

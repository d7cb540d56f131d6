"""Edits of parts."""

from collections.abc import Callable
from typing import Literal

from msgspec.structs import replace

from knotplan.core.plan.beads import rails_of
from knotplan.core.plan.document import CarriedPart, PlacedPart, Plan, Tie, split
from knotplan.core.plan.edits.changed import EditError, part_changed
from knotplan.core.plan.ids import slug
from knotplan.core.plan.rails import rails_moved


def add_part(plan: Plan, part: str, name: str, params: dict[str, str | float] | None = None) -> Plan:
    """A new part with no ties. Its id comes from its name and stays when the name changes."""
    part_id = slug(name, {p.id for p in plan.parts})
    number, title, names = 1, name, {p.name for p in plan.parts}
    while title in names:
        number += 1
        title = f"{name} {number}"
    return replace(plan, parts=(*plan.parts, PlacedPart(part_id, part, title, params or {})))


def remove_part(plan: Plan, part_id: str) -> Plan:
    """Without a part, the ties that end on it, the beads that lead to it, and what was accepted about it."""
    plan.part(part_id)

    def on_it(contact: str) -> bool:
        return split(contact)[0] == part_id

    gone = {t.id for t in plan.ties if on_it(t.lead) or on_it(t.to)}
    used = {p.part for p in plan.parts if p.id != part_id}
    return replace(
        plan,
        carried_parts=tuple(c for c in plan.carried_parts if c.id in used),
        parts=tuple(p for p in plan.parts if p.id != part_id),
        ties=tuple(without_rails(t, lambda rail: not on_it(rail)) for t in plan.ties if t.id not in gone),
        activities=tuple(
            replace(a, parts=tuple(p for p in a.parts if p != part_id)) for a in plan.activities
        ),
        accepted=tuple(a for a in plan.accepted if not any(on_it(s) or s == part_id for s in a.subjects)),
    )


def without_rails(tie: Tie, there: Callable[[str], bool]) -> Tie:
    """The tie without beads that lead to a rail which is not there."""
    kept = tuple(b for b in tie.beads if all(not rail or there(rail) for _, rail in rails_of(b)))
    return tie if len(kept) == len(tie.beads) else replace(tie, beads=kept)


def rename_part(plan: Plan, part_id: str, name: str) -> Plan:
    """Another name for a part. Raises EditError where it is empty or taken."""
    if not name.strip():
        raise EditError("A part needs a name.")
    if any(p.name == name.strip() and p.id != part_id for p in plan.parts):
        raise EditError(f"There is a part called {name.strip()!r} already.")
    return part_changed(plan, part_id, name=name.strip())


def set_param(plan: Plan, part_id: str, param: str, value: str | float) -> Plan:
    """Another choice of one of a part's parameters."""
    return part_changed(plan, part_id, params={**plan.part(part_id).params, param: value})


def nudge(plan: Plan, part_id: str, side: Literal["", "left", "right"]) -> Plan:
    """The part to one side of the board, or back to where the program places it."""
    return part_changed(plan, part_id, side=side, place=-1)


def move_part(plan: Plan, part_id: str, by: int) -> Plan:
    """The part `by` places later in the list, which is the order of equals on the bench."""
    plan.part(part_id)
    parts = list(plan.parts)
    at = next(i for i, p in enumerate(parts) if p.id == part_id)
    parts.insert(max(0, min(len(parts) - 1, at + by)), parts.pop(at))
    return replace(plan, parts=tuple(parts))


def set_program_setting(plan: Plan, part_id: str, what: str, value: str | float | None) -> Plan:
    """What the program has a part do; nothing for what it usually does."""
    settings = {k: v for k, v in plan.part(part_id).settings.items() if k != what}
    return part_changed(plan, part_id, settings=settings if value is None else {**settings, what: value})


def set_params(plan: Plan, part_id: str, values: dict[str, str | float]) -> Plan:
    """Several of a part's choices at once: the straps of an address."""
    return part_changed(plan, part_id, params={**plan.part(part_id).params, **values})


def show_leads(plan: Plan, part_id: str, shows: Literal["", "all", "folded"]) -> Plan:
    """How much of a part's card is seen."""
    return part_changed(plan, part_id, shows=shows)


def exchange_part(
    plan: Plan, part_id: str, part: str, params: dict[str, str | float], leads: dict[str, str]
) -> Plan:
    """Another kind of part in the same place; `leads` says which old lead becomes
    which new one, ties of the others go."""

    def now(contact: str) -> str | None:
        owner, name = split(contact)
        if owner != part_id:
            return contact
        if name in leads:
            return f"{part_id}.{leads[name]}"
        return None

    ties = []
    for t in plan.ties:
        lead, to = now(t.lead), now(t.to)
        if lead and to:
            kept = without_rails(t, lambda rail: now(rail) is not None)
            beads = tuple(rails_moved(b, lambda rail: now(rail) or "") for b in kept.beads)
            ties.append(replace(t, lead=lead, to=to, beads=beads))
    return replace(part_changed(plan, part_id, part=part, params=params), ties=tuple(ties))


def carry_part(plan: Plan, carried: CarriedPart) -> Plan:
    """A part of the maker's own goes with the plan, in the state in which its file is now."""
    others = tuple(c for c in plan.carried_parts if c.id != carried.id)
    return replace(plan, carried_parts=(*others, carried))

"""Edits: each is a function from a plan to a plan. Undo is the list of plans."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from msgspec.structs import replace

from knotplan.catalog.boards import Board
from knotplan.core.plan.beads import Bead, rails_of
from knotplan.core.plan.document import BOARD, Accepted, Activity, BusClock, CarriedPart, PlacedPart, Plan, Pull, Tie, split


class EditError(ValueError):
    """The edit cannot be made; the message says why."""


LONGEST_ID = 60
"""letters of an id, so that a file can be called so"""


def slug(name: str, taken: set[str]) -> str:
    """A short id from a name, safe in files, URLs and programs, and not yet taken.

    >>> slug("Fog horn!", {"fog-horn"})
    'fog-horn-2'
    """
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:LONGEST_ID].strip("-") or "part"
    if base == "board" or base[0].isdigit():
        base = f"part-{base}"
    number, made = 1, base
    while made in taken:
        number += 1
        made = f"{base}-{number}"
    return made


def _part_changed(plan: Plan, part_id: str, **changes: Any) -> Plan:
    plan.part(part_id)
    return replace(plan, parts=tuple(replace(p, **changes) if p.id == part_id else p for p in plan.parts))


def _tie_changed(plan: Plan, tie_id: str, **changes: Any) -> Plan:
    plan.tie(tie_id)
    return replace(plan, ties=tuple(replace(t, **changes) if t.id == tie_id else t for t in plan.ties))


def retitle(plan: Plan, title: str) -> Plan:
    return replace(plan, title=title.strip() or "Untitled")


def add_part(plan: Plan, part: str, name: str, params: dict[str, str | float] | None = None) -> Plan:
    """A new part with no ties. Its id comes from its name and stays when the name changes."""
    made = slug(name, {p.id for p in plan.parts})
    number, title, names = 1, name, {p.name for p in plan.parts}
    while title in names:
        number += 1
        title = f"{name} {number}"
    return replace(plan, parts=(*plan.parts, PlacedPart(made, part, title, params or {})))


def remove_part(plan: Plan, part_id: str) -> Plan:
    """Without a part, the ties that end on it, the beads that lead to it, and what was accepted about it."""
    plan.part(part_id)

    def on_it(contact: str) -> bool:
        return split(contact)[0] == part_id

    gone = {t.id for t in plan.ties if on_it(t.lead) or on_it(t.to)}
    used = {p.part for p in plan.parts if p.id != part_id}
    return replace(
        plan, carried_parts=tuple(c for c in plan.carried_parts if c.id in used),
        parts=tuple(p for p in plan.parts if p.id != part_id),
        ties=tuple(_without_rails(t, lambda rail: not on_it(rail)) for t in plan.ties if t.id not in gone),
        activities=tuple(replace(a, parts=tuple(p for p in a.parts if p != part_id)) for a in plan.activities),
        accepted=tuple(a for a in plan.accepted if not any(on_it(s) or s == part_id for s in a.subjects)),
    )


def _without_rails(tie: Tie, there: Callable[[str], bool]) -> Tie:
    """The tie without beads that lead to a rail which is not there."""
    kept = tuple(b for b in tie.beads if all(not rail or there(rail) for _, rail in rails_of(b)))
    return tie if len(kept) == len(tie.beads) else replace(tie, beads=kept)


def rename_part(plan: Plan, part_id: str, name: str) -> Plan:
    if not name.strip():
        raise EditError("A part needs a name.")
    if any(p.name == name.strip() and p.id != part_id for p in plan.parts):
        raise EditError(f"There is a part called {name.strip()!r} already.")
    return _part_changed(plan, part_id, name=name.strip())


def set_param(plan: Plan, part_id: str, param: str, value: str | float) -> Plan:
    return _part_changed(plan, part_id, params={**plan.part(part_id).params, param: value})


def nudge(plan: Plan, part_id: str, side: Literal["", "left", "right"]) -> Plan:
    """The part to one side of the board, or back to where the program places it."""
    return _part_changed(plan, part_id, side=side)


def move_part(plan: Plan, part_id: str, by: int) -> Plan:
    """The part `by` places later in the list, which is the order of equals on the bench."""
    plan.part(part_id)
    parts = list(plan.parts)
    at = next(i for i, p in enumerate(parts) if p.id == part_id)
    parts.insert(max(0, min(len(parts) - 1, at + by)), parts.pop(at))
    return replace(plan, parts=tuple(parts))


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
        return _tie_changed(plan, old.id, to=to)
    taken = {t.id for t in plan.ties}
    number, made = 1, lead
    while made in taken:
        number += 1
        made = f"{lead}~{number}"
    return replace(plan, ties=(*plan.ties, Tie(made, lead, to)))


def untie(plan: Plan, tie_id: str) -> Plan:
    return replace(plan, ties=tuple(t for t in plan.ties if t.id != tie_id))


def set_role(plan: Plan, tie_id: str, role: str) -> Plan:
    """What the program calls the tie: letters, digits and underscores, unique in the plan."""
    role = re.sub(r"\W+", "_", role.strip()).strip("_")
    if role and role[0].isdigit():
        raise EditError(f"A program cannot use a name that begins with a digit: {role!r}.")
    if role and any(t.role.lower() == role.lower() and t.id != tie_id for t in plan.ties):
        raise EditError(f"The role {role!r} is taken by another tie.")
    return _tie_changed(plan, tie_id, role=role)


def recolour(plan: Plan, tie_id: str, cord: str) -> Plan:
    return _tie_changed(plan, tie_id, cord=cord)


def set_pull(plan: Plan, tie_id: str, pull: Pull) -> Plan:
    """The pull of the pin that the program is to switch on."""
    return _tie_changed(plan, tie_id, pull=pull)


def set_cord(plan: Plan, tie_id: str, length_m: float | None = None, mm2: float | None = None) -> Plan:
    """Length and copper of a cord; 0 for the usual ones."""
    now = plan.tie(tie_id)
    try:
        return _tie_changed(plan, tie_id, length_m=now.length_m if length_m is None else length_m,
                            mm2=now.mm2 if mm2 is None else mm2)  # fmt: skip
    except ValueError as error:
        raise EditError(f"{error}.") from None


def lay_cord(plan: Plan, tie_id: str, lay: Literal["", "ribbon", "twisted", "shielded"]) -> Plan:
    """How a cord lies beside the others of its part."""
    return _tie_changed(plan, tie_id, lay=lay)


def set_hertz(plan: Plan, tie_id: str, hertz: float) -> Plan:
    """The frequency of a tie's pulses; 0 for the part's own."""
    try:
        return _tie_changed(plan, tie_id, hertz=hertz)
    except ValueError as error:
        raise EditError(f"{str(error)[0].upper()}{str(error)[1:]}.") from None


def set_clock(plan: Plan, unit: str, hz: float) -> Plan:
    """The clock of a bus; 0 for its usual one."""
    others = tuple(c for c in plan.clocks if c.unit != unit)
    try:
        return replace(plan, clocks=(*others, BusClock(unit, hz)) if hz else others)
    except ValueError as error:
        raise EditError(f"{str(error)[0].upper()}{str(error)[1:]}.") from None


def ask(plan: Plan, part_id: str, what: str, value: str | float | None) -> Plan:
    """What the program has a part do; nothing for what it usually does."""
    asks = {k: v for k, v in plan.part(part_id).asks.items() if k != what}
    return _part_changed(plan, part_id, asks=asks if value is None else {**asks, what: value})


def set_params(plan: Plan, part_id: str, values: dict[str, str | float]) -> Plan:
    """Several of a part's choices at once: the straps of an address."""
    return _part_changed(plan, part_id, params={**plan.part(part_id).params, **values})


def fix_tie(plan: Plan, tie_id: str, fixed: bool) -> Plan:
    """Whether suggestions leave a tie where it is."""
    return _tie_changed(plan, tie_id, fixed=fixed)


def show_leads(plan: Plan, part_id: str, shows: Literal["", "all", "folded"]) -> Plan:
    """How much of a part's card is seen."""
    return _part_changed(plan, part_id, shows=shows)


def exchange_part(plan: Plan, part_id: str, part: str, params: dict[str, str | float], leads: dict[str, str]) -> Plan:
    """Another kind of part in the same place; `leads` says which old lead becomes which new one, ties of the others go."""

    def now(contact: str) -> str | None:
        owner, name = split(contact)
        return contact if owner != part_id else f"{part_id}.{leads[name]}" if name in leads else None

    ties = []
    for t in plan.ties:
        lead, to = now(t.lead), now(t.to)
        if lead and to:
            kept = _without_rails(t, lambda rail: now(rail) is not None)
            beads = tuple(replace(b, **{field: now(rail) or "" for field, rail in rails_of(b)}) for b in kept.beads)
            ties.append(replace(t, lead=lead, to=to, beads=beads))
    return replace(_part_changed(plan, part_id, part=part, params=params), ties=tuple(ties))


def add_bead(plan: Plan, tie_id: str, bead: Bead) -> Plan:
    return _tie_changed(plan, tie_id, beads=(*plan.tie(tie_id).beads, bead))


def put_bead(plan: Plan, tie_id: str, bead: Bead, end: Literal["lead", "pin"]) -> Plan:
    """A bead at one end of the tie: before all others, or behind them."""
    beads = plan.tie(tie_id).beads
    return _tie_changed(plan, tie_id, beads=(bead, *beads) if end == "lead" else (*beads, bead))


def change_bead(plan: Plan, tie_id: str, at: int, bead: Bead) -> Plan:
    beads = list(plan.tie(tie_id).beads)
    beads[at] = bead
    return _tie_changed(plan, tie_id, beads=tuple(beads))


def remove_bead(plan: Plan, tie_id: str, at: int) -> Plan:
    beads = plan.tie(tie_id).beads
    return _tie_changed(plan, tie_id, beads=beads[:at] + beads[at + 1 :])


def add_activity(plan: Plan, title: str, parts: tuple[str, ...] = ()) -> Plan:
    """A new thing that happens, in the first sixth of the cycle."""
    name, number, titles = title.strip() or "Activity", 1, {a.title for a in plan.activities}
    while (name if number == 1 else f"{name} {number}") in titles:
        number += 1
    name = name if number == 1 else f"{name} {number}"
    made = Activity(slug(name, {a.id for a in plan.activities}), name, parts, 0.0, plan.cycle_s / 6)
    return replace(plan, activities=(*plan.activities, made))


def change_activity(plan: Plan, activity_id: str, **changes: Any) -> Plan:
    """Title, parts, times or exclusions of an activity; an exclusion holds both ways."""
    plan.activity(activity_id)
    if "title" in changes and not changes["title"].strip():
        raise EditError("An activity needs a name.")
    try:
        made = tuple(replace(a, **changes) if a.id == activity_id else a for a in plan.activities)
    except ValueError as error:
        raise EditError(f"{str(error)[0].upper()}{str(error)[1:]} cannot be.") from None
    if "excludes" in changes:
        wanted = set(changes["excludes"])
        made = tuple(a if a.id == activity_id else replace(a, excludes=_with(a.excludes, activity_id, a.id in wanted))
                     for a in made)  # fmt: skip
    return replace(plan, activities=made)


def _with(ids: tuple[str, ...], one: str, there: bool) -> tuple[str, ...]:
    kept = tuple(i for i in ids if i != one)
    return (*kept, one) if there else kept


def remove_activity(plan: Plan, activity_id: str) -> Plan:
    rest = tuple(replace(a, excludes=_with(a.excludes, activity_id, False)) for a in plan.activities if a.id != activity_id)
    return replace(plan, activities=rest)


def set_cycle(plan: Plan, seconds: float) -> Plan:
    """After how long everything begins anew."""
    try:
        return replace(plan, cycle_s=seconds)
    except ValueError as error:
        raise EditError(f"{str(error)[0].upper()}{str(error)[1:]} cannot be.") from None


def turn(plan: Plan, by: Literal[90, 180, 270] = 90) -> Plan:
    return replace(plan, turned=(plan.turned + by) % 360)


def flip(plan: Plan) -> Plan:
    """The board seen from its other side."""
    return replace(plan, flipped=not plan.flipped)


def speak(plan: Plan, scheme: str) -> Plan:
    """Every pin called by another scheme."""
    return replace(plan, scheme=scheme)


def set_series(plan: Plan, series: str) -> Plan:
    return replace(plan, series=series)


def carry(plan: Plan, board: Board) -> Plan:
    """Another state of the maker's own board, where the plan is on it; what leads to contacts that are gone goes with them."""
    if plan.board != board.id:
        return plan

    def there(contact: str) -> bool:
        owner, name = split(contact)
        return owner != BOARD or name in board.pins or name in board.sockets

    ties = tuple(_without_rails(t, there) for t in plan.ties if there(t.lead) and there(t.to))
    return replace(plan, carried=board, ties=ties, scheme=plan.scheme if plan.scheme in board.schemes else "")


def carry_part(plan: Plan, carried: CarriedPart) -> Plan:
    """A part of the maker's own goes with the plan, in the state in which its file is now."""
    others = tuple(c for c in plan.carried_parts if c.id != carried.id)
    return replace(plan, carried_parts=(*others, carried))


def set_up(plan: Plan, setting: str) -> Plan:
    """A setting of the board's system changed from what it is at first, or left as it is after all."""
    kept = tuple(s for s in plan.set_up if s != setting)
    return replace(plan, set_up=kept if setting in plan.set_up else (*kept, setting))


def accept(plan: Plan, rule: str, subjects: tuple[str, ...], message: str, reason: str) -> Plan:
    """Live with a finding; a reason is required."""
    if not reason.strip():
        raise EditError("Say why this is acceptable; the reason is kept in the plan.")
    return replace(withdraw(plan, rule, subjects),
                   accepted=(*withdraw(plan, rule, subjects).accepted,
                             Accepted(rule, subjects, message, reason.strip())))  # fmt: skip


def withdraw(plan: Plan, rule: str, subjects: tuple[str, ...]) -> Plan:
    """No longer live with a finding."""
    kept = tuple(a for a in plan.accepted if (a.rule, a.subjects) != (rule, subjects))
    return replace(plan, accepted=kept)


@dataclass(frozen=True)
class Remedy:
    """An edit that settles a finding: named, applied only when asked for."""

    title: str
    steps: tuple["Step", ...]

    def apply(self, plan: Plan) -> Plan:
        for step in self.steps:
            plan = step(plan)
        return plan


@dataclass(frozen=True)
class Step:
    """One edit with its arguments, kept as a value so that equal remedies compare equal."""

    edit: Any
    arguments: tuple[Any, ...]

    def __call__(self, plan: Plan) -> Plan:
        made: Plan = self.edit(plan, *self.arguments)
        return made


def remedy(title: str, edit: Any, *arguments: Any) -> Remedy:
    """A remedy of one step."""
    return Remedy(title, (Step(edit, arguments),))

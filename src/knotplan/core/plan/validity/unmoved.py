"""What an edit has left as it was: of that nothing has to be looked at again."""

from collections.abc import Iterable, Iterator

from knotplan.core.plan.beads import rails_of
from knotplan.core.plan.document import PlacedPart, Plan, Tie, split


def identities(things: Iterable[object]) -> frozenset[int]:
    """Which things these are, whatever is equal to them."""
    return frozenset(map(id, things))


def unmoved_parts(plan: Plan, since: Plan | None) -> frozenset[int]:
    """The identities of parts that are what they were."""
    if since is None or since.carried_parts != plan.carried_parts:
        return frozenset()
    return identities(since.parts)


def unmoved_ties(plan: Plan, since: Plan | None) -> frozenset[int]:
    """The identities of ties that are as they were, between contacts that are what they were."""
    if since is None or since.board != plan.board or since.carried is not plan.carried:
        return frozenset()
    same = unmoved_parts(plan, since)
    gone = {p.id for p in _one_sided(since.parts, plan.parts)}
    moved = gone | {p.id for p in plan.parts if id(p) not in same}
    kept = identities(since.ties)
    if not moved:
        return kept
    return frozenset(id(tie) for tie in plan.ties if id(tie) in kept and not _at(tie, moved))


def _one_sided(parts: tuple[PlacedPart, ...], others: tuple[PlacedPart, ...]) -> Iterator[PlacedPart]:
    there = identities(others)
    return (part for part in parts if id(part) not in there)


def _at(tie: Tie, parts: set[str]) -> bool:
    """A tie has an end at one of some parts, or a bead that is fed by one."""
    if split(tie.lead)[0] in parts or split(tie.to)[0] in parts:
        return True
    return any(split(rail)[0] in parts for bead in tie.beads for _, rail in rails_of(bead))

"""What `knotplan suggest --format json` prints."""

from msgspec import Struct

from knotplan.core.suggest.conflict import Conflict
from knotplan.core.suggest.suggestion import Suggestion


class SuggestedTie(Struct, frozen=True):
    """A pin for a lead."""

    lead: str
    """part and lead"""
    contact: str
    """the pin, or a hub's contact"""
    reason: str
    """why this one"""
    cost: float
    """what it costs, in our own measure: less is better"""
    next: str
    """the next best contact, or empty"""
    next_costs: float
    """how much more the next best costs"""
    next_reason: str
    """why that one is not as good"""


class SuggestAnswer(Struct, frozen=True):
    """A pin for each lead that was asked about."""

    proven: bool
    """nothing costs less"""
    ties: list[SuggestedTie]
    """in the order of the parts"""


class ConflictAnswer(Struct, frozen=True):
    """Why not everything can be tied. (`suggest` prints this with exit status 1.)"""

    conflict: str
    """what cannot stand together"""
    leads: list[str]
    """the leads that it is about"""
    frees: list[str]
    """what would help"""


def answer(found: Suggestion) -> SuggestAnswer | ConflictAnswer:
    """The suggestion, or why there is none."""
    if found.conflict is not None:
        return _conflict(found.conflict)
    return SuggestAnswer(
        found.proven,
        [
            SuggestedTie(
                lead=t.lead,
                contact=t.contact,
                reason=t.reason,
                cost=round(t.cost, 2),
                next=t.next_contact,
                next_costs=round(t.next_costs, 2),
                next_reason=t.next_reason,
            )
            for t in found.ties
        ],
    )


def _conflict(conflict: Conflict) -> ConflictAnswer:
    return ConflictAnswer(conflict.words, list(conflict.leads), list(conflict.frees))

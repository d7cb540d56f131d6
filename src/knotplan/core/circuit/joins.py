"""Which ties join two contacts of one net: what to take away to part them."""

from collections import deque

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Tie

Neighbours = dict[str, list[tuple[str, Tie | None]]]


def joining_ties(circuit: Circuit, one: str, other: str) -> list[Tie]:
    """The ties each of which alone joins two contacts; none where they are joined
    in more than one way, or not at all.

    Such a tie lies on every way between the two, so only those of one way need be looked at.
    """
    neighbours: Neighbours = {}
    for a, b, tie in circuit.nets.joints():
        neighbours.setdefault(a, []).append((b, tie))
        neighbours.setdefault(b, []).append((a, tie))
    way = _way(neighbours, one, other, None) or []
    return [tie for tie in way if _way(neighbours, one, other, tie) is None]


def _way(neighbours: Neighbours, one: str, other: str, but: Tie | None) -> list[Tie] | None:
    """The ties of a shortest way that does without the tie `but`, or nothing."""
    came: dict[str, tuple[str, Tie | None]] = {one: ("", None)}
    fresh = deque([one])
    while fresh and other not in came:
        here = fresh.popleft()
        for there, tie in neighbours.get(here, ()):
            if there not in came and not (but is not None and tie is but):
                came[there] = here, tie
                fresh.append(there)
    if other not in came:
        return None
    ties, here = [], other
    while here != one:
        here, tie = came[here]
        ties += [tie] if tie else []
    return ties[::-1]

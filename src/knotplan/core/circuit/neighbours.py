"""Which contacts lie beside one: what a slip by one hole hits."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.names.counting import Lies, place_of
from knotplan.core.plan.document import BOARD, split


def neighbours(c: Circuit, contact: str) -> tuple[str, ...]:
    """The contacts beside a pin of the board, or beside a lead of a hub in the order in which it has them;
    bars and supplies have no holes in a row."""
    owner, name = split(contact)
    if owner == BOARD:
        if name not in c.board.pins:
            return ()
        return tuple(f"{BOARD}.{n}" for n in place_of(c.board, name, Lies()).neighbours)
    part = c.parts.get(owner)
    leads = list(part.leads) if part else []
    if part is None or name not in leads or part.category in ("wiring", "supply"):
        return ()
    at = leads.index(name)
    return tuple(f"{owner}.{leads[k]}" for k in (at - 1, at + 1) if 0 <= k < len(leads))

"""The plan follows the bench: a tie on the pin that a program or a system really uses."""

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.fit import Grade, fit
from knotplan.core.plan import edits
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.remedy import Remedy, remedy


def tied_there(c: Circuit, tie: Tie, contact: str) -> tuple[Remedy, ...]:
    """The edit that moves a tie to a pin of the board: one that is free and can do what the lead needs; else
    nothing."""
    owner, name = split(contact) if contact else ("", "")
    if owner != BOARD or name not in c.board.pins or contact == tie.to or c.ties.at.get(contact):
        return ()
    if fit(c, tie.lead, contact).grade > Grade.GOOD:
        return ()
    title = f"Tie {c.titles.of(tie.lead)} to {c.titles.full(contact)} in the plan"
    return (remedy(title, edits.tie, tie.lead, contact),)

"""The values that a tie asks for, a line each; a line opens into the whole answer."""

from functools import partial

from PySide6.QtWidgets import QWidget

from knotplan.core.finders import BY_ID
from knotplan.core.finders.finder import FinderError, Found
from knotplan.core.finders.in_plan import Proposal, proposals
from knotplan.core.plan.document import Tie
from knotplan.core.quantity.written import show
from knotplan.desktop.panels.answer import AnswerBox
from knotplan.desktop.panels.fields import button, column_in, label, row
from knotplan.desktop.panels.fold import Fold
from knotplan.desktop.session import Session


class ValueBox(QWidget):
    """Value finders for one tie, their inputs taken from the plan."""

    def __init__(self, session: Session, asked: list[Proposal]):
        super().__init__()
        layout = column_in(self, 4)
        layout.addWidget(label("Values", "strong"))
        for proposal in asked:
            layout.addWidget(value_line(session, proposal))


def asked_of(session: Session, tie: Tie) -> list[Proposal]:
    """The values that a tie asks for; none before the engine has run."""
    return list(proposals(session.circuit, session.report.points, tie)) if session.report.checked else []


def value_line(session: Session, proposal: Proposal) -> Fold:
    """One value: its name and number, and the whole answer when it is opened."""
    finder = BY_ID[proposal.finder]
    found, why = None, ""
    try:
        found = finder(proposal.values, proposal.origins)
    except FinderError as error:
        why = str(error)
    make = partial(_answer, session, proposal, found, why)
    return Fold(session, f"value-{finder.id}", _title(finder.title, proposal, found), finder.question, make)


def _title(title: str, proposal: Proposal, found: Found | None) -> str:
    if found is None:
        return f"{title}: none"
    now, value = proposal.now, show(found.value, found.unit)
    there = (
        f", now {show(now, found.unit)}" if now is not None and abs(now - found.value) > 1e-9 * now else ""
    )
    return f"{title}: {value}{there}"


def _answer(session: Session, proposal: Proposal, found: Found | None, why: str) -> QWidget:
    made = QWidget()
    layout = column_in(made, 4)
    layout.setContentsMargins(14, 0, 0, 4)
    if found is None:
        layout.addWidget(label(why, "care"))
    else:
        layout.addWidget(AnswerBox(found, session, proposal.remedy(found), headline=False))
    ask = partial(session.values_wanted.emit, proposal.finder, proposal.values)
    layout.addWidget(
        row(button("Other inputs …", "otherInputs", "The same finder with numbers of your own", ask, "quiet"))
    )
    return made

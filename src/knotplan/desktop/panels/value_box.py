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
    answer, why = None, ""
    try:
        answer = finder(proposal.values, proposal.origins)
    except FinderError as error:
        why = str(error)
    make = partial(_answer, session, proposal, answer, why)
    return Fold(session, f"value-{finder.id}", _title(finder.title, proposal, answer), finder.question, make)


def _title(title: str, proposal: Proposal, answer: Found | None) -> str:
    if answer is None:
        return f"{title}: none"
    now, value = proposal.now, show(answer.value, answer.unit)
    there = (
        f", now {show(now, answer.unit)}" if now is not None and abs(now - answer.value) > 1e-9 * now else ""
    )
    return f"{title}: {value}{there}"


def _answer(session: Session, proposal: Proposal, answer: Found | None, why: str) -> QWidget:
    widget = QWidget()
    layout = column_in(widget, 4)
    layout.setContentsMargins(14, 0, 0, 4)
    if answer is None:
        layout.addWidget(label(why, "care"))
    else:
        layout.addWidget(AnswerBox(answer, session, proposal.remedy(answer), headline=False))
    ask = partial(session.values_wanted.emit, proposal.finder, proposal.values)
    layout.addWidget(
        row(button("Other inputs …", "otherInputs", "The same finder with numbers of your own", ask, "quiet"))
    )
    return widget

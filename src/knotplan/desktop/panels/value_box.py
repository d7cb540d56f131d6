"""The values that a tie asks for, a line each; a line opens into the whole answer."""

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QToolButton, QWidget

from knotplan.core.finders import BY_ID
from knotplan.core.finders.finder import FinderError, Found
from knotplan.core.finders.in_plan import Proposal, proposals
from knotplan.core.plan import Tie
from knotplan.core.quantity import show
from knotplan.desktop.panels.answer import Answer
from knotplan.desktop.panels.fields import button, column_in, label, row
from knotplan.desktop.session import Session


class ValueBox(QWidget):
    """Value finders for one tie, their inputs taken from the plan."""

    def __init__(self, session: Session, asked: list[Proposal]):
        super().__init__()
        layout = column_in(self, 4)
        layout.addWidget(label("Values", "strong"))
        self.lines = [ValueLine(session, proposal) for proposal in asked]
        for made in self.lines:
            layout.addWidget(made)


def asked_of(session: Session, tie: Tie) -> list[Proposal]:
    """The values that a tie asks for; none before the engine has run."""
    return list(proposals(session.circuit, session.report.points, tie)) if session.report.checked else []


class ValueLine(QWidget):
    """One value: its name and number, and the whole answer when it is opened."""

    def __init__(self, session: Session, proposal: Proposal):
        super().__init__()
        self.session, self.proposal, self.finder = session, proposal, BY_ID[proposal.finder]
        self.found: Found | None = None
        self.why = ""
        try:
            self.found = self.finder(proposal.values, proposal.origins)
        except FinderError as error:
            self.why = str(error)
        self.layout_ = column_in(self, 4)
        self.head = QToolButton()
        self.head.setObjectName(f"value-{proposal.finder}")
        self.head.setText(self._title())
        self.head.setAccessibleName(self._title())
        self.head.setToolTip(self.finder.question)
        self.head.setCheckable(True)
        self.head.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.head.setProperty("kind", "quiet")
        self.head.toggled.connect(self._open)
        self.layout_.addWidget(self.head)
        self.body: QWidget | None = None
        opened = proposal.finder in session.opened_values
        self.head.setArrowType(Qt.ArrowType.RightArrow)
        if opened:
            self.head.setChecked(True)

    def _title(self) -> str:
        if self.found is None:
            return f"{self.finder.title}: none"
        value = show(self.found.value, self.found.unit)
        now = self.proposal.now
        there = f", now {show(now, self.found.unit)}" if now is not None and abs(now - self.found.value) > 1e-9 * now else ""
        return f"{self.finder.title}: {value}{there}"

    def _open(self, on: bool) -> None:
        (self.session.opened_values.add if on else self.session.opened_values.discard)(self.proposal.finder)
        self.head.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        if on and self.body is None:
            self.body = self._made()
            self.layout_.addWidget(self.body)
        if self.body is not None:
            self.body.setVisible(on)

    def _made(self) -> QWidget:
        made = QWidget()
        layout = column_in(made, 4)
        layout.setContentsMargins(14, 0, 0, 4)
        if self.found is None:
            layout.addWidget(label(self.why, "care"))
        else:
            layout.addWidget(Answer(self.found, self.session, self.proposal.remedy(self.found), headline=False))
        ask = partial(self.session.values_wanted.emit, self.proposal.finder, self.proposal.values)
        layout.addWidget(row(button("Other inputs …", "otherInputs", "The same finder with numbers of your own", ask, "quiet")))
        return made

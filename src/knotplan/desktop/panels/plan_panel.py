"""The plan as a whole, while nothing is selected: what is there, and what to do next."""

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from knotplan.core.loom.palette import Palette
from knotplan.core.quantity import counted
from knotplan.desktop.panels.fields import button, form, label
from knotplan.desktop.session import Session

KEYS = (("A", "add a part"), ("T", "tie the selected lead by a pin's name"), ("R", "turn the board"),
        ("/", "find a pin, a part, a finding, an action"), ("F8", "next finding"), ("F1", "explain this"))  # fmt: skip
MOST = 6
"""leads offered to be tied next"""


class PlanPanel(QWidget):
    """Board, parts, and the next step; it follows the session by itself, without being remade."""

    @staticmethod
    def shows(session: Session, _: str) -> tuple[object, ...]:
        """Nothing that would need another panel."""
        return ()

    def __init__(self, session: Session, palette: Palette, _: str = ""):
        super().__init__()
        self.session = session
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(7)
        self.title, self.about, self.next = label("", "head"), label("", "faint", wrap=False), label("")
        for text in (self.title, self.about, self.next):
            layout.addWidget(text)
        self.leads: list[str] = []
        self.buttons: list[QPushButton] = []
        for number in range(MOST):
            made = button("", "untied", "Select this lead", partial(self._go, number), "remedy")
            self.buttons.append(made)
            layout.addWidget(made, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addSpacing(6)
        keys = form()
        for key, does in KEYS:
            keys.addRow(label(key, "strong", wrap=False), label(does, "faint"))
        layout.addLayout(keys)
        layout.addStretch(1)
        session.changed.connect(self.refresh)
        self.refresh()

    def _go(self, number: int) -> None:
        self.session.select("lead", self.leads[number])

    def refresh(self) -> None:
        c, report = self.session.circuit, self.session.report
        self.title.setText(c.plan.title)
        self.about.setText(f"{counted(len(c.parts), 'part')} and {counted(len(c.plan.ties), 'tie')} on {c.board.title}.")
        self.leads = [lead for f in report.findings if f.rule == "lead-untied" for lead in f.subjects]
        self.next.setText(self._next())
        for k, made in enumerate(self.buttons):
            made.setVisible(k < len(self.leads))
            if k < len(self.leads):
                made.setText(c.title(self.leads[k]))
                made.setAccessibleName(c.title(self.leads[k]))

    def _next(self) -> str:
        report = self.session.report
        if self.leads:
            return "One lead still wants a tie:" if len(self.leads) == 1 else f"{len(self.leads)} leads still want a tie:"
        if not report.circuit.parts:
            return ("Press A and type what you have. Then pull a cord from a lead to a pin, or select a lead and press "
                    "Enter for the best pin.")  # fmt: skip
        if report.checked and not report.findings:
            return "Everything is tied and nothing is found. Hand it over."
        return "Select a lead and every pin answers how well it fits."

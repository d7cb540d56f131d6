"""The plan as a whole, while nothing is selected: what is there, and what to do next."""

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.core.plan import edits
from knotplan.core.quantity.written import counted
from knotplan.desktop.panels.fields import button, clear_layout, column_in, form, label, tick
from knotplan.desktop.session import Session

SHOWN = ("add", "tie", "turn", "find", "next-finding", "explain")
"""actions whose keys are worth knowing first"""
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
        layout = column_in(self, 7)
        self.title, self.about, self.next = label("", "head"), label("", "faint"), label("")
        for text in (self.title, self.about, self.next):
            layout.addWidget(text)
        self.leads: list[str] = []
        self.buttons: list[QPushButton] = []
        for number in range(MOST):
            untied = button("", "untied", "Select this lead", partial(self._go, number), "remedy")
            self.buttons.append(untied)
            layout.addWidget(untied, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addSpacing(6)
        self._keys = form()
        layout.addLayout(self._keys)
        layout.addSpacing(6)
        self._settings = QWidget()
        self._settings_layout = column_in(self._settings, 5)
        layout.addWidget(self._settings)
        self._settings_of: object = None
        layout.addStretch(1)
        session.changed.connect(self.refresh)
        self.refresh()

    def show_keys(self, keys: dict[str, tuple[str, str]]) -> None:
        """The keys of what is done most, by action: (keys, name)."""
        for action in SHOWN:
            pressed, name = keys[action]
            self._keys.addRow(label(pressed, "strong", wrap=False), label(name, "faint"))

    def _go(self, number: int) -> None:
        self.session.select("lead", self.leads[number])

    def refresh(self) -> None:
        c, report = self.session.circuit, self.session.report
        self.title.setText(c.plan.title)
        self.about.setText(
            f"{counted(len(c.parts), 'part')} and {counted(len(c.plan.ties), 'tie')} on {c.board.title}."
        )
        self.leads = [lead for f in report.findings if f.rule == "lead-untied" for lead in f.subjects]
        self.next.setText(self._next())
        for k, made in enumerate(self.buttons):
            made.setVisible(k < len(self.leads))
            if k < len(self.leads):
                made.setText(c.titles.of(self.leads[k]))
                made.setAccessibleName(c.titles.of(self.leads[k]))

        shown = (c.board, c.plan.set_up)
        if shown != self._settings_of:
            self._settings_of = shown
            self._show_settings()

    def _show_settings(self) -> None:
        """What the board's system has on or off, as the plan wants it."""
        clear_layout(self._settings_layout)
        c = self.session.circuit
        if c.board.settings:
            self._settings_layout.addWidget(label("The board's system has on", "strong"))
        for name, spec in c.board.settings.items():
            text = spec.title + (f" ({spec.starts} at first)" if name in c.plan.set_up else "")
            self._settings_layout.addWidget(
                tick(
                    text,
                    f"setting-{name}",
                    f"To change it: {spec.how}. {spec.note}".strip(),
                    c.hardware.is_on(name),
                    partial(self._switch, name, spec.title),
                )
            )

    def _switch(self, name: str, title: str, _: bool) -> None:
        self.session.edit(f"switch {title}", edits.set_up, name)

    def _next(self) -> str:
        report = self.session.report
        if self.leads:
            return (
                "One lead still wants a tie:"
                if len(self.leads) == 1
                else f"{len(self.leads)} leads still want a tie:"
            )
        if not report.circuit.parts:
            return (
                "Press A and type what you have. Then pull a cord from a lead to a pin, or select a lead and "
                "press Enter for the best pin."
            )
        if report.checked and not report.findings:
            return "Everything is tied and nothing is found. Hand it over."
        return "Select a lead and every pin answers how well it fits."

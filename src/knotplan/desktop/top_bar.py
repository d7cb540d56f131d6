"""Plan, board, spoken names, search: what stands above everything."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QWidget

from knotplan.core.plan import edits
from knotplan.desktop.panels.fields import TextField, choice, label
from knotplan.desktop.search import SearchField
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

APART = 110
"""between all that stands in the bar, pixels"""
EDITED, ASIDE = "edited", "edited, kept aside"
"""how the work stands between two savings"""


class TopBar(QWidget):
    """One row; its buttons follow the board's schemes."""

    def __init__(self, session: Session, search: SearchField):
        super().__init__()
        self.session = session
        self.setObjectName("bar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(52)
        across = QHBoxLayout(self)
        across.setContentsMargins(14, 6, 14, 6)
        across.setSpacing(8)
        self.title = TextField("planTitle", "The plan's name", session.plan.title, self._retitle)
        self.title.setAccessibleName("Name of the plan")
        self.title.setMaximumWidth(190)
        self.state = label("", "faint", wrap=False)
        # room for its longest word, so that the first edit does not move everything beside it
        self.state.setFixedWidth(self.state.fontMetrics().horizontalAdvance(ASIDE) + 4)
        self.board = QLabel()
        self.board.setTextFormat(Qt.TextFormat.PlainText)
        self.board.setProperty("tone", "strong")
        across.addWidget(self.title)
        across.addWidget(self.state)
        across.addSpacing(6)
        across.addWidget(self.board)
        across.addSpacing(6)
        self.names = label("Names", "faint", wrap=False)
        across.addWidget(self.names)
        self.schemes = QWidget()
        self.schemes_row = QHBoxLayout(self.schemes)
        self.schemes_row.setContentsMargins(0, 0, 0, 0)
        self.schemes_row.setSpacing(3)
        self.group = QButtonGroup(self)
        across.addWidget(self.schemes)
        self.picked = choice("spokenNames", "By which names pins are called", (), "", self._speak)
        self.picked.setAccessibleName("Spoken names")
        self.picked.hide()
        across.addWidget(self.picked)
        across.addStretch(1)
        self.search = search
        search.setMinimumWidth(150)
        search.setMaximumWidth(330)
        search.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        across.addWidget(search, 3)
        self._made_for: object = None
        self._kept: object = None
        session.changed.connect(self.refresh)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_schemes()

    def _fit_schemes(self) -> None:
        """Side by side where all of them have room, else to be picked from a list."""
        others = (self.title, self.state, self.board, self.names)
        taken = sum(w.sizeHint().width() if w is self.board else w.width() for w in others)
        wanted = self.schemes.sizeHint().width()
        room = self.width() - taken - self.search.minimumWidth() - APART
        self.schemes.setVisible(wanted <= room)
        self.picked.setVisible(wanted > room)

    def refresh(self) -> None:
        c = self.session.circuit
        if not self.title.hasFocus():
            self.title.setText(c.plan.title)
            self.title.setCursorPosition(0)  # of a long name, its beginning is shown
            self.title.setToolTip(tip_text(f"The plan's name: {c.plan.title}"))
            self.title._was = c.plan.title
        wide = self.title.fontMetrics().horizontalAdvance(self.title.text()) + 44
        if self.title.width() != max(110, min(220, wide)):
            self.title.setFixedWidth(max(110, min(220, wide)))
        self._tell_state()
        self.board.setText(c.board.title)
        self.board.setToolTip(tip_text(f"{c.board.summary}; turn it with R, flip it with Shift+R"))
        if self._made_for is not c.board:
            self._make_schemes()
        for made in self.group.buttons():
            made.setChecked(made.property("scheme") == c.scheme)
        self.picked.setCurrentIndex(self.picked.findData(c.scheme))
        self._fit_schemes()

    def kept_aside(self, plan: object) -> None:
        """A plan has been kept aside; which one tells whether more has been done since."""
        self._kept = plan
        self._tell_state()

    def _tell_state(self) -> None:
        """Whether the work is in its file, and how it is kept until then."""
        if not self.session.dirty:
            path = self.session.path
            self.state.setText("saved" if path else "")
            self.state.setToolTip(tip_text(f"In {path}" if path else ""))
            return
        aside = self._kept is self.session.plan
        self.state.setText(ASIDE if aside else EDITED)
        self.state.setToolTip(
            tip_text(
                "Not in a file yet. A copy is kept aside each second: after a crash it is offered again."
                if aside
                else "Not in a file yet; a copy is kept aside within a second."
            )
        )

    def _make_schemes(self) -> None:
        for old in self.group.buttons():
            self.group.removeButton(old)
            self.schemes_row.removeWidget(old)
            old.hide()
            old.deleteLater()
        self.picked.clear()
        board = self.session.circuit.board
        for scheme, spec in board.schemes.items():
            button = QPushButton(spec.short or spec.title)
            button.setCheckable(True)
            button.setProperty("kind", "segment")
            button.setProperty("scheme", scheme)
            button.setAccessibleName(f"Speak names by {spec.title.lower()}")
            button.setToolTip(tip_text(f"{spec.title}: {spec.note}"))
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, k=scheme: self._speak(k))
            self.picked.addItem(spec.short or spec.title, scheme)
            self.group.addButton(button)
            self.schemes_row.addWidget(button)
        self._made_for = board

    def _speak(self, scheme: str) -> None:
        self.session.edit("speak other names", edits.speak, scheme)

    def _retitle(self, text: str) -> None:
        self.session.edit("rename the plan", edits.retitle, text)

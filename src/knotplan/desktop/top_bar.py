"""Plan, board, spoken names, search: what stands above everything."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QWidget

from knotplan.core.plan import edits
from knotplan.desktop import lettering
from knotplan.desktop.panels.fields import TextField, label
from knotplan.desktop.panels.segments import Segment, Segments
from knotplan.desktop.search import SearchField
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

TITLE_LEAST, TITLE_MOST = 110, 280
ROOMY = 900
"""width of the bar from which it has all its words, pixels at usual letters"""
EDITED, ASIDE = "edited", "edited, kept aside"
"""how the work stands between two savings"""


class TopBar(QWidget):
    """One row; its buttons follow the board's schemes."""

    def __init__(self, session: Session, search: SearchField):
        super().__init__()
        self.session = session
        self.setObjectName("bar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        lettering.fix(self, height=52)
        across = QHBoxLayout(self)
        across.setContentsMargins(14, 6, 14, 6)
        across.setSpacing(8)
        self.title = TextField("planTitle", "The plan's name", session.plan.title, self._retitle)
        self.title.setAccessibleName("Name of the plan")
        self.state = label("", "faint", wrap=False)
        self.board = QLabel()
        self.board.setTextFormat(Qt.TextFormat.PlainText)
        self.board.setProperty("tone", "strong")
        across.addWidget(self.title)
        across.addWidget(self.state)
        across.addSpacing(6)
        across.addWidget(self.board)
        across.addSpacing(6)
        self.names = label("Names", "faint", wrap=False)
        self.names.setToolTip("By which of its names a pin is called everywhere (Alt+1 and on)")
        across.addWidget(self.names)
        tip = "By which names pins are called"
        self.schemes = Segments("spokenNames", "Spoken names", tip, "segment", 3)
        self.schemes.chosen.connect(self._speak)
        across.addWidget(self.schemes)
        across.addStretch(1)
        self.search = search
        lettering.fix(search, least_width=120, most_width=330)
        search.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        across.addWidget(search, 3)
        self._made_for: object = None
        self._kept: object = None
        session.changed.connect(self.refresh)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """The title has the room of its words, up to a quarter of the bar. How the work stands and the word
        beside the names go where there is no room for them; the first is in the window's title too."""
        letters = self.title.fontMetrics()
        room = max(lettering.px(TITLE_LEAST), min(lettering.px(TITLE_MOST), self.width() // 4))
        wide = letters.horizontalAdvance(self.title.text()) + lettering.px(44)
        self.title.setFixedWidth(max(lettering.px(TITLE_LEAST), min(room, wide)))
        # room for its longest word, so that the first edit does not move everything beside it
        self.state.setFixedWidth(self.state.fontMetrics().horizontalAdvance(ASIDE) + 4)
        roomy = self.width() >= lettering.px(ROOMY)
        self.state.setVisible(roomy)
        self.names.setVisible(roomy)

    def refresh(self) -> None:
        c = self.session.circuit
        if not self.title.hasFocus():
            self.title.setText(c.plan.title)
            self.title.setCursorPosition(0)  # of a long name, its beginning is shown
            self.title.setToolTip(tip_text(f"The plan's name: {c.plan.title}"))
            self.title._was = c.plan.title
        self._fit()
        self._tell_state()
        self.board.setText(c.board.title)
        self.board.setToolTip(tip_text(f"{c.board.summary}; turn it with R, flip it with Shift+R"))
        if self._made_for is not c.board:
            self._make_schemes()
        self.schemes.choose(c.scheme)

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
        board = self.session.circuit.board
        self.schemes.fill(
            [
                Segment(
                    scheme,
                    spec.short or spec.title,
                    f"Speak names by {spec.title.lower()}",
                    f"{spec.title}: {spec.note}",
                )
                for scheme, spec in board.schemes.items()
            ]
        )
        self._made_for = board

    def _speak(self, scheme: str) -> None:
        self.session.edit("speak other names", edits.speak, scheme)

    def _retitle(self, text: str) -> None:
        self.session.edit("rename the plan", edits.retitle, text)

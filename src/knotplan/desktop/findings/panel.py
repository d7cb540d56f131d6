"""The list of findings, gravest first."""

from itertools import pairwise

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QApplication, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from knotplan.core.check.finding import SAID, SEVERITIES, Finding
from knotplan.core.drawing.palette import Palette
from knotplan.core.quantity.written import counted
from knotplan.desktop.findings.card import FindingCard
from knotplan.desktop.findings.to_do import ToDo
from knotplan.desktop.panels.fields import button, label
from knotplan.desktop.session import Session

GAP = 8
MOST_CARDS = 120
"""findings that are shown at once, the gravest first: nobody reads more, and each is a widget"""
SCROLL = 18
"""room for the scroll bar, kept also while there is none, so that cards keep their width"""


class FindingsPanel(QWidget):
    """All findings; a card is kept as long as its finding stays the same."""

    mend_wanted = Signal()
    left = Signal()
    """the last finding that had the keyboard is gone"""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.setAccessibleName("Findings")
        self.setObjectName("findings")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 8, 4, 8)
        layout.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(label("Findings", "head"))
        self.mend = button(
            "Mend",
            "mendAll",
            "Mend all that is safe: what changes no decision of yours (Ctrl+Shift+M)",
            self.mend_wanted.emit,
            "quiet",
        )
        head.addWidget(self.mend)
        head.addStretch(1)
        layout.addLayout(head)
        self.summary = label("", "faint")
        layout.addWidget(self.summary)
        self.nothing = label("", "faint")
        layout.addWidget(self.nothing)
        self.area = QScrollArea()
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setAccessibleName("List of findings")
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.holder = QWidget()
        self.area.setWidget(self.holder)
        self.area.installEventFilter(self)
        layout.addWidget(self.area, 1)
        self.more = label("", "faint")
        self.more.hide()
        layout.addWidget(self.more)
        self.to_do = ToDo(session, palette)
        self.to_do.opened.connect(self.refresh)
        layout.addWidget(self.to_do)
        self.cards: list[FindingCard] = []
        self.at = -1
        """the card that was gone to last"""
        self._spare: list[FindingCard] = []
        self._tab_stops: list[QWidget] = []
        # remedies are searched for after the repaint, a card at a time
        self._idle = QTimer(self)
        self._idle.setInterval(0)
        self._idle.timeout.connect(self._fill_next)
        self._unfilled: list[FindingCard] = []
        session.changed.connect(self.refresh)
        self.refresh()

    def set_palette(self, palette: Palette) -> None:
        self.p = palette
        for card in [*self.cards, *self._spare]:
            card.p = palette
            card.update()
        self.to_do.set_palette(palette)

    def to_next(self) -> None:
        """Selects what the next finding is about, and shows its card."""
        if not self._listed() and self.session.report.findings:
            self.to_do.head.setChecked(True)  # only what is to be done is left
        findings = self._listed()
        if findings:
            self.at = (self.at + 1) % min(len(findings), len(self.cards))
            self.session.select_subject(findings[self.at].subjects[0])
            self.cards[self.at].setFocus()
            self.area.ensureWidgetVisible(self.cards[self.at])

    # --- which cards there are ----------------------------------------------------------------------

    def refresh(self) -> None:
        report = self.session.report
        graver = [s for s in SEVERITIES if s != "to-do"]
        counts = " · ".join(f"{n} {SAID[s]}" for s in graver if (n := report.count(s)))
        self.summary.setText(counts if report.checked else "checking …")
        self.summary.setVisible(bool(self.summary.text()))
        empty = "Every check holds." if report.circuit.parts else "Nothing to check yet: add a part with A."
        listed = self._listed()
        self.nothing.setText(empty)
        self.nothing.setVisible(report.checked and not listed)
        self.mend.setVisible(bool(report.findings))
        self.to_do.refresh()
        every = [*listed, *report.accepted]
        wanted = every[:MOST_CARDS]
        self.more.setText(
            f"and {counted(len(every) - len(wanted), 'finding')} more: mend some of these first"
        )
        self.more.setVisible(len(every) > len(wanted))
        shown = {card.finding: card for card in self.cards if card.preview is None and card.reason is None}
        spare = [
            card for card in self.cards if card.finding not in wanted or card.finding not in shown
        ] + self._spare
        cards = [shown.get(finding) or self._card(finding, spare) for finding in wanted]
        for card, finding in zip(cards, wanted, strict=True):
            card.finding = finding  # equal to the one shown, but with the remedies of this plan
        had_focus = _one_has_keyboard(spare)
        for card in spare:
            card.hide()
        self.cards, self._spare = cards, spare
        self.arrange()
        if had_focus:  # or the toolkit gives it to whatever comes next, such as the plan's name
            self._pass_focus_on()
        self._unfilled = list(cards)
        self._idle.start()

    def has_keyboard(self) -> bool:
        """A card has it, or something on a card."""
        return _one_has_keyboard(self.cards)

    def _pass_focus_on(self) -> None:
        """What had the keyboard is gone: the next finding takes it, or the bench."""
        if self.cards:
            self.cards[0].setFocus()
        else:
            self.left.emit()

    def _listed(self) -> list[Finding]:
        """The findings that have cards: what is to be done only when it is asked for."""
        findings = self.session.report.findings
        return [f for f in findings if f.severity != "to-do" or self.to_do.listed]

    def _card(self, finding: Finding, spare: list[FindingCard]) -> FindingCard:
        if spare:
            card = spare.pop()
        else:
            card = FindingCard(self.session, self.p, self.holder)
            card.resized.connect(self.arrange)
        card.assign(finding)
        return card

    def _fill_next(self) -> None:
        if self._unfilled:
            self._unfilled.pop(0).fill()
        else:
            self._idle.stop()

    def settle(self) -> None:
        """All remedies at once (for pictures and tests)."""
        while self._unfilled:
            self._fill_next()

    # --- where they lie ---------------------------------------------------------------------------

    def arrange(self) -> None:
        """Cards one below another, each as tall as it has to be; the
        keyboard goes from each to its own buttons."""
        width = max(200, self.area.width() - SCROLL)
        y, stops = 0, []
        for card in self.cards:
            tall = card.arrange(width)
            stops += card.tab_stops()
            card.setGeometry(0, y, width, tall)
            card.show()
            y += tall + GAP
        self.holder.resize(width, max(0, y - GAP))
        if stops != self._tab_stops:
            self._tab_stops = stops
            for before, after in pairwise(stops):
                QWidget.setTabOrder(before, after)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self.arrange()
        return super().eventFilter(watched, event)

    def show_subject(self, subject: str) -> None:
        """Brings the first finding about a subject into view."""
        about = [f for f in self.session.report.findings if subject in f.subjects]
        if about and about[0].severity == "to-do":
            self.to_do.head.setChecked(True)
        for card in self.cards:
            if subject in card.finding.subjects:
                self.area.ensureWidgetVisible(card)
                card.setFocus()
                return


def _one_has_keyboard(cards: list[FindingCard]) -> bool:
    focus = QApplication.focusWidget()
    return focus is not None and any(card is focus or card.isAncestorOf(focus) for card in cards)

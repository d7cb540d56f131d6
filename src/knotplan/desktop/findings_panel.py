"""The findings, gravest first, each with its remedies: one click shows, a second makes."""

from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from knotplan.core import edits
from knotplan.core.changes import changes
from knotplan.core.edits import Remedy
from knotplan.core.finding import SEVERITIES, Finding
from knotplan.core.loom.marks import severity
from knotplan.core.loom.palette import Palette
from knotplan.desktop.paint import paint
from knotplan.desktop.panels.fields import button, label
from knotplan.desktop.session import Session


class Mark(QWidget):
    """A severity as octagon, triangle or disc."""

    def __init__(self, level: str, palette: Palette):
        super().__init__()
        self.level, self.p = level, palette
        self.setFixedSize(22, 24)
        self.setAccessibleName(level)
        self.setToolTip(level)

    def set_level(self, level: str) -> None:
        if level != self.level:
            self.level = level
            self.setAccessibleName(level)
            self.setToolTip(level)
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(22, 24)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        box = QRectF(self.rect())
        paint(painter, severity(box.center().x(), 12, self.level, self.p, 9))
        painter.end()


WIDEST_REMEDY = 205


def _wrapped(text: str, metrics: QFontMetrics, room: int) -> str:
    """The text in as many lines as it needs; buttons do not wrap by themselves."""
    lines = [""]
    for word in text.split(" "):
        longer = f"{lines[-1]} {word}".strip()
        if metrics.horizontalAdvance(longer) <= room or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    return "\n".join(lines)


class FindingCard(QFrame):
    """One finding; the same card serves another finding later, which is much quicker than a new one."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session = session
        self.finding: Finding
        self.remedies: tuple[Remedy, ...] = ()
        self.preview: QFrame | None = None
        self.reason: QLineEdit | None = None
        self.setProperty("kind", "finding")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        across = QHBoxLayout(self)
        across.setContentsMargins(10, 9, 10, 9)
        across.setSpacing(8)
        self.mark = Mark("note", palette)
        across.addWidget(self.mark, 0, Qt.AlignmentFlag.AlignTop)
        self.column = QVBoxLayout()
        self.column.setSpacing(4)
        across.addLayout(self.column, 1)
        self.title, self.message, self.why = label("", "strong"), label("", "faint"), label("")
        for text in (self.title, self.message):
            text.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        self.buttons: list[QPushButton] = []
        self.withdraw_button = button("Take that back", "withdraw", "No longer live with this", self._withdraw, "quiet")
        self.accept_button = button("Accept …", "accept", "Live with this, with a reason that is kept", self._ask, "quiet")
        for text in (self.title, self.message, self.why):
            self.column.addWidget(text)
        for choice in (self.withdraw_button, self.accept_button):
            self.column.addWidget(choice, 0, Qt.AlignmentFlag.AlignLeft)

    def assign(self, finding: Finding) -> None:
        """Shows a finding; its remedies are filled in later."""
        self._clear_preview()
        if self.reason is not None:
            self.reason.deleteLater()
            self.reason = None
        self.finding = finding
        self.mark.set_level(finding.severity)
        self.title.setText(finding.title)
        self.message.setText(finding.message)
        self.setAccessibleName(f"{finding.severity}: {finding.title}")
        self.setAccessibleDescription(finding.message)
        self.setToolTip(f"{finding.reason}\nSource: {finding.source}\nRule: {finding.rule}")
        self.why.setText(f"Accepted: {finding.accepted}")
        for widget in (self.why, self.withdraw_button):
            widget.setVisible(bool(finding.accepted))
        self.accept_button.setVisible(not finding.accepted)
        self._show_remedies(())

    def fill(self) -> None:
        """Looks for the remedies, and shows them where they are not those shown."""
        if not self.finding.accepted and self.finding.remedies != self.remedies:
            self._show_remedies(self.finding.remedies)

    def _show_remedies(self, remedies: tuple[Remedy, ...]) -> None:
        self.remedies = remedies
        while len(self.buttons) < len(remedies):
            number = len(self.buttons)
            made = button("", "remedy", "Shows what would change; a second click makes it",
                          partial(self._show_preview_of, number), "remedy")  # fmt: skip
            self.buttons.append(made)
            self.column.insertWidget(2 + number, made, 0, Qt.AlignmentFlag.AlignLeft)
        for number, made in enumerate(self.buttons):
            made.setVisible(number < len(remedies))
            if number < len(remedies):
                made.setText(_wrapped(remedies[number].title, made.fontMetrics(), WIDEST_REMEDY))
                made.setAccessibleName(remedies[number].title)

    def _show_preview_of(self, number: int) -> None:
        self.show_preview(self.remedies[number])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self.session.select_subject(self.finding.subjects[0])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.session.select_subject(self.finding.subjects[0])
        else:
            super().keyPressEvent(event)

    # --- remedies -------------------------------------------------------------------------------

    def show_preview(self, remedy: Remedy) -> None:
        """Shows what would change, on the bench and in words; a second click on the same makes it."""
        if self.session.preview == remedy and self.preview is not None:
            self.session.make(remedy)
            return
        self._clear_preview()
        self.session.show_preview(remedy)
        after = self.session.preview_circuit()
        assert after is not None
        self.preview = QFrame()
        self.preview.setProperty("kind", "preview")
        box = QVBoxLayout(self.preview)
        box.setContentsMargins(8, 6, 8, 6)
        for text in changes(self.session.circuit, after):
            box.addWidget(label(f"• {text}"))
        make = button("Make this change", "make", "Does it; undo takes it back (Ctrl+Z)",
                      lambda: self.session.make(remedy), "main")  # fmt: skip
        leave = button("Leave it", "leave", "Changes nothing", self._leave, "quiet")
        across = QHBoxLayout()
        across.addWidget(make)
        across.addWidget(leave)
        across.addStretch(1)
        box.addLayout(across)
        self.column.insertWidget(2, self.preview)
        make.setFocus()

    def _clear_preview(self) -> None:
        if self.preview is not None:
            self.preview.deleteLater()
            self.preview = None

    def _leave(self) -> None:
        self._clear_preview()
        self.session.show_preview(None)

    # --- accepting ------------------------------------------------------------------------------

    def _ask(self) -> None:
        if self.reason is None:
            self.reason = QLineEdit()
            self.reason.setObjectName("reason")
            self.reason.setAccessibleName("Why this is acceptable")
            self.reason.setPlaceholderText("why is this acceptable? then Enter")
            self.reason.returnPressed.connect(self._accept)
            self.column.addWidget(self.reason)
        self.reason.setFocus()

    def _accept(self) -> None:
        f = self.finding
        assert self.reason is not None
        self.session.edit(f"accept {f.title.lower()}", edits.accept, f.rule, f.subjects, f.message, self.reason.text())

    def _withdraw(self) -> None:
        self.session.edit("no longer accept", edits.withdraw, self.finding.rule, self.finding.subjects)


class FindingsPanel(QWidget):
    """All findings; a card is kept as long as its finding stays the same."""

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
        head.addStretch(1)
        self.summary = label("", "faint", wrap=False)
        head.addWidget(self.summary)
        head.addSpacing(12)
        layout.addLayout(head)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setAccessibleName("List of findings")
        holder = QWidget()
        self.list = QVBoxLayout(holder)
        self.list.setContentsMargins(0, 0, 8, 0)
        self.list.setSpacing(8)
        self.nothing = label("", "faint")
        self.list.addWidget(self.nothing)
        self.list.addStretch(1)
        self.area.setWidget(holder)
        layout.addWidget(self.area, 1)
        self.cards: list[FindingCard] = []
        self._spare: list[FindingCard] = []
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
            card.mark.p = palette
            card.mark.update()

    def refresh(self) -> None:
        report = self.session.report
        counts = " · ".join(f"{report.count(s)} {s}" for s in SEVERITIES)
        self.summary.setText(counts if report.checked else "checking …")
        empty = "Every check holds." if report.circuit.parts else "Nothing to check yet: add a part with A."
        self.nothing.setText(empty)
        self.nothing.setVisible(report.checked and not report.findings)
        wanted = [*report.findings, *report.accepted]
        shown = {card.finding: card for card in self.cards if card.preview is None and card.reason is None}
        spare = [card for card in self.cards if card.finding not in wanted or card.finding not in shown] + self._spare
        cards = [shown.get(finding) or self._card(finding, spare) for finding in wanted]
        for card, finding in zip(cards, wanted, strict=True):
            card.finding = finding  # equal to the one shown, but with the remedies of this plan
        for k, card in enumerate(cards):
            if self.list.indexOf(card) != k:
                self.list.insertWidget(k, card)
            card.show()
        for card in spare:
            card.hide()
        self.cards, self._spare = cards, spare
        self._unfilled = list(cards)
        self._idle.start()

    def _card(self, finding: Finding, spare: list[FindingCard]) -> FindingCard:
        card = spare.pop() if spare else FindingCard(self.session, self.p)
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

    def show_subject(self, subject: str) -> None:
        """Brings the first finding about a subject into view."""
        for card in self.cards:
            if subject in card.finding.subjects:
                self.area.ensureWidgetVisible(card)
                card.setFocus()
                return

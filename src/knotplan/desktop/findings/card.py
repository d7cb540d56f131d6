"""One finding with its remedies: one click shows what would change, a second makes it.

Texts are painted and children placed by hand: with layouts and labels, a list of cards takes longer to lay
out after an edit than the whole analysis.
"""

from functools import lru_cache, partial

from PySide6.QtCore import QEvent, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QFont, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLineEdit, QPushButton, QWidget

from knotplan.core.check.finding import SAID, Finding
from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import Palette
from knotplan.core.plan import edits
from knotplan.core.plan.remedy import Remedy
from knotplan.desktop.findings.preview import PreviewBox
from knotplan.desktop.lettering import px
from knotplan.desktop.paint import colour, paint
from knotplan.desktop.panels.fields import button
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

PAD, INDENT, GAP = 10, 38, 5
"""at usual letters, pixels"""
WRAP = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop) | int(Qt.TextFlag.TextWordWrap)


def wrapped(text: str, metrics: QFontMetrics, room: int) -> str:
    """The text in as many lines as it needs; buttons do not wrap by themselves."""
    lines = [""]
    for word in text.split(" "):
        longer = f"{lines[-1]} {word}".strip()
        if metrics.horizontalAdvance(longer) <= room or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    return "\n".join(lines)


@lru_cache(1024)
def height_of(text: str, font_key: str, room: int) -> int:
    """Height of a text wrapped within a width; asked again and again for the same texts."""
    font = QFont()
    font.fromString(font_key)
    return QFontMetrics(font).boundingRect(QRect(0, 0, room, 4000), WRAP, text).height()


def explained(f: Finding) -> str:
    """Why a finding matters, its numbers beside their limits, and where they come from."""
    numbers = ["", *(n.words() for n in f.numbers)] if f.numbers else []
    return "\n".join([f.message, "", f.reason, *numbers, "", f"Source: {f.source}", f"Rule: {f.rule}"])


class FindingCard(QWidget):
    """One finding; the same card serves another finding later, which is much quicker than a new one."""

    resized = Signal()
    """what is on it needs another height"""

    def __init__(self, session: Session, palette: Palette, parent: QWidget):
        super().__init__(parent)
        self.session, self.p = session, palette
        self.finding: Finding
        self.remedies: tuple[Remedy, ...] = ()
        self.preview: PreviewBox | None = None
        self.reason: QLineEdit | None = None
        self.buttons: list[QPushButton] = []
        self._texts: list[tuple[QRect, str, bool]] = []
        """(place, text, whether it is the title)"""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._make_bold()
        self.withdraw_button = self._child(
            button("Take that back", "withdraw", "No longer live with this", self._withdraw, "quiet")
        )
        self.accept_button = self._child(
            button("Accept …", "accept", "Live with this, with a reason that is kept", self._ask, "quiet")
        )

    def _child(self, child: QPushButton) -> QPushButton:
        child.setParent(self)
        return child

    # --- what it shows ----------------------------------------------------------------------------

    def assign(self, finding: Finding) -> None:
        """Shows a finding; its remedies are filled in later."""
        self._clear_preview()
        if self.reason is not None:
            self.reason.deleteLater()
            self.reason = None
        self.finding = finding
        self.setAccessibleName(f"{SAID[finding.severity]}: {finding.title}")
        self.setAccessibleDescription(f"{finding.message} {finding.with_it_words}".strip())
        self.setToolTip(
            tip_text(
                f"{finding.reason}\nSource: {finding.source}\nRule: {finding.rule}\nF1 shows its numbers"
            )
        )
        self.withdraw_button.setVisible(bool(finding.accepted))
        self.accept_button.setVisible(not finding.accepted)
        self._show_remedies(())
        self.update()

    def fill(self) -> None:
        """Looks for the remedies, and shows them where they are not those shown."""
        if not self.finding.accepted and self.finding.remedies != self.remedies:
            self._show_remedies(self.finding.remedies)
            self.resized.emit()

    def _show_remedies(self, remedies: tuple[Remedy, ...]) -> None:
        self.remedies = remedies
        while len(self.buttons) < len(remedies):
            number = len(self.buttons)
            self.buttons.append(
                self._child(
                    button(
                        "",
                        "remedy",
                        "Shows what would change; a second click makes it",
                        partial(self._show_preview_of, number),
                        "remedy",
                    )
                )
            )
        for number, made in enumerate(self.buttons):
            made.setVisible(number < len(remedies))
            if number < len(remedies):
                made.setAccessibleName(remedies[number].title)

    def tab_stops(self) -> list[QWidget]:
        """The card, then what is on it, in the order of reading."""
        shown = self.buttons[: len(self.remedies)]
        return [self, *shown, self.withdraw_button if self.finding.accepted else self.accept_button]

    def arrange(self, width: int) -> int:
        """Places everything within a width; returns the height that it takes."""
        f, indent, pad, gap = self.finding, px(INDENT), px(PAD), px(GAP)
        room = width - indent - pad
        self._texts, y = [], pad
        for text, bold in (
            (f.title, True),
            (f.message, False),
            *([(f.with_it_words, False)] if f.with_it else []),
            *([(f"Accepted: {f.accepted}", False)] if f.accepted else []),
        ):
            tall = height_of(text, (self._bold if bold else self.font()).key(), room)
            self._texts.append((QRect(indent, y, room, tall), text, bold))
            y += tall + 3
        y += gap - 3
        if self.preview is not None:
            tall = self.preview.heightForWidth(room)
            self.preview.setGeometry(indent, y, room, tall)
            y += tall + gap
        y = self._place_buttons(y, room)
        if self.reason is not None:
            self.reason.setGeometry(indent, y, room, self.reason.sizeHint().height())
            y += self.reason.height() + gap
        return y + pad - gap

    def _place_buttons(self, y: int, room: int) -> int:
        """Remedies one below another; accepting beside the last where there is room."""
        indent, gap = px(INDENT), px(GAP)
        right, top = 0, y
        for made, remedy in zip(self.buttons, self.remedies, strict=False):
            text = wrapped(remedy.title, made.fontMetrics(), room - px(24))
            if text != made.text():
                made.setText(text)
            size = made.sizeHint()
            made.setGeometry(indent, y, size.width(), size.height())
            right, top = size.width() + 4, y
            y += size.height() + gap
        last = self.withdraw_button if self.finding.accepted else self.accept_button
        size = last.sizeHint()
        if right and right + size.width() <= room:
            last.setGeometry(indent + right, top, size.width(), y - gap - top)
            return y
        last.setGeometry(indent - 7, y, size.width(), size.height())
        return y + size.height() + gap

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
            focus = self.hasFocus()
            painter.setPen(QPen(colour(self.p.active if focus else self.p.edge), 2 if focus else 1))
            painter.setBrush(colour(self.p.card))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)
            paint(painter, severity(px(21), px(21), self.finding.severity, self.p, px(9)))
            for place, text, bold in self._texts:
                painter.setFont(self._bold if bold else self.font())
                painter.setPen(colour(self.p.ink if bold else self.p.faint))
                painter.drawText(place, WRAP, text)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.FontChange:
            self._make_bold()
            self.resized.emit()

    def _make_bold(self) -> None:
        self._bold = QFont(self.font())
        self._bold.setWeight(QFont.Weight.DemiBold)

    # --- choosing it --------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self.session.select_subject(self.finding.subjects[0])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.session.select_subject(self.finding.subjects[0])
        else:
            super().keyPressEvent(event)

    # --- remedies -------------------------------------------------------------------------------

    def _show_preview_of(self, number: int) -> None:
        """The remedy whose button was pressed, unless the plan has
        changed since and it is another one now."""
        meant = self.remedies[number]
        self.fill()
        if meant in self.remedies:
            self.show_preview(meant)

    def show_preview(self, remedy: Remedy) -> None:
        """Shows what would change, on the bench and in words; a second click on the same makes it."""
        if self.session.preview == remedy and self.preview is not None:
            self.session.make(remedy)
            return
        self._clear_preview()
        self.session.show_preview(remedy)
        after = self.session.preview_circuit()
        if after is None:  # it cannot be made (any more); why was said
            return
        make = partial(self.session.make, remedy)
        self.preview = PreviewBox(self, self.session.circuit, after, make, self._leave)
        self.preview.show()
        self.resized.emit()
        self.preview.make.setFocus()

    def _clear_preview(self) -> None:
        if self.preview is not None:
            self.preview.hide()
            self.preview.deleteLater()
            self.preview = None

    def _leave(self) -> None:
        self._clear_preview()
        self.session.show_preview(None)
        self.resized.emit()

    # --- accepting ------------------------------------------------------------------------------

    def _ask(self) -> None:
        if self.reason is None:
            self.reason = QLineEdit(self)
            self.reason.setObjectName("reason")
            self.reason.setAccessibleName("Why this is acceptable")
            self.reason.setPlaceholderText("why is this acceptable? then Enter")
            self.reason.returnPressed.connect(self._accept)
            self.reason.show()
            self.resized.emit()
        self.reason.setFocus()

    def _accept(self) -> None:
        f = self.finding
        assert self.reason is not None
        self.session.edit(
            f"accept {f.title.lower()}", edits.accept, f.rule, f.subjects, f.message, self.reason.text()
        )

    def _withdraw(self) -> None:
        f = self.finding
        self.session.edit("no longer accept", edits.withdraw, f.rule, f.subjects, f.message)

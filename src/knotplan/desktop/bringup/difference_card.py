"""One difference: what is otherwise, why most likely, where to look, and how the plan could follow."""

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QSizePolicy, QVBoxLayout

from knotplan.core.bringup.difference import Difference
from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import Palette
from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import Remedy
from knotplan.desktop import lettering
from knotplan.desktop.findings.card import wrapped
from knotplan.desktop.findings.preview import PreviewBox
from knotplan.desktop.lettering import paint, px
from knotplan.desktop.panels.fields import button, clear_layout, column_in, label, row
from knotplan.desktop.session import Session

SAID = {"differs": "Differs", "note": "Worth knowing"}
MARK = {"differs": "stop", "note": "note"}
INDENT = 30
MOST_STEPS = 3


class DifferenceCard(QFrame):
    """A click or Enter looks at what it is about."""

    looked = Signal(object)
    """at the difference, wherever that is"""
    step_wanted = Signal(str)
    """of a tie, in Wire-up"""
    line_wanted = Signal(object)
    """a spot in the program"""

    def __init__(self, session: Session, palette: Palette, difference: Difference):
        super().__init__()
        self.session, self.p, self.difference = session, palette, difference
        self.setProperty("kind", "finding")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        d = difference
        self.setAccessibleName(f"{SAID[d.gravity]}: {d.title}")
        self.setAccessibleDescription(d.message)
        down = column_in(self, 4)
        down.setContentsMargins(px(INDENT), 9, 10, 9)
        for text, tone in ((d.title, "strong"), (d.message, "")):
            said = label(text, tone)
            said.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
            down.addWidget(said)
        self._go(down)
        holder = QFrame(self)
        self.taking = column_in(holder, 4)
        self.remedies = [
            button(
                "",
                "takeOver",
                "Shows what would change in the plan; nothing is done yet",
                partial(self.show_preview, r),
                "remedy",
            )
            for r in d.remedies
        ]
        for made, remedy in zip(self.remedies, d.remedies, strict=True):
            made.setText(wrapped(remedy.title, made.fontMetrics(), px(232)))
            made.setAccessibleName(f"Take over: {remedy.title}")
            down.addWidget(made)
        down.addWidget(holder)

    def _go(self, down: QVBoxLayout) -> None:
        """Go there: the line of source, the steps of its cords."""
        d = self.difference
        there = []
        spot = d.spot
        if spot is not None and spot.line:
            there.append(
                button(
                    f"Line {spot.line}",
                    "goLine",
                    f"Shows {spot.words} in the program",
                    lambda: self.line_wanted.emit(spot),
                    "go",
                )
            )
        titles = self.session.circuit.titles
        ties = {t.id: t for t in self.session.circuit.plan.ties}
        mine = [t for t in d.look if t in ties][:MOST_STEPS]
        alike = len({split(ties[t].lead)[0] for t in mine}) == 1 and len(mine) > 1
        for tie in mine:
            name = titles.of(ties[tie].lead)
            there.append(
                button(
                    titles.own(ties[tie].lead) if alike else name,
                    "goStep",
                    f"Shows the step of {name} in Wire-up",
                    partial(self.step_wanted.emit, tie),
                    "go",
                )
            )
            there[-1].setAccessibleName(f"Step of {name}")
        if there:
            down.addWidget(row(label("Look at", "faint", wrap=False), *there))

    # --- the plan follows ---------------------------------------------------------------------------

    def show_preview(self, remedy: Remedy) -> None:
        """What would change, in words and on the bench; a second press on the same does it."""
        if self.session.preview == remedy and self.taking.count():
            self.session.make(remedy)
            return
        clear_layout(self.taking)
        self.session.show_preview(remedy)
        after = self.session.preview_circuit()
        if after is None:
            return
        box = PreviewBox(
            self, self.session.circuit, after, partial(self.session.make, remedy), self._leave, "Take over"
        )
        self.taking.addWidget(box)
        box.make.setFocus()

    def _leave(self) -> None:
        clear_layout(self.taking)
        self.session.show_preview(None)

    # --- looks and hands ----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        with QPainter(self) as painter:
            lettering.begin(painter)
            paint(painter, severity(16, 18, MARK[self.difference.gravity], self.p, 7))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self.looked.emit(self.difference)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.looked.emit(self.difference)
        else:
            super().keyPressEvent(event)

"""One step, large enough to be read from a metre. A click anywhere on it, or Space: done, next."""

from collections.abc import Sequence

from msgspec import Struct
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.palette import Palette
from knotplan.core.wiring.entries import CHANGED, Entry
from knotplan.core.wiring.slips import Slip
from knotplan.core.wiring.words import between
from knotplan.desktop import lettering
from knotplan.desktop.buses.pads import Pads
from knotplan.desktop.panels.fields import button, clear_layout, label, row
from knotplan.desktop.wire.close_up import CloseUp


class Shown(Struct, frozen=True):
    """What a sheet shows."""

    circuit: Circuit
    entry: Entry | None
    at: int = 0
    of: int = 0
    all_done: bool = False
    slips: tuple[Slip, ...] = ()
    barred: str = ""
    """why it cannot be done yet"""


class StepSheet(QFrame):
    """The sentence, where the hole is, the close-up, and what must not be hit."""

    done = Signal()
    back = Signal()
    left = Signal()
    """Escape"""

    def __init__(self, palette: Palette, *, on_bench: bool = False):
        super().__init__()
        self.p = palette
        self.roomy = True
        """there is room for what is not needed at once"""
        self.setObjectName("stepSheet")
        self.setProperty("bench", "true" if on_bench else "false")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The step")
        self.setToolTip("Click anywhere here, or press Space: done, next. Backspace: back")
        self.count = label("", "faint")
        self.do, self.where = label(""), label("")
        self.do.setObjectName("stepDo")
        self.where.setObjectName("stepWhere")
        self.warning = label("", "stop")
        self.moments = label("", "faint")
        self.moments.setObjectName("stepMoments")
        self.warning.setObjectName("stepWarning")
        self.close_up = CloseUp(palette)
        self.pads = QWidget()
        self.pads_in = QVBoxLayout(self.pads)
        self.next_button = button(
            "Done, next", "stepDone", "Done, and the next step (Space)", self.done.emit, "main"
        )
        self.back_button = button("Back", "stepBack", "The step before (Backspace)", self.back.emit)
        for made in (self.next_button, self.back_button):
            made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        down = QVBoxLayout(self)
        down.setContentsMargins(18, 12, 18, 12)
        down.setSpacing(8)
        down.addWidget(row(self.count, self.back_button, self.next_button, stretch=0))
        for widget in (self.do, self.where, self.warning, self.moments):
            down.addWidget(widget)
        down.addWidget(self.close_up, 1)
        down.addWidget(self.pads, 1)
        for text in (self.count, self.do, self.where, self.warning, self.moments):
            text.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)

    def set_palette(self, palette: Palette) -> None:
        self.p = self.close_up.p = palette
        self.update()

    def show_what(self, shown: Shown) -> None:
        """Another step, or the same in another state."""
        entry = shown.entry
        self.next_button.setEnabled(entry is not None and not shown.barred)
        if entry is None:
            self.count.setText("")
            self.do.setText("Nothing is planned yet.")
            self.where.setText("")
            self.moments.setText("")
            self._warn(())
            self.close_up.show_step(shown.circuit, None)
            self._show_pads(None)
            return
        state = {"done": ", done", "changed": ", changed since", "open": ""}[entry.mark]
        state = "" if entry.group == CHANGED else state
        all_done = ". Everything is wired as the plan has it" if shown.all_done else ""
        self.count.setText(f"{shown.at} of {shown.of}: {entry.group}{state}{all_done}")
        self.do.setText(entry.do)
        step = entry.step
        place = ""
        if step is not None and step.where is not None:
            beside = between(shown.circuit, step.where)
            place = f"{step.where.words}{f', {beside}' if beside else ''}"
            place = place[0].upper() + place[1:]
        self.moments.setText(step.moments if step is not None else "")
        self.moments.setVisible(self.roomy and bool(self.moments.text()))
        self.where.setText(place)
        self.where.setVisible(bool(place))
        self._warn(
            [shown.barred]
            if shown.barred
            else [
                f"Not into {shown.circuit.titles.full(s.contact)}: {s.title.lower()}. {s.why}"
                for s in shown.slips
            ]
        )
        self.setAccessibleDescription(f"{entry.do}. {place}. {self.warning.text()}")
        harm = tuple(s.contact for s in shown.slips)
        self.close_up.show_step(shown.circuit, step, harm)
        self._show_pads(shown)

    def _warn(self, lines: Sequence[str]) -> None:
        self.warning.setText("\n".join(lines))
        self.warning.setVisible(bool(self.warning.text()))

    def _show_pads(self, shown: Shown | None) -> None:
        """The pads of a part as they lie on it, where it has some."""
        clear_layout(self.pads_in)
        entry = shown.entry if shown else None
        part = entry.step.part if entry and entry.step and entry.step.stage == "by hand" else ""
        facts = shown.circuit.parts[part].facts.i2c if shown and part in shown.circuit.parts else None
        if shown is not None and facts is not None and facts.pads:
            pads = Pads(shown.circuit, part, facts, self.p)
            pads.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            pads.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            lettering.fix(pads, height=200)
            self.pads_in.addWidget(pads)
        self.pads.setVisible(bool(self.pads_in.count()))
        self.close_up.setVisible(not self.pads_in.count())

    # --- hands ----------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        match event.key():
            case Qt.Key.Key_Space if self.next_button.isEnabled():
                self.done.emit()
            case Qt.Key.Key_Backspace:
                self.back.emit()
            case Qt.Key.Key_Escape:
                self.left.emit()
            case _:
                super().keyPressEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.rect().contains(event.position().toPoint()):
            if self.next_button.isEnabled():
                self.done.emit()
            return
        super().mouseReleaseEvent(event)

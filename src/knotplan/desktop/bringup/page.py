"""What the pages of Bring-up have in common: how their source comes in, and where it came from."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFileDialog, QStackedWidget, QVBoxLayout, QWidget

from knotplan.core.bringup.difference import Difference
from knotplan.core.bringup.held import Held
from knotplan.core.drawing.palette import Palette
from knotplan.desktop import lettering
from knotplan.desktop.bringup.evidence import Evidence, Kind
from knotplan.desktop.dialogs import ErrorDialog, run
from knotplan.desktop.panels.fields import button, column_in, label, row
from knotplan.desktop.session import Session
from knotplan.exchange.problems import FileProblemsError

T = TypeVar("T")


class SourcePage(QWidget):
    """One kind of what comes in."""

    kind: Kind
    title: str
    empty: str
    """how it is got, while nothing has come in"""
    not_compared: str
    """why nothing of what has come in could be held against the plan"""
    noticed = Signal(str)

    def __init__(self, session: Session, palette: Palette, evidence: Evidence):
        super().__init__()
        self.session, self.p, self.evidence = session, palette, evidence
        self.setAccessibleName(self.title)
        self.origin = label("", "faint", wrap=False)
        self.forget = button("Forget", "forget", "As if nothing had come in", self._forget, "quiet")
        down = column_in(self, 8)
        down.addWidget(row(*self.ways_in(), self.forget, self.origin))
        self.stack = QStackedWidget()
        nothing = QWidget()
        middle = QVBoxLayout(nothing)
        middle.setContentsMargins(0, lettering.px(26), lettering.px(60), 0)
        self.how = label(self.empty, "faint")
        self.how.setAlignment(Qt.AlignmentFlag.AlignLeft)
        middle.addWidget(self.how)
        middle.addStretch(1)
        self.stack.addWidget(nothing)
        self.contents = QWidget()
        self.stack.addWidget(self.contents)
        down.addWidget(self.stack, 1)
        self.compose(column_in(self.contents, 8))

    # --- what each page has of its own ------------------------------------------------------------------

    def ways_in(self) -> Sequence[QWidget]:
        """The buttons by which it comes in."""
        raise NotImplementedError

    def compose(self, down: QVBoxLayout) -> None:
        """Makes what is shown once something has come in."""
        raise NotImplementedError

    def fill(self, held: Held | None) -> None:
        """Shows what has come in, beside the plan."""
        raise NotImplementedError

    def has(self) -> bool:
        """Something has come in."""
        return self.kind in self.evidence.origin

    def differences(self, held: Held) -> tuple[Difference, ...]:
        """Those of this kind."""
        raise NotImplementedError

    def look_at(self, difference: Difference) -> None:
        """Brings what a difference is about into sight."""

    def set_palette(self, palette: Palette) -> None:
        self.p = palette

    # --- the same for all ---------------------------------------------------------------------------

    def show_held(self, held: Held | None) -> None:
        has = self.has()
        self.stack.setCurrentIndex(int(has))
        self.forget.setVisible(has)
        self.origin.setText(f"from {self.evidence.origin[self.kind]}" if has else "")
        if has:
            self.fill(held)

    def _forget(self) -> None:
        self.evidence.clear(self.kind)

    def paths(self, what: str, pattern: str) -> list[Path]:
        """Files that the maker chooses."""
        names, _ = QFileDialog.getOpenFileNames(self, what, "", pattern)
        return [Path(name) for name in names]

    def read(self, name: str, load: Callable[[], T]) -> T | None:
        """What a file holds; what is wrong with it is shown, and what was there stays."""
        try:
            return load()
        except (FileProblemsError, OSError) as error:
            run(ErrorDialog(name, error, self))
        return None

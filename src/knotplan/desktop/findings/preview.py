"""What a remedy would change, with the buttons that make it or leave it."""

from collections.abc import Callable

from PySide6.QtWidgets import QFrame, QPushButton, QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.text.changes import changes
from knotplan.desktop.panels.fields import button, column_in, label, row

UNDONE = "Does it; undo takes it back (Ctrl+Z)"


class PreviewBox(QFrame):
    """The changes in words; `make` is the button that makes them."""

    def __init__(
        self,
        parent: QWidget,
        before: Circuit,
        after: Circuit,
        make: Callable[[], object],
        leave: Callable[[], object],
        words: str = "Make this change",
    ):
        super().__init__(parent)
        self.setProperty("kind", "preview")
        down = column_in(self, 6)
        down.setContentsMargins(8, 6, 8, 6)
        for text in changes(before, after):
            down.addWidget(label(f"• {text}"))
        self.make: QPushButton = button(words, "make", UNDONE, make, "main")
        down.addWidget(row(self.make, button("Leave it", "leave", "Changes nothing", leave, "quiet")))

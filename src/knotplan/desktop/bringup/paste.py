"""Text from a terminal, pasted: read at once, and what cannot be read is said beside it."""

from collections.abc import Callable
from typing import Any, TypeVar

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QPlainTextEdit, QVBoxLayout, QWidget

from knotplan.desktop.dialogs import run
from knotplan.desktop.panels.fields import label
from knotplan.exchange.problems import FileProblemsError

T = TypeVar("T")


class PasteDialog(QDialog):
    """Stays open until its text can be read, or it is given up."""

    def __init__(self, title: str, hint: str, read: Callable[[str], object], parent: QWidget | None = None):
        super().__init__(parent)
        self.setWindowTitle(title)
        self.resize(720, 460)
        self.read = read
        self.taken: Any = None
        down = QVBoxLayout(self)
        down.addWidget(label(title, "head"))
        down.addWidget(label(hint, "faint"))
        self.text = QPlainTextEdit()
        self.text.setObjectName("pasted")
        self.text.setAccessibleName("The text from the terminal")
        self.text.setProperty("kind", "code")
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        down.addWidget(self.text, 1)
        self.why = label("", "stop")
        self.why.hide()
        down.addWidget(self.why)
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        box.button(QDialogButtonBox.StandardButton.Ok).setText("Compare")
        box.accepted.connect(self.take)
        box.rejected.connect(self.reject)
        down.addWidget(box)
        held = QGuiApplication.clipboard().text()
        if held and self._readable(held):
            self.text.setPlainText(held)

    def _readable(self, text: str) -> bool:
        try:
            self.read(text)
        except FileProblemsError:
            return False
        return True

    def take(self) -> None:
        """Reads what stands there."""
        try:
            self.taken = self.read(self.text.toPlainText())
        except FileProblemsError as error:
            self.why.setText(str(error))
            self.why.show()
            return
        self.accept()


def pasted(title: str, hint: str, read: Callable[[str], T], parent: QWidget) -> T | None:
    """What was pasted, read; nothing where it was given up."""
    dialog = PasteDialog(title, hint, read, parent)
    taken: T | None = dialog.taken if run(dialog) else None
    return taken

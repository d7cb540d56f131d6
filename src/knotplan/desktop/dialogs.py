"""The few questions that need a dialog."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QLabel,
    QMessageBox,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from knotplan.desktop.panels.fields import label
from knotplan.exchange.problems import FileProblemsError


class ErrorDialog(QDialog):
    """Everything wrong with a file, each with its place; what was open stays open."""

    def __init__(self, name: str, error: FileProblemsError | OSError, parent: QWidget | None = None):
        super().__init__(parent)
        self.setWindowTitle("This file cannot be opened")
        self.setMinimumSize(620, 320)
        down = QVBoxLayout(self)
        down.addWidget(label(f"{name} cannot be opened", "head"))
        down.addWidget(label("What you had open is as it was.", "faint"))
        if isinstance(error, FileProblemsError):
            text = "\n".join(f"{place}: {why}" if place else why for place, why in error.errors)
        else:
            text = error.strerror or str(error)
        self.text = QPlainTextEdit(text)
        self.text.setReadOnly(True)
        self.text.setAccessibleName("What is wrong, and where")
        down.addWidget(self.text, 1)
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        box.rejected.connect(self.reject)
        down.addWidget(box)


class TextDialog(QDialog):
    """Something to read."""

    def __init__(self, title: str, text: str, parent: QWidget | None = None):
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(520)
        down = QVBoxLayout(self)
        down.addWidget(label(title, "head"))
        body = QLabel(text)
        body.setWordWrap(True)
        body.setTextFormat(Qt.TextFormat.PlainText)
        body.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        down.addWidget(body)
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        box.rejected.connect(self.reject)
        down.addWidget(box)


def ask_save(name: str, parent: QWidget) -> str:
    """ "save", "discard" or "cancel" for work that no file holds."""
    box = QMessageBox(parent)
    box.setWindowTitle("Knot Plan")
    box.setText(f"“{name}” has changes that are not saved.")
    save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
    away = box.addButton("Leave them", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    return "save" if box.clickedButton() is save else "discard" if box.clickedButton() is away else "cancel"


def ask_recover(work: str, parent: QWidget) -> bool:
    """Whether to take up work that a crash left behind; closing the question takes it up, so that nothing is lost."""
    box = QMessageBox(parent)
    box.setWindowTitle("Knot Plan")
    box.setText("Work was left behind when Knot Plan ended without being closed:")
    box.setInformativeText(work)
    yes = box.addButton("Take it up", QMessageBox.ButtonRole.AcceptRole)
    away = box.addButton("Let it go", QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(yes)
    box.setEscapeButton(yes)
    box.exec()
    return box.clickedButton() is not away

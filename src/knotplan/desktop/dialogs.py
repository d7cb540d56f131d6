"""The few questions that need a dialog."""

from typing import TypeVar

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

from knotplan.core.quantity.written import counted
from knotplan.desktop import lettering
from knotplan.desktop.panels.fields import label
from knotplan.exchange.plan_file import PlanFileError, Rest
from knotplan.exchange.problems import FileProblemsError


class ErrorDialog(QDialog):
    """Everything wrong with a file, each with its place; what was open stays open. Where what is left has
    a clear meaning, it can be opened without what is wrong: `without` says that this was chosen."""

    def __init__(self, name: str, error: FileProblemsError | OSError, parent: QWidget | None = None):
        super().__init__(parent)
        self.setWindowTitle("This file cannot be opened")
        self.setMinimumSize(620, 320)
        self.without = False
        down = QVBoxLayout(self)
        down.addWidget(label(f"{name} cannot be opened as it is", "head"))
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
        rest = error.rest if isinstance(error, PlanFileError) else None
        if rest is not None:
            down.addWidget(label(left_of(rest), "faint"))
            self.without_button = box.addButton("Open without these", QDialogButtonBox.ButtonRole.AcceptRole)
            self.without_button.setToolTip("Opens what is left; the file as it is now is kept beside it")
            box.accepted.connect(self._take)
        down.addWidget(box)

    def _take(self) -> None:
        self.without = True
        self.accept()


def left_of(rest: Rest) -> str:
    """What could be opened without what is wrong, and what would be lost."""
    plan = rest.plan
    lost = ", ".join(rest.lost[:6]) + (f" and {len(rest.lost) - 6} more" if len(rest.lost) > 6 else "")
    return (
        f"Without these, {counted(len(plan.parts), 'part')} and {counted(len(plan.ties), 'tie')} are left. "
        f"Left out would be: {lost or 'nothing that the plan shows'}."
    )


class TextDialog(QDialog):
    """Something to read."""

    def __init__(self, title: str, text: str, parent: QWidget | None = None):
        super().__init__(parent)
        self.setWindowTitle(title)
        lettering.fix(self, least_width=520)
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


T = TypeVar("T", bound=str)


def run(dialog: QDialog) -> int:
    """Shows a dialog until it is answered. It goes afterwards, once its answer has been read: a dialog
    whose parent is the window would stay as long as the window, with all that it shows."""
    try:
        return dialog.exec()
    finally:
        dialog.deleteLater()


def ask(parent: QWidget, text: str, more: str, answers: dict[T, str], otherwise: T) -> T:
    """One question with a button for each answer; closing it is `otherwise`. What a file
    or plan says is shown as plain text."""
    box = QMessageBox(parent)
    box.setWindowTitle("Knot Plan")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(text)
    box.setInformativeText(more)
    for part in box.findChildren(QLabel):
        part.setTextFormat(Qt.TextFormat.PlainText)  # the second text has no setting of its own
        if len(part.text()) > WIDE_FROM:
            lettering.fix(part, least_width=WIDE)
    buttons = {
        box.addButton(words, ROLES.get(key, QMessageBox.ButtonRole.ActionRole)): key
        for key, words in answers.items()
    }
    for made, key in buttons.items():
        if key == otherwise:
            box.setEscapeButton(made)
        if key == next(iter(answers)):
            box.setDefaultButton(made)
    run(box)
    chosen = box.clickedButton()
    return next((key for made, key in buttons.items() if made is chosen), otherwise)


WIDE_FROM, WIDE = 80, 430
"""letters from which a text of a question is given so much room, pixels"""
ROLES: dict[str, QMessageBox.ButtonRole] = {
    "save": QMessageBox.ButtonRole.AcceptRole,
    "discard": QMessageBox.ButtonRole.DestructiveRole,
    "cancel": QMessageBox.ButtonRole.RejectRole,
    "leave": QMessageBox.ButtonRole.RejectRole,
}


def may(parent: QWidget, question: str, yes: str = "Yes", no: str = "No") -> bool:
    """A question that is answered by yes or no; closing it is no."""
    return ask(parent, question, "", {"no": no, "yes": yes}, "no") == "yes"


def ask_save(name: str, parent: QWidget) -> str:
    """ "save", "discard" or "cancel" for work that no file holds."""
    answers = {"save": "Save", "discard": "Leave them", "cancel": "Stay here"}
    return ask(parent, f"“{name}” has changes that are not saved.", "", answers, "cancel")

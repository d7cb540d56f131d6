"""A dialect, to be read, corrected and kept: what each call of a library means."""

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLineEdit, QPlainTextEdit, QVBoxLayout, QWidget

from knotplan.core.bringup.program.dialect import Dialect
from knotplan.core.plan.ids import slug
from knotplan.desktop.dialogs import run
from knotplan.desktop.panels.fields import form, label, tick
from knotplan.exchange.files import write_atomically
from knotplan.exchange.source import dialect_file
from knotplan.exchange.source.dialect_file import DialectError


class DialectDialog(QDialog):
    """The file as it is kept (TOML); what is wrong with it is said, and it stays open."""

    def __init__(self, dialect: Dialect, parent: QWidget | None = None):
        super().__init__(parent)
        self.setWindowTitle("A dialect for this program")
        self.resize(720, 560)
        self.taken: Dialect | None = None
        down = QVBoxLayout(self)
        down.addWidget(label("What the calls of this program mean", "head"))
        down.addWidget(
            label(
                "Proposed from the source: calls whose arguments are pins of the plan again and again. "
                "Correct it where it is wrong; under [words] stands which words mean output, input, pull-up.",
                "faint",
            )
        )
        fields = form()
        self.name = QLineEdit(dialect.title)
        self.name.setAccessibleName("Name of the dialect")
        fields.addRow("Name", self.name)
        down.addLayout(fields)
        self.text = QPlainTextEdit(dialect_file.dumps(dialect))
        self.text.setObjectName("dialect")
        self.text.setAccessibleName("The dialect, as its file has it")
        self.text.setProperty("kind", "code")
        down.addWidget(self.text, 1)
        self.keep = tick(
            "Keep it for other programs",
            "keepDialect",
            f"Writes it into {dialect_file.own_folder()}, where every program is compared with it",
            False,
            lambda _: None,
        )
        down.addWidget(self.keep)
        self.why = label("", "stop")
        self.why.hide()
        down.addWidget(self.why)
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        box.button(QDialogButtonBox.StandardButton.Ok).setText("Use it")
        box.accepted.connect(self.take)
        box.rejected.connect(self.reject)
        down.addWidget(box)

    def take(self) -> None:
        """Reads what stands there, and keeps it if that is wanted."""
        name = slug(self.name.text() or "dialect", set())
        text = self.text.toPlainText()
        try:
            self.taken = dialect_file.loads(text, name)
            if self.keep.isChecked():
                folder = dialect_file.own_folder()
                folder.mkdir(parents=True, exist_ok=True)
                path = folder / f"{name}.toml"
                if path.exists():
                    raise DialectError(path.name, [("", "is there already: give this one another name")])
                write_atomically(path, text.encode())
        except (DialectError, OSError) as error:
            self.why.setText(str(error))
            self.why.show()
            return
        self.accept()


def ask_dialect(dialect: Dialect, parent: QWidget) -> Dialect | None:
    """The dialect as the maker wants it; nothing where it was given up."""
    dialog = DialectDialog(dialect, parent)
    return dialog.taken if run(dialog) else None

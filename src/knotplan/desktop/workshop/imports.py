"""Beginnings of a board: a table whose columns are told, the lines of a Linux machine."""

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.bringup.said import LineState
from knotplan.core.draft.board import BoardDraft
from knotplan.core.quantity.written import counted
from knotplan.desktop.cells import CellsTable, give_column
from knotplan.desktop.dialogs import ErrorDialog, run
from knotplan.desktop.panels.fields import Picked, button, label, row
from knotplan.exchange import board_csv, gpio_lines
from knotplan.exchange.board_csv import ARRANGEMENTS, SKIP, Table
from knotplan.exchange.gpio_lines import GpioError

MEANINGS = (
    ("printed", "printed name"),
    ("position", "position"),
    ("functions", "functions"),
    ("kind", "kind"),
    ("power_on", "at power-on"),
    ("rail", "rail"),
    ("note", "note"),
    (SKIP, "leave out"),
)
VOLTS = (("5 V", 5.0), ("3.3 V", 3.3), ("3 V", 3.0), ("1.8 V", 1.8))
SHOWN = 200


class TableDialog(QDialog):
    """What each column of a table means: guessed first, then as the maker says."""

    def __init__(self, table: Table, parent: QWidget | None = None):
        super().__init__(parent)
        self.table = table
        self.setWindowTitle("A board from a table")
        self.resize(900, 560)
        down = QVBoxLayout(self)
        down.addWidget(
            label(f"{table.name}: {counted(len(table.rows), 'pin')}. What does each column say?", "head")
        )
        down.addWidget(label("Columns that name the pins become name schemes under their headings.", "faint"))
        self.grid = CellsTable(min(len(table.rows), SHOWN) + 1, len(table.headings))
        self.grid.setHorizontalHeaderLabels(table.headings)
        self.grid.setAccessibleName("The table, and above each column what it means")
        self.grid.setEditTriggers(CellsTable.EditTrigger.NoEditTriggers)  # it shows what the file says
        self.grid.verticalHeader().hide()
        guessed = board_csv.guessed(table)
        self.choices = [self._choice(k, heading, guessed[k]) for k, heading in enumerate(table.headings)]
        for r, cells in enumerate(table.rows[:SHOWN], 1):
            for k, cell in enumerate(cells):
                self.grid.setItem(r, k, QTableWidgetItem(cell))
        down.addWidget(self.grid, 1)
        self.arrangement = QComboBox()
        self.arrangement.setAccessibleName("How the pins lie")
        for key, text in ARRANGEMENTS.items():
            self.arrangement.addItem(text, key)
        self.volts = QComboBox()
        self.volts.setAccessibleName("Logic voltage")
        for text, value in VOLTS:
            self.volts.addItem(text, value)
        self.volts.setCurrentIndex(1)
        across = QHBoxLayout()
        for text, field in (("The pins lie in", self.arrangement), ("logic", self.volts)):
            across.addWidget(label(text, "faint", wrap=False))
            across.addWidget(field)
        across.addStretch(1)
        down.addLayout(across)
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        box.button(QDialogButtonBox.StandardButton.Ok).setText("To the workshop")
        box.accepted.connect(self.accept)
        box.rejected.connect(self.reject)
        down.addWidget(box)

    def _choice(self, column: int, heading: str, meant: str) -> QComboBox:
        combo = Picked()
        combo.setAccessibleName(f"Meaning of {heading}")
        combo.addItem(f"names: {heading}", f"scheme:{heading}")
        for key, text in MEANINGS:
            combo.addItem(text, key)
        combo.setCurrentIndex(max(0, combo.findData(meant)))
        self.grid.setCellWidget(0, column, combo)
        give_column(self.grid, column, 140)
        return combo

    def draft(self) -> BoardDraft:
        meanings = tuple(str(c.currentData()) for c in self.choices)
        return board_csv.draft(
            self.table, meanings, self.arrangement.currentData(), float(self.volts.currentData())
        )


class LinesDialog(QDialog):
    """A GPIO device of this machine, or the saved listing of another."""

    def __init__(self, parent: QWidget | None = None, chips: list[Path] | None = None):
        super().__init__(parent)
        self.lines: list[LineState] = []
        self.setWindowTitle("A board from GPIO lines")
        self.resize(640, 480)
        down = QVBoxLayout(self)
        down.addWidget(label("Whose lines are they?", "head"))
        down.addWidget(
            label(
                "Names and numbers of the lines are a beginning: put them in the order of the header "
                "afterwards. Nothing is switched by looking.",
                "faint",
            )
        )
        found = gpio_lines.chips() if chips is None else chips
        devices = [
            button(p.name, f"read-{p.name}", f"Read the lines of {p}", partial(self.read, p))
            for p in found[:6]
        ]
        down.addWidget(row(*devices) if devices else label("This machine has no GPIO device.", "faint"))
        down.addWidget(
            row(
                button(
                    "Open a saved listing …",
                    "openListing",
                    "What gpioinfo printed on the other machine",
                    self.open_listing,
                )
            )
        )
        self.found = QListWidget()
        self.found.setAccessibleName("Lines")
        down.addWidget(self.found, 1)
        self.box = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        self.box.button(QDialogButtonBox.StandardButton.Ok).setText("To the workshop")
        self.box.accepted.connect(self.accept)
        self.box.rejected.connect(self.reject)
        down.addWidget(self.box)
        self._show([])

    def _show(self, lines: list[LineState]) -> None:
        self.lines = lines
        self.found.clear()
        for one in lines:
            used = f"   in use: {one.used_by}" if one.used_by else ""
            self.found.addItem(f"{one.chip} {one.offset}   {one.name or 'unnamed'}{used}")
        self.box.button(QDialogButtonBox.StandardButton.Ok).setEnabled(bool(lines))

    def read(self, path: Path) -> None:
        try:
            self._show(gpio_lines.read_chip(path))
        except GpioError as error:
            run(ErrorDialog(path.name, error, self))

    def open_listing(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a saved listing", "", "Text (*.txt);;All files (*)")
        if name:
            self.load(Path(name))

    def load(self, path: Path) -> None:
        """A saved listing; what is wrong with it is said line by line."""
        try:
            self._show(gpio_lines.load(path))
        except (GpioError, OSError) as error:
            run(ErrorDialog(path.name, error, self))

    def draft(self) -> BoardDraft:
        return gpio_lines.draft(self.lines)

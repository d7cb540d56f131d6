"""Beginnings of a board: a table whose columns are told, the lines of a Linux machine."""

from collections.abc import Iterable
from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QSpinBox,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.bringup.said import LineState
from knotplan.core.draft.board import BoardDraft
from knotplan.core.quantity.written import counted
from knotplan.desktop.cells import CellsTable, give_column
from knotplan.desktop.dialogs import ErrorDialog, run
from knotplan.desktop.lettering import px
from knotplan.desktop.panels.fields import AROUND, Picked, button, label, row, with_margins
from knotplan.desktop.tips import tip_text
from knotplan.exchange import board_csv, gpio_lines
from knotplan.exchange.board_csv import ARRANGEMENTS, SKIP
from knotplan.exchange.decoding import ENCODINGS
from knotplan.exchange.gpio_lines import GpioError
from knotplan.exchange.table import read
from knotplan.exchange.table.cells import SIGNS
from knotplan.exchange.table.heads import MOST_HEADS
from knotplan.exchange.table.table import Table, Taken

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
    """What a table is taken for, and what each of its columns means: guessed first, then as the maker
    says."""

    def __init__(self, data: bytes, taken: Taken, name: str, parent: QWidget | None = None):
        super().__init__(parent)
        self.data, self.taken, self.name = data, taken, name
        self.table = Table(name, (), ())
        self.choices: list[QComboBox] = []
        self.setWindowTitle("A board from a table")
        self.resize(940, 620)
        down = QVBoxLayout(self)
        self.head = label("", "head")
        down.addWidget(self.head)
        down.addWidget(self._taken_for())
        self.why = label("", "stop")
        down.addWidget(self.why)
        down.addWidget(label("Columns that name the pins become name schemes under their headings.", "faint"))
        self.grid = CellsTable(1, 1)
        self.grid.setAccessibleName("The table, and above each column what it means")
        self.grid.setEditTriggers(CellsTable.EditTrigger.NoEditTriggers)  # it shows what the file says
        self.grid.verticalHeader().hide()
        down.addWidget(self.grid, 1)
        self.arrangement = _combo("How the pins lie", ARRANGEMENTS.items())
        self.volts = _combo("Logic voltage", ((value, text) for text, value in VOLTS))
        self.volts.setCurrentIndex(1)
        across = QHBoxLayout()
        for text, field in (("The pins lie in", self.arrangement), ("logic", self.volts)):
            across.addWidget(label(text, "faint", wrap=False))
            across.addWidget(field)
        across.addStretch(1)
        down.addLayout(across)
        self.box = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        self.box.button(QDialogButtonBox.StandardButton.Ok).setText("To the workshop")
        self.box.accepted.connect(self.accept)
        self.box.rejected.connect(self.reject)
        down.addWidget(self.box)
        self._show()

    def _taken_for(self) -> QWidget:
        """Fields that say how the file was understood."""
        self.encoding = _combo("Letters of the file", ENCODINGS.items(), self.taken.encoding)
        self.sign = _combo("What parts the cells", SIGNS.items(), self.taken.sign)
        self.heading = with_margins(QSpinBox())
        self.heading.setRange(0, MOST_HEADS)
        self.heading.setSpecialValueText("none")
        self.heading.setValue(self.taken.head)
        self.heading.setAccessibleName("Row of the headings")
        self.heading.setToolTip(tip_text("The row in which the headings stand; titles above it are left out"))
        self.deep = QCheckBox("of two rows")
        self.deep.setChecked(self.taken.deep > 1)
        self.deep.setToolTip(tip_text("A heading above stands for several columns each"))
        self.sides = QCheckBox("two sides beside each other")
        self.sides.setChecked(self.taken.two_sided)
        self.sides.setToolTip(tip_text("The left half is one side of the board, the right half the other"))
        self.encoding.currentIndexChanged.connect(lambda _: self._look_again())
        self.sign.currentIndexChanged.connect(lambda _: self._look_again())
        self.heading.valueChanged.connect(lambda n: self._take(head=n))
        self.deep.toggled.connect(lambda on: self._take(deep=2 if on else 1))
        self.sides.toggled.connect(lambda on: self._take(two_sided=on))
        return row(
            label("Letters", "faint", wrap=False), self.encoding,
            label("cells parted by a", "faint", wrap=False), self.sign,
            label("headings in row", "faint", wrap=False), self.heading, self.deep, self.sides,
        )  # fmt: skip

    def _look_again(self) -> None:
        """With other letters or another sign the rest is guessed anew, and its fields follow."""
        encoding, sign = str(self.encoding.currentData()), str(self.sign.currentData())
        try:
            found = read.understood(self.data, self.name, board_csv.KNOWN, encoding, sign)
        except board_csv.TableError:
            found = replace(self.taken, encoding=encoding, sign=sign)  # what is wrong is told below
        for field in (self.heading, self.deep, self.sides):
            field.blockSignals(True)
        self.heading.setValue(found.head)
        self.deep.setChecked(found.deep > 1)
        self.sides.setChecked(found.two_sided)
        for field in (self.heading, self.deep, self.sides):
            field.blockSignals(False)
        self.taken = found
        self._show()

    def _take(self, **change: object) -> None:
        self.taken = replace(self.taken, **change)
        self._show()

    def _show(self) -> None:
        """The table as it is taken; where it cannot be, what is wrong, and the table as it was."""
        try:
            self.table = read.table(self.data, self.taken, self.name)
        except board_csv.TableError as error:
            self.why.setText("; ".join(": ".join(filter(None, pair)) for pair in error.errors[:3]))
            self.why.show()
            self.box.button(QDialogButtonBox.StandardButton.Ok).setEnabled(False)
            return
        self.why.setText("")
        self.why.hide()
        self.box.button(QDialogButtonBox.StandardButton.Ok).setEnabled(True)
        table = self.table
        self.head.setText(f"{table.name}: {counted(len(table.rows), 'pin')}. What does each column say?")
        self.grid.clear()
        self.grid.setRowCount(min(len(table.rows), SHOWN) + 1)
        self.grid.setColumnCount(len(table.headings))
        self.grid.setHorizontalHeaderLabels(table.headings)
        guessed = board_csv.guessed(table)
        self.choices = [self._choice(k, heading, guessed[k]) for k, heading in enumerate(table.headings)]
        for r, cells in enumerate(table.rows[:SHOWN], 1):
            for k, cell in enumerate(cells):
                self.grid.setItem(r, k, QTableWidgetItem(cell))

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


def _combo(name: str, choices: Iterable[tuple[object, str]], chosen: object = None) -> Picked:
    combo = Picked()
    combo.setAccessibleName(name)
    combo.setToolTip(tip_text(name))
    for key, text in choices:
        combo.addItem(text, key)
    combo.setCurrentIndex(max(0, combo.findData(chosen)))
    widest = max(combo.fontMetrics().horizontalAdvance(combo.itemText(k)) for k in range(combo.count()))
    combo.setMinimumWidth(widest + px(AROUND) + 1)
    return combo


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
                ),
                button(
                    "Paste a listing",
                    "pasteListing",
                    "What gpioinfo printed in a terminal, prompts and all",
                    self.paste,
                ),
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

    def paste(self) -> None:
        """What was copied from a terminal."""
        try:
            self._show(gpio_lines.parse(QGuiApplication.clipboard().text(), "what was pasted"))
        except GpioError as error:
            run(ErrorDialog("what was pasted", error, self))

    def load(self, path: Path) -> None:
        """A saved listing; what is wrong with it is said line by line."""
        try:
            self._show(gpio_lines.load(path))
        except (GpioError, OSError) as error:
            run(ErrorDialog(path.name, error, self))

    def draft(self) -> BoardDraft:
        return gpio_lines.draft(self.lines)

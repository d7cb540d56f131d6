"""What a table of a capture is taken for, before it is read: which column is the time, and in which unit."""

from pathlib import Path

from msgspec.structs import replace
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from knotplan.desktop.dialogs import run
from knotplan.desktop.panels.fields import QuantityField, choice, form, label, with_margins
from knotplan.desktop.tips import tip_text
from knotplan.exchange.bench import wave_csv
from knotplan.exchange.bench.wave_csv import SIGNS, UNITS, Understood
from knotplan.exchange.table.cells import SIGNS as PLAIN_SIGNS

SIGN_WORDS = {**PLAIN_SIGNS, " ": "space"}
NO_TIME = "-1"


class TableDialog(QDialog):
    """Guessed first; what is changed is shown at once."""

    def __init__(self, name: str, text: str, how: Understood, parent: QWidget | None = None):
        super().__init__(parent)
        self.setWindowTitle("A capture from a table")
        self.resize(760, 480)
        self.text, self.how = text, how
        down = QVBoxLayout(self)
        down.addWidget(label(f"{name}: what does each column say?", "head"))
        fields = form()
        signs = [(s, SIGN_WORDS[s]) for s in SIGNS]
        self.sign = choice("sign", "What stands between two cells", signs, how.sign, self._by_sign)
        fields.addRow("Cells are parted by a", self.sign)
        self.head = with_margins(QSpinBox())
        self.head.setRange(0, 100)
        self.head.setValue(how.head)
        self.head.setAccessibleName("Rows of heading")
        self.head.setToolTip(tip_text("Rows before the first numbers"))
        self.head.valueChanged.connect(lambda n: self._set(head=n))
        fields.addRow("Rows of heading", self.head)
        self.time = choice("timeColumn", "Which column is the time", (), "", lambda k: self._set(time=int(k)))
        fields.addRow("Time is in", self.time)
        units = [(u, u) for u in ("s", "ms", "µs", "ns")]
        unit = next((u for u, _ in units if UNITS[u] == how.unit_s), "s")
        self.unit = choice("unit", "The unit of the time", units, unit, lambda u: self._set(unit_s=UNITS[u]))
        fields.addRow("its unit is", self.unit)
        self.step = QuantityField(
            "step", "The time from one row to the next", how.step_s, "s", lambda s: self._set(step_s=s), 1e-12
        )
        fields.addRow("or from row to row", self.step)
        down.addLayout(fields)
        self.table = QTableWidget()
        self.table.setAccessibleName("The first rows, as they are understood")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        down.addWidget(self.table, 1)
        self.why = label("", "stop")
        down.addWidget(self.why)
        self.box = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        self.box.button(QDialogButtonBox.StandardButton.Ok).setText("Read it so")
        self.box.accepted.connect(self.accept)
        self.box.rejected.connect(self.reject)
        down.addWidget(self.box)
        self._show()

    def _by_sign(self, sign: str) -> None:
        try:
            self.how = wave_csv.understood(self.text, signs=(sign,))
        except wave_csv.CsvError:
            self.why.setText(f"No row has numbers that are parted by a {SIGN_WORDS[sign]}.")
            self.sign.setCurrentIndex(self.sign.findData(self.how.sign))
            return
        self.why.setText("")
        self.head.setValue(self.how.head)
        self._show()

    def _set(self, **change: float) -> None:
        self.how = replace(self.how, **change)
        self._show()

    def _show(self) -> None:
        how = self.how
        self.time.clear()
        for k, name in enumerate(how.names):
            self.time.addItem(f"column {k + 1}: {name}", str(k))
        self.time.addItem("no column", NO_TIME)
        self.time.setCurrentIndex(max(0, self.time.findData(str(how.time))))
        self.step.setEnabled(how.time < 0)
        self.unit.setEnabled(how.time >= 0)
        self.table.setColumnCount(len(how.names))
        self.table.setRowCount(len(how.sample))
        self.table.setHorizontalHeaderLabels(
            [f"{n} (time)" if k == how.time else n for k, n in enumerate(how.names)]
        )
        for r, cells in enumerate(how.sample):
            for k, cell in enumerate(cells[: len(how.names)]):
                self.table.setItem(r, k, QTableWidgetItem(cell))


def ask_how(path: Path, parent: QWidget) -> Understood | None:
    """What the maker says a table is; nothing where it was given up. Raises CsvError or OSError."""
    text = wave_csv.beginning(path)
    dialog = TableDialog(path.name, text, wave_csv.understood(text, path.name), parent)
    return dialog.how if run(dialog) else None

"""The grid of pins: typed, pasted from any spreadsheet, or filled downwards from a range."""

from PySide6.QtCore import QAbstractItemModel, QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractItemDelegate,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from knotplan.catalog.board.pin import POWER_ON_WORDS
from knotplan.core.draft import board as board_draft
from knotplan.core.draft.board import FIELDS, KIND_WORDS, DraftPin
from knotplan.core.drawing.palette import Palette
from knotplan.core.names.lists import expanded
from knotplan.desktop.cells import CellsView, give_column
from knotplan.desktop.lettering import px
from knotplan.desktop.tips import tip_text
from knotplan.desktop.workshop.bench import DraftBench

Index = QModelIndex | QPersistentModelIndex
ROOT = QModelIndex()
WIDTHS = {
    "functions": 150,
    "note": 150,
    "printed": 90,
    "position": 64,
    "kind": 78,
    "power_on": 92,
    "rail": 56,
}
TIPS = {
    "functions": "What the pin can do, with commas: pwm:1.a, adc:0.3, i2c:0.sda; or short: pwm, adc, sda, "
    "scl, tx, rx, mosi; "
    "input for a pin that can only be read, only adc for one that can only measure",
    "kind": "Empty: as its name tells (GND, 5V, RST), else a signal pin",
    "power_on": "What it is until a program runs: pulled up, pulled down, floating, high, low, toggling",
    "rail": "For a supply pin: which rail it brings out",
}


class PinGrid(QAbstractTableModel):
    """The draft's pins as rows of text."""

    def __init__(self, bench: DraftBench, palette: Palette):
        super().__init__(bench)
        self.bench, self.p = bench, palette
        self.columns: list[tuple[str, str]] = []
        self._refresh()
        bench.changed.connect(self._refresh)
        bench.checked.connect(self._say_all_changed)

    def _refresh(self) -> None:
        draft = self.bench.draft
        base = draft.base
        spare = {
            "driver": len(base["drivers"]) > 1,
            "reserved": bool(base.get("reservations")),
            "strap": bool(base.get("straps")),
            "label": any("label" in p.names for p in draft.pins),
        }
        wanted = [c for c in board_draft.columns(draft) if spare.get(c[0], True)]
        if wanted == self.columns and self._count == len(draft.pins):
            self._say_all_changed()
            return
        self.beginResetModel()
        self.columns, self._count = wanted, len(draft.pins)
        self.endResetModel()

    _count = 0
    """rows that the views know of; the draft may have more or fewer for a moment"""

    def _say_all_changed(self) -> None:
        if self._count:  # no row, no cell to name
            self.dataChanged.emit(self.index(0, 0), self.index(self._count - 1, len(self.columns) - 1))

    def rowCount(self, parent: Index = ROOT) -> int:
        return 0 if parent.isValid() else self._count

    def columnCount(self, parent: Index = ROOT) -> int:
        return 0 if parent.isValid() else len(self.columns)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        if orientation == Qt.Orientation.Horizontal and section < len(self.columns):
            if role == Qt.ItemDataRole.DisplayRole:
                return self.columns[section][1]
            if role == Qt.ItemDataRole.ToolTipRole:
                return TIPS.get(self.columns[section][0])
        if orientation == Qt.Orientation.Vertical and role == Qt.ItemDataRole.DisplayRole:
            return self._place(self.bench.draft.pins[section])
        return None

    def _place(self, pin: DraftPin) -> str:
        header = self.bench.draft.headers[pin.header]
        if header.columns == 1:
            where = f"{pin.row}"
        elif header.rows == 1:
            where = f"{pin.col}"
        else:
            where = f"{pin.row}.{pin.col}"
        return f"{header.title} {where}" if len(self.bench.draft.headers) > 1 else where

    def flags(self, index: Index) -> Qt.ItemFlag:
        if not index.isValid():
            return Qt.ItemFlag.NoItemFlags
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsEditable

    def text(self, row: int, column: str) -> str:
        """What a cell says."""
        pin = self.bench.draft.pins[row]
        return str(getattr(pin, column)) if column in FIELDS else pin.names.get(column, "")

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        column = self.columns[index.column()][0]
        text = self.text(index.row(), column)
        if role == Qt.ItemDataRole.EditRole:
            return text
        guess = self._guess(index.row(), column) if not text else ""
        if role == Qt.ItemDataRole.DisplayRole:
            return text or guess
        if role == Qt.ItemDataRole.ToolTipRole:
            here = f"row {index.row() + 1}"
            return next(
                (tip_text(why) for place, why in self.bench.wrong if place.split(" (")[0] == here), None
            )
        if role == Qt.ItemDataRole.ForegroundRole and guess:
            return QColor(self.p.faint)
        if role == Qt.ItemDataRole.BackgroundRole and index.column() == 0 and self._is_wrong(index.row()):
            return QColor(self.p.stop_soft)
        return None

    def _is_wrong(self, row: int) -> bool:
        return any(place.split(" (")[0] == f"row {row + 1}" for place, _ in self.bench.wrong)

    def _guess(self, row: int, column: str) -> str:
        """What an empty cell is taken for, as the board has it now."""
        board = self.bench.board
        pins = list(board.pins.values()) if board else []
        if row >= len(pins) or len(pins) != len(self.bench.draft.pins):
            return ""
        pin = pins[row]
        match column:
            case "kind":
                return next(word for word, kind in KIND_WORDS.items() if kind == pin.kind)
            case "functions" if pin.kind == "io":
                return "in and out"
            case "rail" if pin.kind == "supply":
                return pin.rail
            case "power_on" if pin.kind == "io":
                return POWER_ON_WORDS[pin.power_on]
        return ""

    def setData(self, index: Index, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        text = str(value)
        column = self.columns[index.column()][0]
        if text == self.text(index.row(), column):
            return False
        self.put(index.row(), index.column(), text)
        return True

    def put(self, row: int, column: int, text: str) -> None:
        """Text at a cell: a block from a spreadsheet, a range that is
        written out downwards, or just a name."""
        keys = [c for c, _ in self.columns[column:]]
        block = "\t" in text or "\n" in text.rstrip("\n") or len(expanded(text.strip())) > 1
        if block:
            self.bench.edit(board_draft.paste, row, keys, text)
        else:
            self.bench.edit(board_draft.set_cell, row, keys[0], text)


class PinGridView(CellsView):
    """The grid with copy, paste and clear."""

    def __init__(self, model: PinGrid):
        super().__init__()
        self.grid = model
        self.setModel(model)
        self.setItemDelegate(_Choices(self))
        self.setAccessibleName("Pins of the board")
        self.setSelectionMode(QAbstractItemView.SelectionMode.ContiguousSelection)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.AnyKeyPressed
            | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        self.verticalHeader().setDefaultSectionSize(px(25))
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.horizontalHeader().setStretchLastSection(True)
        model.modelReset.connect(self._widths)
        self._widths()

    def _widths(self) -> None:
        for k, (column, _) in enumerate(self.grid.columns):
            give_column(self, k, WIDTHS.get(column, 88))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Paste):
            self.paste()
        elif event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.clear()
        elif (
            event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            and self.state() != QAbstractItemView.State.EditingState
        ):
            self._down()
        else:
            super().keyPressEvent(event)

    def closeEditor(self, editor: QWidget, hint: QAbstractItemDelegate.EndEditHint) -> None:
        """Enter in a cell goes on to the next one below."""
        was_open = editor.isVisible()
        super().closeEditor(editor, hint)
        if was_open and hint == QAbstractItemDelegate.EndEditHint.SubmitModelCache:
            self._down()

    def _down(self) -> None:
        now = self.currentIndex()
        self.setCurrentIndex(self.grid.index(min(now.row() + 1, self.grid.rowCount() - 1), now.column()))

    def paste(self) -> None:
        """What the clipboard holds, from the current cell on."""
        at = self.currentIndex()
        text = QApplication.clipboard().text()
        if at.isValid() and text:
            self.grid.put(at.row(), at.column(), text)

    def copy(self) -> None:
        marked = self.selectionModel().selectedIndexes()
        rows = sorted({i.row() for i in marked})
        columns = sorted({i.column() for i in marked})
        lines = ["\t".join(self.grid.text(r, self.grid.columns[c][0]) for c in columns) for r in rows]
        QApplication.clipboard().setText("\n".join(lines))

    def clear(self) -> None:
        """Empties the marked cells, as one step."""
        marked = [
            (i.row(), self.grid.columns[i.column()][0]) for i in self.selectionModel().selectedIndexes()
        ]

        def emptied(draft: board_draft.BoardDraft) -> board_draft.BoardDraft:
            for row, column in marked:
                draft = board_draft.set_cell(draft, row, column, "")
            return draft

        self.grid.bench.edit(emptied)


class _Choices(QStyledItemDelegate):
    """Cells with a few valid words offer them."""

    def __init__(self, view: PinGridView):
        super().__init__(view)
        self.view = view

    def _words(self, column: str) -> list[str]:
        base = self.view.grid.bench.draft.base
        return {
            "kind": list(KIND_WORDS),
            "power_on": list(POWER_ON_WORDS.values()),
            "rail": list(base["rails"]),
            "driver": list(base["drivers"]),
            "reserved": list(base.get("reservations", {})),
            "strap": list(base.get("straps", {})),
        }.get(column, [])

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        words = self._words(self.view.grid.columns[index.column()][0])
        if not words:
            return super().createEditor(parent, option, index)
        combo = QComboBox(parent)
        combo.setEditable(True)
        combo.addItems(["", *words])
        return combo

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        if isinstance(editor, QComboBox):
            editor.setCurrentText(str(index.data(Qt.ItemDataRole.EditRole)))
        else:
            super().setEditorData(editor, index)

    def setModelData(self, editor: QWidget, model: QAbstractItemModel, index: Index) -> None:
        if isinstance(editor, QComboBox):
            model.setData(index, editor.currentText())
        else:
            super().setModelData(editor, model, index)

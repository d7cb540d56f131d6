"""The Pins view: every pin by every name, or a pasted list of names translated into all the others."""

from pathlib import Path

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QFileDialog,
    QHeaderView,
    QPlainTextEdit,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.drawing.palette import DARK, LIGHT
from knotplan.core.names.lists import fitting_schemes, resolved
from knotplan.core.plan.document import BOARD
from knotplan.core.quantity.order import size_key
from knotplan.core.quantity.written import counted
from knotplan.core.text.pin_table import MEANT, PinRow, headings, pin_rows
from knotplan.desktop import lettering
from knotplan.desktop.cells import give_column
from knotplan.desktop.lists import take_out
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, choice, column_in, label, row
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text
from knotplan.desktop.view import Page

ANY_SCHEME = ""
STATE = 250
"""width in which the state can be read"""
EMPTY = "Paste pin names here, in any scheme:\none per line, or with commas;\nranges such as D2..D13"


class PinTable(QAbstractTableModel):
    """Rows of pins under their headings."""

    def __init__(self) -> None:
        super().__init__()
        self.heads: tuple[str, ...] = ()
        self.rows: list[PinRow] = []
        self._as_given: list[PinRow] = []
        self.sorted_by = (-1, Qt.SortOrder.AscendingOrder)

    def fill(self, heads: tuple[str, ...], rows: list[PinRow]) -> None:
        self.beginResetModel()
        self.heads, self._as_given = heads, rows
        self._arrange()
        self.endResetModel()

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        """By a column; by none in the order of the board, or of the list that was pasted."""
        self.sorted_by = column, order
        self.beginResetModel()
        self._arrange()
        self.endResetModel()

    def _arrange(self) -> None:
        column, order = self.sorted_by
        self.rows = list(self._as_given)
        if 0 <= column < len(self.heads):
            down = order == Qt.SortOrder.DescendingOrder
            self.rows.sort(key=lambda row: size_key(row.cells[column]), reverse=down)

    def rowCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008  (Qt's own default)
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008  (Qt's own default)
        return 0 if parent.isValid() else len(self.heads)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        if orientation != Qt.Orientation.Horizontal or section >= len(self.heads):
            return None
        head = self.heads[section]
        if role == Qt.ItemDataRole.ToolTipRole:
            return tip_text(MEANT.get(head, "The pin's name among these"))
        return head if role == Qt.ItemDataRole.DisplayRole else None

    def data(
        self, index: QModelIndex | QPersistentModelIndex, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return row.cells[index.column()]
        if role == Qt.ItemDataRole.ToolTipRole:
            return tip_text(row.cells[index.column()])
        if role == Qt.ItemDataRole.ForegroundRole and row.tone and index.column() == len(self.heads) - 1:
            dark = QApplication.palette().window().color().lightness() < 128
            p = DARK if dark else LIGHT
            return QColor(p.stop if row.tone == "stop" else p.care_text)
        return None


class PinsView(Page):
    """On the left a place to paste a list, on the right the table."""

    pin_wanted = Signal(str)
    """a contact to be shown on the board"""

    def __init__(self, session: Session):
        super().__init__()
        self.session, self.scheme = session, ANY_SCHEME
        self.setAccessibleName("Pins")
        down = QVBoxLayout(self)
        down.setContentsMargins(22, 16, 22, 14)
        down.setSpacing(8)
        self.head = label("", "head", wrap=False)
        self.summary = label("", "faint")
        self._make_paste_box()
        self.schemes = choice("listScheme", "Which scheme the pasted names are in", (), "", self._pick)
        self._make_table()
        down.addWidget(row(self.head, self.summary, stretch=1))
        side = QWidget()
        beside = column_in(side, 6)
        beside.addWidget(self.schemes)
        beside.addWidget(
            button(
                "Show on the board",
                "showPin",
                "The highlighted pin on the board, with its card (Enter)",
                self.show_on_board,
                "main",
            )
        )
        beside.addWidget(
            row(
                button(
                    "Copy table",
                    "copyTable",
                    "The table for a spreadsheet; Ctrl+C in it copies the marked lines",
                    self.copy,
                ),
                button("Save as CSV …", "saveTable", "Write the table to a file", self.save),
            )
        )
        down.addWidget(row(self.pasted, side, stretch=0))
        down.addWidget(self.table, 1)
        shortcut = QShortcut(QKeySequence("Return"), self.table)
        shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
        shortcut.activated.connect(self.show_on_board)
        equip(self.table, session.noticed.emit)
        session.changed.connect(self._changed)

    def _make_paste_box(self) -> None:
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(120)
        self._soon.timeout.connect(self._fill)
        self.pasted = QPlainTextEdit()
        self.pasted.setObjectName("pasted")
        self.pasted.setAccessibleName("A list of pin names")
        self.pasted.setPlaceholderText(EMPTY)
        self.pasted.setToolTip("Paste a list of pins: it is translated into all the other schemes")
        self.pasted.setTabChangesFocus(True)
        lettering.fix(self.pasted, height=96)
        self.pasted.textChanged.connect(self._soon.start)

    def _make_table(self) -> None:
        self.model = PinTable()
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setAccessibleName("Pins by all their names")
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.setWordWrap(False)
        self.table.setShowGrid(False)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(lettering.px(24))
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.table.horizontalHeader().setStretchLastSection(True)
        self.table.doubleClicked.connect(lambda _: self.show_on_board())

    def _changed(self) -> None:
        if self.isVisible():
            self._fill()

    def showEvent(self, event: QShowEvent) -> None:
        self._fill()
        self.table.setFocus()

    # --- what is shown --------------------------------------------------------------------------

    def _pick(self, scheme: str) -> None:
        self.scheme = scheme
        self._fill()

    def _fill(self) -> None:
        c = self.session.circuit
        text = self.pasted.toPlainText()
        if self.scheme not in c.board.schemes:
            self.scheme = ANY_SCHEME
        names = resolved(text, c.titles.book, self.scheme or None) if text.strip() else None
        self.model.fill(headings(c, names is not None), pin_rows(c, names))
        self._choose_scheme(fitting_schemes(text, c.titles.book) if names else ())
        if names is None:
            self.head.setText(f"Pins of {c.board.title}")
            self.summary.setText(
                f"{counted(len(c.board.pins), 'contact')}, {len(c.board.schemes)} name schemes"
            )
        else:
            states = [n.state for n in names]
            self.head.setText(counted(len(names), "name"))
            clear = f"{states.count('found')} clear"
            wrong = [f"{states.count(s)} {s}" for s in ("ambiguous", "unknown") if s in states]
            self.summary.setText(", ".join([clear, *wrong]))
        header = self.table.horizontalHeader()
        self.table.resizeColumnsToContents()
        for k in range(len(self.model.heads) - 1):
            header.setSectionResizeMode(k, QHeaderView.ResizeMode.Interactive)
            give_column(self.table, k, min(260, (self.table.columnWidth(k) + 10) / lettering.scale()))
        self._leave_room(self.model.heads.index("Does"))
        if self.model.rows:
            self.table.selectRow(0)

    def _leave_room(self, column: int) -> None:
        """What the other columns want is taken from a long one, so that the state
        can be read; the mouse gets it back."""
        others = sum(self.table.columnWidth(k) for k in range(len(self.model.heads) - 1) if k != column)
        room = self.table.viewport().width() - others - STATE
        least = max(lettering.px(110), self.table.horizontalHeader().sectionSizeHint(column))
        self.table.setColumnWidth(column, max(least, min(self.table.columnWidth(column), room)))

    def _choose_scheme(self, fitting: tuple[str, ...]) -> None:
        """Which scheme the list is in; those that fit every name of it say so."""
        self.schemes.clear()
        self.schemes.addItem("names of any scheme", ANY_SCHEME)
        for scheme, spec in self.session.circuit.board.schemes.items():
            self.schemes.addItem(
                f"{spec.title.lower()}{' – fits every name' if scheme in fitting else ''}", scheme
            )
        self.schemes.setCurrentIndex(max(0, self.schemes.findData(self.scheme)))

    # --- what can be done -----------------------------------------------------------------------

    def chosen(self) -> str:
        """The contact of the highlighted line, or nothing."""
        index = self.table.currentIndex()
        pin = self.model.rows[index.row()].pin if index.isValid() else ""
        return f"{BOARD}.{pin}" if pin else ""

    def show_on_board(self) -> None:
        if contact := self.chosen():
            self.pin_wanted.emit(contact)

    def copy(self) -> None:
        """The whole table, with tabs between cells."""
        take_out.copy_all(self.table, self.session.noticed.emit)

    def save(self) -> None:
        start = str(Path.home() / f"{self.session.circuit.board.id}-pins.csv")
        name, _ = QFileDialog.getSaveFileName(self, "Save the table", start, "Tables (*.csv)")
        if name:
            self.write(Path(name))

    def write(self, path: Path) -> None:
        """Writes the table; what goes wrong is said."""
        take_out.write(self.table, path, self.session.noticed.emit)

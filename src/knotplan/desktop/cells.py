"""Tables with cells to type in.

The toolkit takes what was typed a moment after Enter. Who presses elsewhere in that moment has it taken at
once; the editor is gone then, and must not be asked a second time.
"""

from collections.abc import Sequence

from PySide6.QtWidgets import QTableView, QTableWidget, QWidget

from knotplan.desktop.lettering import px


class CellsView(QTableView):
    """A view of a model. Tab leaves it; arrow keys go from cell to cell."""

    def __init__(self, parent: QWidget | None = None):
        super().__init__(parent)
        self.setTabKeyNavigation(False)

    def commitData(self, editor: QWidget) -> None:
        if editor.isVisible():
            super().commitData(editor)


class CellsTable(QTableWidget):
    """A table of items. Tab leaves it; arrow keys go from cell to cell."""

    def __init__(self, rows: int = 0, columns: int = 0, parent: QWidget | None = None):
        super().__init__(rows, columns, parent)
        self.setTabKeyNavigation(False)

    def commitData(self, editor: QWidget) -> None:
        if editor.isVisible():
            super().commitData(editor)


def shown_table(name: str, says: str, heads: Sequence[str]) -> QTableWidget:
    """A table to read and to choose a row of."""
    table = CellsTable(0, len(heads))
    table.setObjectName(name)
    table.setAccessibleName(says)
    table.setHorizontalHeaderLabels(heads)
    table.verticalHeader().hide()
    table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
    table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
    table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
    table.setShowGrid(False)
    return table


def give_column(view: QTableView, column: int, usual: float) -> None:
    """A width in pixels at usual letters, and at least what the head of the column needs."""
    head = view.horizontalHeader()
    head.resizeSection(column, max(px(usual), head.sectionSizeHint(column)))

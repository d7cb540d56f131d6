"""Tables with cells to type in."""

from PySide6.QtWidgets import QTableView, QTableWidget, QWidget


class CellsView(QTableView):
    """Enter has the text of a cell taken a moment later; who clicks elsewhere in that moment has it taken at once.
    The editor is gone by then, and must not be asked a second time."""

    def commitData(self, editor: QWidget) -> None:
        if editor.isVisible():
            super().commitData(editor)


class CellsTable(QTableWidget):
    """A table of items, with the same care."""

    def commitData(self, editor: QWidget) -> None:
        if editor.isVisible():
            super().commitData(editor)

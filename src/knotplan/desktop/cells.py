"""Tables with cells to type in.

The toolkit takes what was typed a moment after Enter. Who presses elsewhere in that moment has it taken at
once; the editor is gone then, and must not be asked a second time.
"""

from PySide6.QtWidgets import QTableView, QTableWidget, QWidget


class CellsView(QTableView):
    """A view of a model."""

    def commitData(self, editor: QWidget) -> None:
        if editor.isVisible():
            super().commitData(editor)


class CellsTable(QTableWidget):
    """A table of items."""

    def commitData(self, editor: QWidget) -> None:
        if editor.isVisible():
            super().commitData(editor)

"""What a list, table or tree shows, as plain rows."""

from collections.abc import Iterator

from PySide6.QtCore import QAbstractItemModel, QModelIndex, Qt
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QListView, QTableView, QTreeView


def head_of(view: QAbstractItemView) -> QHeaderView | None:
    """The head above the columns, where there is one."""
    if isinstance(view, QTableView):
        return view.horizontalHeader()
    return view.header() if isinstance(view, QTreeView) else None


def columns_of(view: QAbstractItemView) -> list[int]:
    """The columns that are shown, in the order in which they stand."""
    head = head_of(view)
    if head is None:
        return [0]
    shown = [k for k in range(head.count()) if not head.isSectionHidden(k)]
    return sorted(shown, key=head.visualIndex)


def heads_of(view: QAbstractItemView) -> list[str]:
    model = view.model()
    said = [model.headerData(k, Qt.Orientation.Horizontal) for k in columns_of(view)]
    return [str(text or "") for text in said]


def is_hidden(view: QAbstractItemView, at: QModelIndex) -> bool:
    """A filter has left it out."""
    if isinstance(view, QTreeView):
        return view.isRowHidden(at.row(), at.parent())
    return isinstance(view, QListView | QTableView) and view.isRowHidden(at.row())


def hide(view: QAbstractItemView, at: QModelIndex, hidden: bool) -> None:
    if isinstance(view, QTreeView):
        view.setRowHidden(at.row(), at.parent(), hidden)
    elif isinstance(view, QListView | QTableView):
        view.setRowHidden(at.row(), hidden)


def every_row(model: QAbstractItemModel, above: QModelIndex | None = None) -> Iterator[QModelIndex]:
    """The first cell of each row, those below it right after it."""
    above = above or QModelIndex()
    for k in range(model.rowCount(above)):
        at = model.index(k, 0, above)
        yield at
        yield from every_row(model, at)


def words_of(view: QAbstractItemView, at: QModelIndex, columns: list[int]) -> list[str]:
    """The cells of a row; of a list, what it says to those who cannot see it, which is the whole of it."""
    model = view.model()
    if head_of(view) is None:
        spoken = at.data(Qt.ItemDataRole.AccessibleTextRole)
        return [str(spoken or at.data() or "")]
    return [str(model.index(at.row(), k, at.parent()).data() or "") for k in columns]


def rows_of(view: QAbstractItemView, only_marked: bool = False) -> list[list[str]]:
    """The cells of what is shown, or of what is marked, from above downwards."""
    columns = columns_of(view)
    marked = {(i.row(), i.parent()) for i in view.selectionModel().selectedIndexes()} if only_marked else None
    return [
        words_of(view, at, columns)
        for at in every_row(view.model())
        if not is_hidden(view, at) and (marked is None or (at.row(), at.parent()) in marked)
    ]

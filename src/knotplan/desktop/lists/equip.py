"""Gives a list or table what all of them have."""

from functools import partial
from typing import Any

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractItemView,
    QLineEdit,
    QMenu,
    QTableView,
    QTableWidgetItem,
    QTreeView,
    QTreeWidget,
    QTreeWidgetItem,
)

from knotplan.core.quantity.order import size_key
from knotplan.desktop.lists import take_out
from knotplan.desktop.lists.filter import TypedFilter, TypedInto
from knotplan.desktop.lists.keys import ListKeys
from knotplan.desktop.lists.rows import head_of


class Cell(QTableWidgetItem):
    """A cell of a table, sorted by what it means."""

    def __lt__(self, other: QTableWidgetItem) -> bool:
        return size_key(self.text()) < size_key(other.text())


class Line(QTreeWidgetItem):
    """A line of a tree, sorted by what its cells mean."""

    def __lt__(self, other: QTreeWidgetItem) -> bool:
        tree = self.treeWidget()
        column = tree.sortColumn() if isinstance(tree, QTreeWidget) else 0
        return size_key(self.text(column)) < size_key(other.text(column))


class CopyKey(ListKeys):
    """Ctrl+C in a list is for its lines, not for the parts that are selected on the bench."""

    def __init__(self, view: QAbstractItemView, tell: take_out.Tell):
        super().__init__(view)
        self.tell = tell

    def takes(self, event: QKeyEvent) -> bool:
        return event.matches(QKeySequence.StandardKey.Copy)

    def act(self, event: QKeyEvent) -> None:
        take_out.copy(self.view, self.tell)


def equip(
    view: QAbstractItemView,
    tell: take_out.Tell = lambda _: None,
    field: QLineEdit | None = None,
    follow: bool = True,
) -> None:
    """Letters filter, in a field where there is one; Ctrl+C copies, the menu under the pointer copies and
    saves, and the heads of a table sort. With `follow`, what is left of a filtered list is gone to."""
    if field is None:
        TypedFilter(view, follow)
    else:
        TypedInto(view, field)
    CopyKey(view, tell)
    entries: list[tuple[str, Any]] = [("Copy", partial(take_out.copy, view, tell))]
    head = head_of(view)
    if head is not None:
        entries.append(("Copy all", partial(take_out.copy_all, view, tell)))
        entries.append(("Save as CSV …", partial(take_out.save, view, tell)))
        _make_sortable(view)
    for text, do in entries:
        action = QAction(text, view)
        action.triggered.connect(lambda _=False, do=do: do())
        view.addAction(action)
    view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
    view.customContextMenuRequested.connect(partial(_menu, view))


def _make_sortable(view: QAbstractItemView) -> None:
    """Not sorted at first; a third click on a head gives the first order back, where the model knows it."""
    if isinstance(view, QTableView | QTreeView):
        head = head_of(view)
        assert head is not None
        head.setSortIndicatorClearable(True)
        head.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        view.setSortingEnabled(True)


def _menu(view: QAbstractItemView, at: QPoint) -> None:
    menu = QMenu(view)
    menu.addActions(view.actions())
    menu.exec(view.viewport().mapToGlobal(at))
    menu.deleteLater()

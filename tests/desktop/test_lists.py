"""Every list filters as one types; tables sort, and are copied and saved; every number can be taken along."""

import csv
import io

import pytest
from PySide6.QtCore import QModelIndex, QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QDialog,
    QFileDialog,
    QHeaderView,
    QMenu,
    QTableView,
    QTreeView,
    QWidget,
)

from knotplan.core.quantity.order import size_key
from knotplan.desktop.lists.rows import columns_of, every_row, head_of, heads_of, is_hidden, rows_of, words_of
from knotplan.desktop.window import MainWindow
from tests.desktop.test_keyboard_walk import DIALOGS

OURS = "knotplan"
CTRL = Qt.KeyboardModifier.ControlModifier
VIEWS = ("power", "pins", "buses", "timing", "wire", "hand-over")
FORMS = ("Pins of the board", "Leads as they are printed on the part", "Table")
"""tables to type in: letters go into their cells"""


def lists_in(top: QWidget) -> list[QAbstractItemView]:
    """What can be gone through with the keyboard; the popups of drop-downs are the toolkit's."""
    return [
        view
        for view in top.findChildren(QAbstractItemView)
        if view.isVisible()
        and view.focusPolicy() & Qt.FocusPolicy.TabFocus
        and not isinstance(view, QHeaderView)
    ]


def shown(view: QAbstractItemView) -> list[str]:
    columns = columns_of(view)
    every = every_row(view.model())
    return [" ".join(words_of(view, at, columns)) for at in every if not is_hidden(view, at)]


def filters(view: QAbstractItemView) -> None:
    """Typing leaves what has the letters, Escape brings all back."""
    whole = shown(view)
    if not whole:
        return
    word = next((w for w in whole[-1].split() if w.isalnum()), "x")[:3].lower()
    view.setFocus()
    QApplication.processEvents()
    QTest.keyClicks(view, word)
    if QApplication.focusWidget() is not view:  # the list has a field for that
        field = QApplication.focusWidget()
        assert field.text() == word
        field.clear()
        return
    assert shown(view) == expected(view, word)
    QTest.keyClick(view, Qt.Key.Key_Escape)
    assert shown(view) == whole


def expected(view: QAbstractItemView, word: str) -> list[str]:
    """Rows that have the word themselves, or in something that hangs on them."""
    columns, model = columns_of(view), view.model()

    def has(at: QModelIndex) -> bool:
        said = " ".join(words_of(view, at, columns)).casefold()
        return word in said or any(has(model.index(k, 0, at)) for k in range(model.rowCount(at)))

    return [" ".join(words_of(view, at, columns)) for at in every_row(model) if has(at)]


@pytest.mark.parametrize("name", VIEWS)
def test_every_list_of_a_view_filters_as_one_types(window: MainWindow, name: str) -> None:
    window.show_view(name)
    QApplication.processEvents()
    assert lists_in(window)
    for number in range(len(lists_in(window))):
        for view in lists_in(window)[
            number : number + 1
        ]:  # what is beside a list follows what is chosen in it
            filters(view)
        assert window.views.shown() is window.views.page(name), "letters are no commands there"


@pytest.mark.parametrize(("kind", "thing"), [("lead", "flag.signal"), ("pin", "board.p12"), ("part", "lamp")])
def test_every_list_of_the_inspector_filters_as_one_types(draft: MainWindow, kind: str, thing: str) -> None:
    draft.session.select(kind, thing)
    QTest.qWait(20)
    assert lists_in(draft) or kind == "part"
    for number in range(len(lists_in(draft))):
        for view in lists_in(draft)[number : number + 1]:
            filters(view)
            assert draft.session.selection.id == thing


@pytest.mark.qt_log_ignore("This plugin does not support", extend=True)  # a window without a screen
@pytest.mark.parametrize("action", [d for d in DIALOGS if d != "print-preview"])
def test_every_list_of_a_dialog_filters_as_one_types(draft: MainWindow, monkeypatch, action: str) -> None:
    faults: list[str] = []

    def open_(dialog: QDialog) -> int:
        dialog.show()
        dialog.activateWindow()
        QTest.qWaitForWindowActive(dialog)
        for view in lists_in(dialog):
            try:
                if view.accessibleName() not in FORMS:
                    filters(view)
            except AssertionError as error:
                faults.append(f"{view.accessibleName()}: {error}")
        dialog.hide()
        return 0

    monkeypatch.setattr(QDialog, "exec", open_)
    draft.actions_.by_id[action].trigger()
    assert faults == []


def test_a_filter_stays_through_edits_and_goes_back_letter_by_letter(window: MainWindow) -> None:
    from knotplan.core.plan import edits

    window.show_view("power")
    tree = window.views.page("power").tree
    tree.setFocus()
    QTest.keyClicks(tree, "flag")
    left = shown(tree)
    assert any("Flag" in text for text in left) and not any("Horn" in text for text in left)
    window.session.edit("rename", edits.rename_part, "flag", "Flagpole")
    assert any("Flagpole" in text for text in shown(tree)) and not any("Horn" in t for t in shown(tree))
    for _ in "flag":
        QTest.keyClick(tree, Qt.Key.Key_Backspace)
    assert any("Horn" in text for text in shown(tree))
    assert window.session.plan.parts, "Backspace took no part away"


def test_a_slash_in_a_list_still_finds_anything(window: MainWindow) -> None:
    for name in VIEWS:
        window.show_view(name)
        QApplication.processEvents()
        lists_in(window)[0].setFocus()
        QTest.keyClick(lists_in(window)[0], Qt.Key.Key_Slash)
        assert QApplication.focusWidget() is window.search, name
        QTest.keyClick(window.search, Qt.Key.Key_Escape)


def tables_of(window: MainWindow, name: str) -> list[QTableView | QTreeView]:
    window.show_view(name)
    QApplication.processEvents()
    return [view for view in lists_in(window) if isinstance(view, QTableView | QTreeView)]


@pytest.mark.parametrize("name", ["power", "pins", "buses", "timing"])
def test_tables_sort_by_every_column_by_what_it_means(window: MainWindow, name: str) -> None:
    tables = tables_of(window, name)
    assert tables
    for view in tables:
        head, before = head_of(view), rows_of(view)
        for at, column in enumerate(columns_of(view)):
            for order in (Qt.SortOrder.AscendingOrder, Qt.SortOrder.DescendingOrder):
                head.setSortIndicator(column, order)
                cells = [row[at] for row in rows_of(view)]
                if isinstance(view, QTreeView) and view.rootIsDecorated():
                    cells = _level(view, column)
                down = order == Qt.SortOrder.DescendingOrder
                keys = [size_key(cell) for cell in cells]
                assert keys == sorted(keys, reverse=down), (name, heads_of(view)[at])
        assert sorted(rows_of(view)) == sorted(before), "nothing is lost"


def _level(view: QTreeView, column: int) -> list[str]:
    model, top = view.model(), view.model().index(0, 0)
    return [str(model.index(k, column, top).data() or "") for k in range(model.rowCount(top))]


def test_the_first_order_comes_back(window: MainWindow) -> None:
    (table,) = tables_of(window, "pins")
    before = rows_of(table)
    table.horizontalHeader().setSortIndicator(1, Qt.SortOrder.DescendingOrder)
    assert rows_of(table) != before
    table.horizontalHeader().setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
    assert rows_of(table) == before
    table.horizontalHeader().setSortIndicator(1, Qt.SortOrder.DescendingOrder)
    table.selectRow(0)
    chosen = window.views.page("pins").chosen()
    assert chosen and rows_of(table)[0][0] == chosen.rsplit("p", 1)[1], "what is chosen is what is seen"


@pytest.mark.parametrize("name", ["power", "pins", "buses", "timing"])
def test_tables_are_saved_as_csv_as_they_are_seen(
    window: MainWindow, tmp_path, monkeypatch, name: str
) -> None:
    for number, view in enumerate(tables_of(window, name)):
        path = tmp_path / f"{name}-{number}.csv"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, path=path: (str(path), ""))
        head_of(view).setSortIndicator(0, Qt.SortOrder.DescendingOrder)
        next(a for a in view.actions() if a.text() == "Save as CSV …").trigger()
        lines = list(csv.reader(io.StringIO(path.read_bytes().decode("utf-8"), newline="")))
        assert lines[0] == heads_of(view)
        assert [[c.removeprefix("'") for c in line] for line in lines[1:]] == rows_of(view)


def test_the_menu_under_the_pointer_has_what_a_table_can_do(window: MainWindow, monkeypatch) -> None:
    offered: list[list[str]] = []

    class Shown(QMenu):
        def exec(self, _at: QPoint) -> None:
            offered.append([a.text() for a in self.actions()])

    monkeypatch.setattr("knotplan.desktop.lists.equip.QMenu", Shown)
    (table,) = tables_of(window, "pins")
    table.customContextMenuRequested.emit(QPoint(5, 5))
    assert offered == [["Copy", "Copy all", "Save as CSV …"]]


def test_ctrl_c_in_a_list_is_for_its_lines(window: MainWindow) -> None:
    window.show_view("buses")
    window.session.select("part", "flag")
    buses = window.views.page("buses").list
    buses.setFocus()
    QTest.keyClick(buses, Qt.Key.Key_C, CTRL)
    assert QApplication.clipboard().text().startswith("I2C bus 1, 3 devices")


def test_where_nothing_is_shown_the_clipboard_keeps_what_it_has(window: MainWindow) -> None:
    told: list[str] = []
    window.session.noticed.connect(told.append)
    (tree,) = tables_of(window, "power")
    tree.setFocus()
    QTest.keyClicks(tree, "zzqq")
    QApplication.clipboard().setText("mine")
    QTest.keyClick(tree, Qt.Key.Key_C, CTRL)
    window.actions_.by_id["copy-said"].trigger()
    assert QApplication.clipboard().text() == "mine"
    assert all(text.startswith("Nothing was copied") for text in told) and len(told) == 2


def copied(window: MainWindow) -> str:
    QApplication.clipboard().clear()
    action: QAction = window.actions_.by_id["copy-said"]
    action.trigger()
    return QApplication.clipboard().text()


def test_what_a_panel_says_is_copied_with_every_number(draft: MainWindow) -> None:
    draft.session.select("lead", "lamp.anode")
    QTest.qWait(30)
    draft.loom.setFocus()
    text = copied(draft)
    for words in ("Lamp · anode", "1.5 – 24 V", "Wished current\t3 mA", "L14"):
        assert words in text
    draft.session.select("pin", "board.p7")
    QTest.qWait(30)
    assert "Output current\t12 mA, never above 16 mA" in copied(draft)


def test_a_finding_a_budget_and_an_address_are_copied_where_the_keyboard_is(draft: MainWindow) -> None:
    draft.side.findings.cards[0].setFocus()
    assert copied(draft).startswith(draft.side.findings.cards[0].finding.message)
    draft.budgets.setFocus()
    assert " of " in copied(draft) and "at worst" in copied(draft)
    draft.show_view("buses")
    QApplication.processEvents()
    draft.views.page("buses").i2c.map.setFocus()
    assert "0x" in copied(draft)
    draft.show_view("power")
    QApplication.processEvents()
    draft.views.page("power").detail.setFocus()
    assert "USB brick" in copied(draft)

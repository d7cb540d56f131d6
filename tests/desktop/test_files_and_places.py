"""Files dropped on the window, places that come back, printing, history, full screen, autosave in words."""

from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPointF, QRectF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QApplication

from knotplan.catalog.load import HERE, shipped
from knotplan.core.drawing.palette import DARK, LIGHT
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop import printing, theme
from knotplan.desktop.commands import dropped
from knotplan.desktop.history_dialog import BEGINNING, HistoryDialog
from knotplan.desktop.paper import Sheet
from knotplan.desktop.settings import Settings
from knotplan.desktop.window import MainWindow
from knotplan.examples import example
from knotplan.exchange.plan_file import save


def drop(qtbot, window: MainWindow, *files: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(f)) for f in files])
    event = QDropEvent(
        QPointF(300, 300),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(event)
    qtbot.wait(20)


def test_a_plan_that_is_dropped_is_opened(qtbot, window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "drawers.knot.json"
    save(example("seed-drawers", shipped()), path)
    drop(qtbot, window, path)
    assert window.session.path == path and window.session.plan.title == "Seed drawers"


@pytest.mark.parametrize(
    ("kind", "file", "taken"),
    [("board", "boards/clove-22.toml", "board"), ("part", "parts/led.toml", "part")],
)
def test_a_board_and_a_part_are_told_apart(
    qtbot, window: MainWindow, monkeypatch, kind: str, file: str, taken: str
) -> None:
    got: list[tuple[str, str]] = []
    monkeypatch.setattr(dropped.board, "take_in", lambda _, path: got.append(("board", path.name)))
    monkeypatch.setattr(dropped.part, "take_in", lambda _, path: got.append(("part", path.name)))
    drop(qtbot, window, HERE / file)
    assert got == [(taken, Path(file).name)]


def test_a_table_goes_to_the_workshop(qtbot, window: MainWindow, monkeypatch, tmp_path: Path) -> None:
    got: list[Path] = []
    monkeypatch.setattr(dropped.board, "begin_with_table", lambda _, path: got.append(path))
    path = tmp_path / "pins.csv"
    path.write_text("pin,name\n1,A\n")
    drop(qtbot, window, path)
    assert got == [path]


@pytest.mark.parametrize("name", ["notes.odt", "nothing", "x.toml"])
def test_what_is_not_understood_is_told_and_changes_nothing(
    qtbot, window: MainWindow, monkeypatch, tmp_path: Path, name: str
) -> None:
    told: list[str] = []
    window.session.noticed.connect(told.append)
    monkeypatch.setattr(window.documents, "refuse", lambda path, _: told.append(path.name))
    path = tmp_path / name
    path.write_bytes(b"\xff\x00 nothing")
    before = window.session.plan
    drop(qtbot, window, path)
    assert window.session.plan == before and told and name in told[0]


def test_a_window_comes_back_where_it_was(open_window, tmp_path: Path) -> None:
    settings = Settings(tmp_path / "s")
    assert settings.last is None and settings.place.isEmpty()
    window = open_window("harbour-light")
    window.settings = settings
    window.resize(1111, 700)
    path = tmp_path / "mine.knot.json"
    assert window.documents.save_to(path)
    window.close()
    again = Settings(tmp_path / "s")
    assert again.last == path and not again.place.isEmpty()
    path.unlink()
    assert again.last is None, "what is gone is not looked for"


@pytest.mark.parametrize("size", [(960, 540), (1366, 768), (800, 460)])
def test_the_window_fits_small_screens(window: MainWindow, size: tuple[int, int]) -> None:
    """1920 by 1080 at twice the size has 960 by 540."""
    window.resize(*size)
    QApplication.processEvents()
    assert (window.width(), window.height()) == size
    inside = QRectF(window.rect())
    for place in (window.side, window.loom, window.budgets, window.search, *window.rail.buttons):
        corner = place.mapTo(window, place.rect().bottomRight())
        assert inside.contains(QPointF(corner)), place.accessibleName()


def test_every_step_has_its_name_and_can_be_gone_to(window: MainWindow) -> None:
    session = window.session
    first = session.plan
    session.edit("add one", edits.add_part, "led", "One")
    session.edit("add two", edits.add_part, "led", "Two")
    session.edit("turn the board", edits.turn)
    last = session.plan
    assert session.history() == (["add one", "add two", "turn the board"], 3)
    dialog = HistoryDialog(session, window)
    assert [dialog.list.item(k).text() for k in range(4)] == [
        BEGINNING,
        "add one",
        "add two",
        "turn the board",
    ]
    dialog.list.setCurrentRow(0)
    assert session.plan == first and session.history()[1] == 0
    dialog.list.setCurrentRow(2)
    assert {p.name for p in session.plan.parts} >= {"One", "Two"} and session.plan.turned == first.turned
    dialog.list.setCurrentRow(3)
    assert session.plan == last
    session.undo()
    session.edit("add three", edits.add_part, "led", "Three")
    assert session.history() == (["add one", "add two", "add three"], 3)
    dialog.deleteLater()


def test_the_sheet_is_printed_on_the_pages_that_are_asked_for(window: MainWindow, tmp_path: Path) -> None:
    report = window.session.report
    for first, last, pages in ((0, 0, Sheet(report).all_pages()), (1, 1, 1), (2, 2, 1)):
        made = printing.printer("sheet")
        made.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
        path = tmp_path / f"{first}.pdf"
        made.setOutputFileName(str(path))
        made.setFromTo(first, last)
        assert printing.paint_pages(Sheet(report), made) == pages
        assert path.read_bytes().startswith(b"%PDF") and path.stat().st_size > 2000


def test_the_window_becomes_dark_and_light_as_the_desktop_does(window: MainWindow, monkeypatch) -> None:
    """The signal is the toolkit's own; what the desktop says is put in its mouth."""
    hints = QApplication.styleHints()
    window.set_look("system")
    for dark, palette in ((True, DARK), (False, LIGHT)):
        monkeypatch.setattr(theme, "desktop_is_dark", lambda now=dark: now)
        hints.colorSchemeChanged.emit(Qt.ColorScheme.Dark if dark else Qt.ColorScheme.Light)
        assert window.palette_now == palette and window.loom.p == palette
    window.set_look("dark")
    hints.colorSchemeChanged.emit(Qt.ColorScheme.Light)
    assert window.palette_now == DARK, "who has chosen keeps the choice"
    window.set_look("light")


def test_where_names_have_no_room_side_by_side_they_are_picked_from_a_list(window: MainWindow) -> None:
    window.resize(900, 540)
    QApplication.processEvents()
    picked, schemes = window.bar.schemes.picked, window.bar.schemes.buttons
    assert picked.isVisible() and not schemes.isVisible()
    picked.setCurrentIndex(picked.findData("kernel"))
    picked.activated.emit(picked.currentIndex())
    assert window.session.circuit.scheme == "kernel"
    window.resize(1400, 800)
    QApplication.processEvents()
    assert schemes.isVisible() and not picked.isVisible()


def test_full_screen_and_back(window: MainWindow) -> None:
    window.actions_.by_id["full-screen"].trigger()
    assert window.windowState() & Qt.WindowState.WindowFullScreen
    window.actions_.by_id["full-screen"].trigger()
    assert not window.windowState() & Qt.WindowState.WindowFullScreen


def test_the_bar_says_how_the_work_is_kept(qtbot, open_window, tmp_path: Path) -> None:
    window = open_window(Plan("clove-22"))
    state = window.bar.state
    assert state.text() == ""
    window.session.edit("add", edits.add_part, "led", "One")
    assert state.text() == "edited"
    qtbot.waitUntil(lambda: state.text() == "edited, kept aside", timeout=10_000)
    window.session.edit("add", edits.add_part, "led", "Two")
    assert state.text() == "edited", "the newest work is not kept yet"
    assert window.documents.save_to(tmp_path / "x.knot.json")
    assert state.text() == "saved" and "x.knot.json" in state.toolTip()

"""Menus, search, names, looks, documents, and surviving a kill."""

import json
import os
import re
import signal
import subprocess
import sys
import time
from collections import Counter
from pathlib import Path

import msgspec
import pytest
from PySide6.QtCore import QAbstractItemModel, QEvent, QModelIndex, Qt
from PySide6.QtPrintSupport import QPrintDialog
from PySide6.QtTest import QAbstractItemModelTester
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QListWidget,
    QMessageBox,
    QWidget,
)

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop import documents, keeper
from knotplan.desktop.commands import MENUS
from knotplan.desktop.commands.command import Command, Submenu
from knotplan.desktop.help import explanation
from knotplan.desktop.settings import Settings
from knotplan.desktop.views import VIEWS
from knotplan.desktop.window import MainWindow
from knotplan.examples import example
from knotplan.exchange.plan_file import load, save
from knotplan.exchange.recovery import Recovery


def test_every_action_has_a_tip_and_its_own_shortcut(window: MainWindow) -> None:
    keys = Counter(a.shortcut().toString() for a in window.actions_.all() if not a.shortcut().isEmpty())
    assert max(keys.values()) == 1
    entries = [e for menu in MENUS for e in menu.entries if isinstance(e, Command | Submenu)]
    for entry in entries:
        assert entry.text and entry.tip, entry
    assert [*window.actions_.by_id, *window.actions_.submenus] == sorted(
        (e.id for e in entries), key=lambda name: name in window.actions_.submenus
    )


def test_everything_that_takes_the_keyboard_has_a_name(draft: MainWindow) -> None:
    draft.show_view("hand-over")
    for kind, thing in (("part", "lamp"), ("lead", "lamp.anode"), ("pin", "board.p7"), ("", "")):
        draft.session.select(kind, thing)
        for widget in draft.findChildren(QWidget):
            if isinstance(widget, QAbstractButton | QLineEdit | QComboBox | QListWidget):
                if isinstance(widget.parent(), QLineEdit):
                    continue  # the toolkit's own button that clears a line
                assert (
                    widget.isHidden() or widget.accessibleName() or widget.objectName().startswith("qt_")
                ), widget
                named = (
                    widget.toolTip()
                    or isinstance(widget, QListWidget)
                    or widget.objectName().startswith(("qt_", "reason"))
                )
                assert named or isinstance(widget.parent(), QComboBox), (
                    widget.objectName(),
                    widget.accessibleName(),
                )


def test_a_part_is_added_by_typing_what_people_call_it(qtbot, open_window) -> None:
    window = open_window(Plan("bowline-40"))
    qtbot.keyClick(window.windowHandle(), Qt.Key.Key_A)  # by the window, so that shortcuts are tried
    qtbot.waitUntil(window.search.hasFocus)
    qtbot.keyClicks(window.search, "green lamp")
    assert [e.text for e in window.search.popup.entries()] == ["Add Green LED"]
    qtbot.keyClick(window.search, Qt.Key.Key_Return)
    placed = window.session.plan.parts[0]
    assert (placed.part, placed.name, placed.params) == ("led", "Green LED", {"colour": "green"})
    assert window.session.selection.id == "green-led.anode" and window.loom.hasFocus()


@pytest.mark.parametrize(
    ("text", "first", "selected"),
    [
        ("L22", "L22 (pos 7) – chip line L22", "board.p7"),
        ("flag", "Flag – micro servo, plastic gears", "flag"),
    ],
)
def test_search_finds_pins_and_parts(qtbot, window: MainWindow, text: str, first: str, selected: str) -> None:
    window.actions_.by_id["find"].trigger()
    qtbot.keyClicks(window.search, text)
    texts = [e.text for e in window.search.popup.entries() if not e.text.startswith("Add ")]
    assert texts[0] == first
    while window.search.popup.current().text != first:
        qtbot.keyClick(window.search, Qt.Key.Key_Down)
    qtbot.keyClick(window.search, Qt.Key.Key_Return)
    assert window.session.selection.id == selected


def test_search_finds_findings_and_actions_and_says_when_there_is_nothing(qtbot, draft: MainWindow) -> None:
    draft.search.setFocus()
    qtbot.keyClicks(draft.search, "without resistor")
    assert any("LED without a resistor" in e.text for e in draft.search.popup.entries())
    draft.search.clear()
    qtbot.keyClicks(draft.search, "flip")
    qtbot.keyClick(draft.search, Qt.Key.Key_Return)
    assert draft.session.plan.flipped
    draft.search.setFocus()
    qtbot.keyClicks(draft.search, "SDA9")
    assert draft.search.popup.entries() == []
    assert "SDA1" in draft.search.popup.list.item(0).text()
    qtbot.keyClick(draft.search, Qt.Key.Key_Escape)
    assert not draft.search.popup.isVisible() and draft.loom.hasFocus()


def test_speaking_another_scheme_renames_inspector_and_board(qtbot, window: MainWindow) -> None:
    window.session.select("lead", "flag.signal")
    kernel = next(b for b in window.bar.schemes.group.buttons() if b.property("segment") == "kernel")
    qtbot.mouseClick(kernel, Qt.MouseButton.LeftButton)
    assert window.session.circuit.scheme == "kernel"
    assert all(
        o.name.startswith(("line", "3V3", "5V", "GND")) for o in window.side.inspector.panel.offers.offers()
    )
    window.session.undo()
    assert window.session.circuit.scheme == "chip"


def test_lenses_change_the_legend(window: MainWindow) -> None:
    def meanings() -> list[str]:
        return [text for _, text in window.lenses.legend.entries()]

    plain = meanings()
    window.session.select("lead", "flag.signal")
    assert meanings()[0] == "best" != plain[0]
    window.actions_.by_id["lens-load"].trigger()
    assert "over it" in meanings()


def test_light_and_dark(window: MainWindow) -> None:
    light = window.grab().toImage().pixelColor(700, 96).lightness()
    window.set_look("dark")
    QApplication.processEvents()
    assert window.grab().toImage().pixelColor(700, 96).lightness() < light
    assert window.settings.look == "dark"
    window.set_look("light")


def test_help_explains_what_is_in_focus(draft: MainWindow) -> None:
    assert explanation(draft.loom)[0] == "The bench"
    draft.session.select("lead", "flag.signal")
    assert explanation(draft.side.inspector.panel.field)[0] == "A pin by name"
    assert explanation(draft.side.inspector.panel.offers)[0] == "Candidates"
    title, text = explanation(draft.side.findings.cards[0])
    assert title == "Pin used twice" and "Source: one pin, one signal" in text
    led = next(c for c in draft.side.findings.cards if c.finding.rule == "led-no-resistor")
    assert "most current: 48.6 mA, limit 20 mA" in explanation(led)[1]
    assert explanation(None)[0] == "A five-minute walk"


def test_hand_over_shows_and_writes_every_kind(qtbot, window: MainWindow, tmp_path: Path) -> None:
    window.actions_.by_id["hand-over"].trigger()
    view = window.views.page("hand-over")
    qtbot.waitUntil(lambda: view.pages.canvas.painted > 0)
    for row in range(view.kinds.count()):
        view.kinds.setCurrentRow(row)
        assert view.write(view.export(), tmp_path / f"file{row}")
        assert (tmp_path / f"file{row}").stat().st_size > 0
    view.kinds.setCurrentRow(2)
    assert "#define LAMP" in view.text.toPlainText()
    view._pick_scheme("function")
    assert "There is no such file" in view.text.toPlainText()
    assert not view.write(view.export(), tmp_path / "none") and not (tmp_path / "none").exists()


def test_a_pdf_has_its_pages_and_its_text(window: MainWindow, tmp_path: Path) -> None:
    from knotplan.desktop.paper import Sheet, pdf

    data = pdf(window.session.report)
    sheet = Sheet(window.session.report)
    assert data.count(b"/Type /Page\n") == sheet.all_pages() >= 2
    assert b"/FontFile" in data, "fonts travel with it"


# --- documents ------------------------------------------------------------------------------------


def test_save_open_recent_and_title(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "mine.knot.json"
    window.session.edit("rename", edits.retitle, "Mine")
    assert "(edited)" in window.windowTitle()
    assert window.documents.save_to(path)
    assert window.windowTitle() == "Mine – Knot Plan" and load(path, shipped()).title == "Mine"
    window.documents.show_example("harbour-light-draft")
    assert window.documents.open_path(path)
    assert window.session.plan.title == "Mine" and window.session.undo_word == ""
    assert window.settings.recent == [path]


@pytest.mark.parametrize(
    "content", ["{", '{"format": "x", "version": 1}', '{"format": "knotplan-plan", "version": 99}']
)
def test_a_bad_file_says_all_and_loses_nothing(
    window: MainWindow, tmp_path: Path, monkeypatch, content: str
) -> None:
    path = tmp_path / "bad.knot.json"
    path.write_text(content)
    shown: list[str] = []
    monkeypatch.setattr(documents.ErrorDialog, "exec", lambda self: shown.append(self.text.toPlainText()))
    before = window.session.plan
    assert not window.documents.open_path(path)
    assert shown and window.session.plan is before
    assert not window.documents.open_path(tmp_path / "nowhere.json") and len(shown) == 2


def test_a_disk_that_refuses_is_told_and_the_work_stays(window: MainWindow, tmp_path: Path) -> None:
    window.session.edit("rename", edits.retitle, "Kept")
    assert not window.documents.save_to(tmp_path / "no" / "such" / "x.json")
    assert "Your work is still here" in window.toast.text.text() and window.session.dirty


@pytest.mark.parametrize(("answer", "leaves"), [("cancel", False), ("discard", True)])
def test_leaving_unsaved_work_asks_first(window: MainWindow, monkeypatch, answer: str, leaves: bool) -> None:
    monkeypatch.setattr(documents, "ask_save", lambda *_: answer)
    window.session.edit("rename", edits.retitle, "Unsaved")
    window.documents.show_example("harbour-light-draft")
    assert (window.session.plan.title == "Unsaved") != leaves


def test_a_new_plan_for_another_board(window: MainWindow, monkeypatch) -> None:
    def choose(dialog: documents.BoardDialog) -> QDialog.DialogCode:
        dialog.list.select("clove-22")
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(documents.BoardDialog, "exec", choose)
    window.documents.new()
    assert window.session.circuit.board.id == "clove-22" and not window.session.dirty
    assert [b.property("segment") for b in window.bar.schemes.group.buttons()] == [
        "printed",
        "port",
        "index",
        "position",
    ]


KILLED = """
import sys
import time
from pathlib import Path
from PySide6.QtCore import QTimer
from knotplan.core.plan import edits
from knotplan.catalog.load import shipped
from knotplan.desktop.app import application, make_window
from knotplan.desktop.settings import Settings
from knotplan.exchange.plan_file import load
from knotplan.exchange.recovery import Recovery
folder, path = Path(sys.argv[1]), Path(sys.argv[2])
app = application()
keeper = Recovery(folder / "work")
window = make_window(load(path, shipped()), path, Settings(folder), shipped(), keeper)
window.show()
window.complete()
window.session.edit("tie", edits.tie, "flag.signal", "board.p24")
def look():
    if keeper.path.exists():
        print("kept", flush=True)
watch = QTimer()
watch.timeout.connect(look)
watch.start(50)
app.exec()
"""


def test_work_survives_kill_9(tmp_path: Path) -> None:
    from knotplan.examples import example

    path = tmp_path / "light.knot.json"
    save(example("harbour-light", shipped()), path)
    child = subprocess.Popen(
        [sys.executable, "-c", KILLED, str(tmp_path), str(path)], stdout=subprocess.PIPE, text=True
    )
    assert child.stdout.readline() == "kept\n"
    os.kill(child.pid, signal.SIGKILL)
    child.wait()
    child.stdout.close()
    lost = Recovery(tmp_path / "work").lost(shipped())
    assert [(w.plan.tie("flag.signal").to, w.origin) for w in lost] == [("board.p24", path)]
    assert load(path, shipped()).tie("flag.signal").to == "board.p18", "the file itself was not touched"


def test_lost_work_is_offered_and_taken_up_as_unsaved(open_window, tmp_path: Path, monkeypatch) -> None:
    from knotplan.desktop import app, left_behind
    from knotplan.examples import example

    lost = edits.retitle(example("harbour-light", shipped()), "Lost and found")
    folder = tmp_path / "state"
    Recovery(folder, 4_000_001).keep(
        example("harbour-light-draft", shipped()), Path("/home/me/other.knot.json")
    )
    Recovery(folder, 4_000_000).keep(lost, None)
    os.utime(folder / "4000001.work.json", (0, 0))
    asked = []
    window = open_window(complete=False)
    monkeypatch.setattr(app, "work_folder", lambda: tmp_path / "state")
    monkeypatch.setattr(
        left_behind.LeftBehindDialog,
        "exec",
        lambda self: (asked.append(self.about.toPlainText()), self.take()),
    )
    app.recover(window, shipped())
    assert window.session.plan == lost and window.session.dirty
    assert asked == ["16 parts, 49 ties"]
    assert not (folder / "4000000.work.json").exists()
    assert (folder / "4000001.work.json").exists(), "what was not taken is still there, and in the menu"
    window.session.saved = window.session.plan
    window.actions_.by_id["left-behind"].trigger()
    assert asked[1].endswith("from /home/me/other.knot.json")


@pytest.mark.logs("could not be kept aside")
@pytest.mark.parametrize("kind", ["plan", "board", "part"])
def test_what_was_left_behind_stays_until_its_successor_is_kept(
    window: MainWindow, tmp_path: Path, monkeypatch, kind
) -> None:
    """A full disk while it is taken up, and a crash after that, lose nothing."""
    from knotplan.core.draft.board import blank
    from knotplan.desktop.commands.taking_up import take_up
    from knotplan.examples import example

    monkeypatch.setattr("knotplan.desktop.commands.board.open_workshop", lambda *_: None)
    monkeypatch.setattr("knotplan.desktop.commands.part.go_on", lambda *_: None)
    earlier = Recovery(window.recovery.folder, 4_000_000)
    earlier.keep(edits.retitle(example("harbour-light", shipped()), "Lost"), None)
    earlier.keep_draft("board", "Mine", {"draft": msgspec.to_builtins(blank()), "text": ""})
    earlier.keep_draft("part", "Gauge", {"text": "title = 'Gauge'"})
    (work,) = [w for w in window.recovery.lost(shipped()) if w.kind == kind]

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as disk:
        disk.setattr(window.recovery, "keep", full)
        disk.setattr(window.recovery, "keep_draft", full)
        take_up(window.desk, work)
        assert work.kept.exists()
    window.session.saved = window.session.plan
    take_up(window.desk, work)
    assert not work.kept.exists()
    assert window.recovery._path(kind).exists()


def test_nothing_is_kept_of_what_is_saved(qtbot, window: MainWindow, tmp_path: Path) -> None:
    window.session.edit("rename", edits.retitle, "Kept aside")
    assert window.documents.keeper.flush()
    assert json.loads(window.recovery.path.read_text())["origin"] is None
    window.documents.save_to(tmp_path / "x.json")
    assert window.documents.keeper.flush()
    assert not window.recovery.path.exists()


def test_steady_work_is_kept_all_the_while(qtbot, window: MainWindow) -> None:
    """However fast edits come: what is kept is never older than a second."""
    path, oldest, kept = window.recovery.path, 0.0, 0
    begun, number = time.monotonic(), 0
    times: dict[str, float] = {}
    while time.monotonic() - begun < 2.5 or (number <= 50 and time.monotonic() - begun < 20.0):
        number += 1
        window.session.edit("rename", edits.retitle, f"N{number}")
        times[f"N{number}"] = time.monotonic()
        qtbot.wait(5)
        if path.exists() and (found := re.search(r'"title":"(N\d+)"', path.read_text("utf-8"))):
            kept += 1
            now = time.monotonic()
            first_lost = next((at for name, at in times.items() if int(name[1:]) > int(found[1][1:])), now)
            oldest = max(oldest, now - first_lost)
    assert number > 50 and kept > 20 and oldest < 1.0


def test_a_slow_disk_does_not_hold_up_the_window(qtbot, window: MainWindow, monkeypatch) -> None:
    slow: list[float] = []

    def keep(*_: object) -> None:
        time.sleep(0.4)
        slow.append(time.monotonic())

    monkeypatch.setattr(window.recovery, "keep", keep)
    for number in range(5):
        begun = time.monotonic()
        window.session.edit("rename", edits.retitle, f"N{number}")
        assert time.monotonic() - begun < 0.35
    assert window.documents.keeper.flush(5.0)
    assert 1 <= len(slow) < 5, "what is overtaken is not written"


@pytest.mark.slow
def test_every_table_and_list_keeps_the_toolkit_s_rules_while_the_plan_changes(open_window) -> None:
    """The toolkit's own tester warns of what a model must not do; a warning fails the test."""
    window = open_window(example("harbour-light-draft", shipped()))
    for name in (view.id for view in VIEWS):
        window.show_view(name)
    models = {
        v.model()
        for v in window.findChildren(QAbstractItemView)
        if type(v.model()).__module__.startswith("knotplan")
    }
    assert {type(m).__name__ for m in models} == {
        "PinTable",
        "TreeModel",
        "LaneModel",
        "MarkedModel",
        "ChannelModel",
    }
    for model in models:
        QAbstractItemModelTester(model, QAbstractItemModelTester.FailureReportingMode.Warning, model)
    for name in (view.id for view in VIEWS):
        window.show_view(name)
        window.session.edit("rename", edits.rename_part, window.session.plan.parts[0].id, f"In {name}")
        for part in window.session.plan.parts:
            window.session.edit("delete", edits.remove_part, part.id)
        while window.session.can_undo:
            window.session.undo()
    window.session.saved = window.session.plan


@pytest.mark.slow
def test_no_dialog_outlives_its_answer(open_window, monkeypatch, tmp_path: Path) -> None:
    """A dialog whose parent is the window would stay as long as the window, with all that it shows."""
    window = open_window(example("harbour-light-draft", shipped()))
    window.session.saved = window.session.plan
    opened: list[str] = []

    def answered(dialog: QDialog) -> int:
        opened.append(type(dialog).__name__)
        return 0

    for kind in (QDialog, QMessageBox, QPrintDialog):  # these two have an exec of their own
        monkeypatch.setattr(kind, "exec", answered)
    for ask in ("getOpenFileName", "getOpenFileNames", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, ask, lambda *_, ask=ask, **__: ([] if ask.endswith("s") else "", ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_, **__: "")
    for _ in range(2):
        for action in window.actions_.all():
            if action.objectName() != "quit":
                window.session.select("part", window.session.plan.parts[0].id)
                action.trigger()
    bad = tmp_path / "bad.knot.json"
    bad.write_text("{")
    window.documents.open_path(bad)
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert len(set(opened)) >= 9, opened
    assert window.findChildren(QDialog) == []
    window.session.saved = window.session.plan


def last_of(model: QAbstractItemModel) -> QModelIndex:
    """The last row of the last row, as deep as it goes."""
    index = QModelIndex()
    while rows := model.rowCount(index):
        index = model.index(rows - 1, 0, index)
    return index


@pytest.mark.slow
@pytest.mark.parametrize("name", [view.id for view in VIEWS])
def test_a_view_that_is_not_seen_keeps_nothing_of_a_plan_that_is_no_more(
    open_window, qtbot, name: str
) -> None:
    """Everything in it is chosen once, it is left, its parts go, colours
    and names change, it is come back to."""
    window = open_window(example("harbour-light", shipped()))
    for usb_alone in (False, True) if name == "power" else (False,):
        window.show_view(name)
        if usb_alone:
            window.views.page("power").usb.click()
            qtbot.waitUntil(lambda: window.views.page("power").alone is not None)
        for view in window.views.shown().findChildren(QAbstractItemView):
            view.setCurrentIndex(last_of(view.model()))
        window.session.edit("rename", edits.rename_part, window.session.plan.parts[-1].id, "Once more")
        window.show_view("loom" if name != "loom" else "pins")
        for part in window.session.plan.parts:
            window.session.edit("delete", edits.remove_part, part.id)
        qtbot.wait(1)
        for look in ("dark", "light"):
            window.set_look(look)
        for scheme in window.session.circuit.board.schemes:
            window.session.edit("speak", edits.speak, scheme)
        window.resize(1024, 640)
        window.show_view(name)
        qtbot.wait(1)
        while window.session.can_undo:
            window.session.undo()
    window.session.saved = window.session.plan


@pytest.mark.logs("could not be kept aside")
def test_a_disk_that_refuses_what_is_kept_says_so(qtbot, window: MainWindow, monkeypatch) -> None:
    def fails(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(window.recovery, "keep", fails)
    window.session.edit("rename", edits.retitle, "Kept?")
    qtbot.waitUntil(lambda: "could not be kept aside: No space left" in window.toast.text.text())


@pytest.mark.logs("could not be kept aside")
def test_what_could_not_be_kept_is_tried_again_by_itself(qtbot, window: MainWindow, monkeypatch) -> None:
    """The disk has room again, and its maker only looks at the screen."""
    monkeypatch.setattr(keeper, "RETRY_S", 0.05)
    told: list[str] = []
    window.session.noticed.connect(told.append)
    whole, tries = window.recovery.keep, []

    def full_at_first(*given) -> None:
        tries.append(given)
        if len(tries) < 4:
            raise OSError(28, "No space left on device")
        whole(*given)

    monkeypatch.setattr(window.recovery, "keep", full_at_first)
    window.session.edit("rename", edits.retitle, "Kept at last")
    qtbot.waitUntil(lambda: any("kept aside again" in text for text in told), timeout=5000)
    assert sum("could not be kept aside" in text for text in told) == 1, "not at every try"
    assert b"Kept at last" in window.recovery._path("plan").read_bytes()


@pytest.mark.parametrize(
    "entry", ["/root/\x00odd", "/" + "n" * 5000, "/proc/1/root/secret/x", "", "/dev/zero"]
)
def test_a_recent_path_that_cannot_be_looked_at_stops_nothing(
    open_window, tmp_path: Path, entry: str
) -> None:
    Settings(tmp_path / "config")._store.setValue("recent", [entry, 3, None])
    window = open_window()
    assert window.settings.recent == [] and window.desk is not None


def test_the_toolkit_keeps_its_references() -> None:
    """PySide6 6.12.0 lost one reference to None at each call that returns nothing, until Python 3.11 aborted.

    From Python 3.12 on None cannot be lost, and extensions made for an older one may count it up (PEP 683).
    """
    widget = QWidget()
    before = sys.getrefcount(None)
    for _ in range(1000):
        widget.update()
    assert sys.getrefcount(None) > before - 100
    widget.deleteLater()

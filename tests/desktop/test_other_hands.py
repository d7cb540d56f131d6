"""Files that somebody else writes, too; files that cannot be written; work
that a failure must not take along."""

import os
from pathlib import Path

import pytest
from PySide6.QtWidgets import QAbstractItemView, QFileDialog

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan, Tie
from knotplan.core.plan.remedy import Remedy, Step
from knotplan.desktop import dialogs, documents, outside
from knotplan.desktop.guard import Guard
from knotplan.desktop.hand_over.view import all_exports
from knotplan.desktop.views import VIEWS
from knotplan.desktop.window import MainWindow
from knotplan.examples import example
from knotplan.exchange import log
from knotplan.exchange.plan_file import dumps, load, save


@pytest.fixture
def saved(open_window, tmp_path: Path) -> tuple[MainWindow, Path]:
    path = tmp_path / "light.knot.json"
    save(example("harbour-light", shipped()), path)
    return open_window(load(path, shipped()), path), path


def theirs(path: Path, title: str = "Theirs") -> Plan:
    """Another program writes the file."""
    plan = edits.retitle(load(path, shipped()), title)
    save(plan, path)
    return plan


def answers(monkeypatch, *choices: str) -> list[str]:
    """What the maker decides, one after another; the questions that were put."""
    asked: list[str] = []
    left = list(choices)

    def ask(parent: object, text: str, more: str, words: dict[str, str], otherwise: str) -> str:
        asked.append(text)
        chosen = left.pop(0)
        assert chosen in words
        return chosen

    monkeypatch.setattr(outside, "ask", ask)
    return asked


@pytest.mark.parametrize("reads", ["open", "reload"])
def test_a_change_while_the_file_is_read_is_noticed(saved, monkeypatch, reads: str) -> None:
    """Another program writes between our reading and the end of the opening."""
    window, path = saved
    if reads == "reload":
        theirs(path, "First")

    def read_and_overtaken(*given) -> Plan:
        plan = load(*given)
        theirs(path, "Second")
        return plan

    monkeypatch.setattr(documents, "load", read_and_overtaken)
    asked = answers(monkeypatch, *["reload"] * (reads == "reload"), "leave")
    if reads == "open":
        assert window.documents.open_path(path)
    else:
        window.documents.look_outside()
    window.documents.look_outside()
    assert len(asked) == (2 if reads == "reload" else 1), "what came in between is asked about"


def test_a_change_from_outside_is_noticed_when_the_window_becomes_active(saved, monkeypatch) -> None:
    window, path = saved
    asked = answers(monkeypatch, "leave")
    window.documents.look_outside()
    assert asked == []
    theirs(path)
    window.documents.look_outside()
    window.documents.look_outside()
    assert len(asked) == 1, "asked once for each change"
    assert window.session.plan.title == "Harbour light"


def test_a_file_that_was_only_touched_is_the_same(saved, monkeypatch) -> None:
    window, path = saved
    asked = answers(monkeypatch)
    os.utime(path)
    window.documents.look_outside()
    assert asked == [] and window.documents.save()


@pytest.mark.parametrize("choice", ["leave", "over", "beside", "reload"])
def test_saving_over_theirs_is_the_makers_decision(saved, monkeypatch, choice: str) -> None:
    window, path = saved
    window.session.edit("rename", edits.retitle, "Mine")
    other = theirs(path)
    asked = answers(monkeypatch, "look", choice)
    seen: list[str] = []
    monkeypatch.setattr(outside, "TextDialog", lambda title, text, parent: _Shown(seen, text))
    done = window.documents.save()
    assert len(asked) == 2 and done == (choice != "leave")
    mine, there = window.session.plan, load(path, shipped())
    if choice == "over":
        assert there.title == "Mine" and load(path.with_name(path.name + "~"), shipped()) == other, (
            "theirs is kept"
        )
    elif choice == "beside":
        assert there == other and load(path.with_name("light (mine).knot.json"), shipped()).title == "Mine"
        assert window.session.path == path.with_name("light (mine).knot.json")
    elif choice == "reload":
        assert mine == there == other and window.session.can_undo, "one's own is one step back"
        window.session.undo()
        assert window.session.plan.title == "Mine"
    else:
        assert there == other and mine.title == "Mine" and window.session.dirty


class _Shown:
    def __init__(self, seen: list[str], text: str):
        self.exec = lambda: seen.append(text)

    def deleteLater(self) -> None:
        pass


def test_two_plans_are_compared_in_words(saved) -> None:
    window, path = saved
    mine = edits.tie(window.session.plan, "flag.signal", "board.p24")
    assert "Flag · signal: from L3 (pos 18) to L8 (pos 24)" in outside.compared(path, mine, shipped())
    path.write_text("{")
    assert "cannot be read" in outside.compared(path, mine, shipped())


def test_what_was_there_before_the_first_save_is_kept(saved) -> None:
    window, path = saved
    first = path.read_bytes()
    for title in ("One", "Two"):
        window.session.edit("rename", edits.retitle, title)
        assert window.documents.save()
    assert path.with_name(path.name + "~").read_bytes() == first


def test_a_name_without_suffix_never_overwrites_unasked(
    window: MainWindow, tmp_path: Path, monkeypatch
) -> None:
    there = tmp_path / "lamp.knot.json"
    save(example("seed-drawers", shipped()), there)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "lamp"), ""))
    asked: list[Path] = []
    monkeypatch.setattr(outside, "may_replace", lambda path, parent: asked.append(path))
    assert not window.documents.save_as()
    assert asked == [there] and load(there, shipped()).title == "Seed drawers"


def test_a_read_only_file_is_left_alone(saved) -> None:
    window, path = saved
    before = path.read_bytes()
    path.chmod(0o444)
    window.session.edit("rename", edits.retitle, "Mine")
    assert not window.documents.save()
    assert path.read_bytes() == before and "read-only" in window.toast.text.text() and window.session.dirty


def test_a_file_with_a_mistake_opens_without_it_and_is_kept_as_it_was(
    window: MainWindow, tmp_path: Path, monkeypatch
) -> None:
    plan = example("seed-drawers", shipped())
    path = tmp_path / "broken.knot.json"
    data = dumps(
        Plan(plan.board, parts=plan.parts, ties=(*plan.ties, Tie("x", "nobody.lead", "board.nothing")))
    )
    path.write_bytes(data)
    shown: list[str] = []

    def take(self: documents.ErrorDialog) -> None:
        shown.append(self.text.toPlainText())
        self.without_button.click()

    monkeypatch.setattr(documents.ErrorDialog, "exec", take)
    assert window.documents.open_path(path)
    assert "nobody" in shown[0] and window.session.plan.ties == plan.ties and window.session.dirty
    (copy,) = tmp_path.glob("broken.as-found-*.json")
    assert copy.read_bytes() == data == path.read_bytes()


def test_a_broken_file_that_cannot_be_copied_is_opened_without_a_file(
    window: MainWindow, tmp_path: Path, monkeypatch
) -> None:
    plan = example("seed-drawers", shipped())
    error = documents.PlanFileError("x", [("", "wrong")])
    error.rest = documents.Rest(plan, ())

    def fails(*_: object) -> None:
        raise PermissionError(13, "no")

    monkeypatch.setattr(documents.shutil, "copy2", fails)
    window.documents.open_rest(tmp_path / "x.json", error.rest)
    assert window.session.plan == plan and window.session.path is None and window.session.dirty


# --- failures -------------------------------------------------------------------------------------


def test_a_failure_anywhere_keeps_the_work_and_draws_anew(
    qtbot, window: MainWindow, monkeypatch, caplog
) -> None:
    told: list[str] = []
    monkeypatch.setattr(dialogs, "ask", lambda parent, text, more, words, otherwise: told.append(text + more))
    guard = Guard(lambda: [window])
    window.session.edit("rename", edits.retitle, "Precious")
    drawn: list[int] = []
    window.session.changed.connect(lambda: drawn.append(1))
    try:
        raise KeyError("on purpose")
    except KeyError as error:
        guard.take(type(error), error, error.__traceback__)
    assert b"Precious" in window.recovery.path.read_bytes(), "kept before anything else is tried"
    qtbot.waitUntil(lambda: bool(told))
    assert drawn and "Something went wrong" in told[0] and "knotplan.log" in told[0]
    assert "KeyError: 'on purpose'" in log.path().read_text("utf-8")
    for _ in range(20):
        guard.take(KeyError, KeyError("again"), None)
    qtbot.wait(50)
    assert len(told) <= 5, "a view that fails at each painting does not bury the window in messages"
    caplog.clear()


def test_an_edit_that_cannot_be_shown_changes_nothing(window: MainWindow, monkeypatch) -> None:
    before, back = window.session.plan, window.session.undo_word

    def fails(*_: object) -> None:
        raise ArithmeticError("on purpose")

    monkeypatch.setattr("knotplan.desktop.session.lay_out", fails)
    with pytest.raises(ArithmeticError):
        window.session.edit("rename", edits.retitle, "Never")
    assert window.session.plan is before and window.session.undo_word == back
    assert window.session.report.circuit.plan is before


def test_a_remedy_of_another_plan_is_not_made(window: MainWindow) -> None:
    """A button is pressed, and before it is let go the plan changes."""
    window.documents.show_example("harbour-light-draft")
    window.side.findings.settle()
    card = next(c for c in window.side.findings.cards if c.finding.rule == "led-no-resistor")
    stale = Remedy("Tie it", (Step(edits.tie, ("gone.lead", "board.p1")),))
    window.session.show_preview(stale)
    assert window.session.preview is None and "there is no part 'gone'" in window.toast.text.text()
    card.remedies = (stale,)
    card._show_preview_of(0)
    assert window.session.preview is None and card.remedies != (stale,)
    window.loom.grab()


def test_what_the_pointer_is_on_may_go(qtbot, window: MainWindow) -> None:
    from PySide6.QtCore import QPoint
    from PySide6.QtTest import QTest

    s, loom = window.session, window.loom
    for lead in ("lamp.anode", "flag.signal"):
        at = loom.place_of(lead)
        QTest.mouseMove(loom, QPoint(round(at.x()), round(at.y())))
        assert loom._hover.kind
        s.edit("remove", edits.remove_part, lead.partition(".")[0])
        assert not loom._hover.kind
        loom.grab()
        s.undo()
        loom.grab()


def test_a_cord_that_is_pulled_may_lose_its_part(window: MainWindow) -> None:
    from PySide6.QtCore import QPoint, Qt
    from PySide6.QtTest import QTest

    loom = window.loom
    at = loom.place_of("flag.signal")
    QTest.mousePress(
        loom, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(round(at.x()), round(at.y()))
    )
    QTest.mouseMove(loom, QPoint(300, 300))
    window.session.edit("remove", edits.remove_part, "flag")
    loom.grab()
    QTest.mouseRelease(loom, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(320, 320))
    assert "flag" not in window.session.circuit.placed


@pytest.mark.parametrize("view", [v.id for v in VIEWS if v.make is not None])
def test_a_view_that_is_not_seen_holds_nothing_of_another_plan(qtbot, window: MainWindow, view: str) -> None:
    window.show_view(view)
    qtbot.wait(30)
    page = window.views.shown()
    window.show_view("loom")
    window.documents.show_example("badge-wall")
    for look in ("dark", "light"):
        window.set_look(look)
    window.session.select("part", window.session.plan.parts[0].id)
    for child in page.findChildren(QAbstractItemView):
        if (model := child.model()) is not None and model.rowCount():
            child.setCurrentIndex(model.index(0, 0))
    window.show_view(view)
    qtbot.wait(30)
    window.grab()


# --- hand over ------------------------------------------------------------------------------------


def test_handing_over_never_overwrites_unasked(window: MainWindow, tmp_path: Path, monkeypatch) -> None:
    view, folder = window.views.page("hand-over"), tmp_path / "out"
    folder.mkdir()
    asked: list[str] = []
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder))
    monkeypatch.setattr(dialogs, "may", lambda parent, text, *_: asked.append(text))
    view.save_all()
    files = sorted(folder.iterdir())
    assert asked == [] and len(files) == len(all_exports())
    view.save_all()
    assert len(asked) == 1 and "that Knot Plan wrote will be written anew" in asked[0]
    header = next(p for p in files if p.suffix == ".h")
    header.write_text("/* mine */\n")
    view.save_all()
    assert f"Edited since Knot Plan wrote it, or written by another program: {header.name}." in asked[1]
    assert header.read_text() == "/* mine */\n", "the answer was no"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(header), ""))
    view.kinds.setCurrentRow(2)
    view.save_one()
    assert len(asked) == 3 and header.read_text() == "/* mine */\n"
    monkeypatch.setattr(dialogs, "may", lambda *_: True)
    view.save_one()
    assert "#define" in header.read_text()

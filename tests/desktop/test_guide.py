"""The guide for newcomers: each sentence waits for its thing, is beside it, and can be left."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QEvent, QPoint, QRect, QSize, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from knotplan.core.plan.document import Plan
from knotplan.desktop.commands import COMMANDS
from knotplan.desktop.guide.bubble import place_beside
from knotplan.desktop.guide.steps import STEPS
from knotplan.desktop.settings import Settings
from knotplan.desktop.window import MainWindow

NOTHING = Qt.KeyboardModifier.NoModifier
AT = {step.id: k for k, step in enumerate(STEPS)}


@pytest.fixture
def guided(open_window) -> MainWindow:
    window = open_window(Plan("bowline-40"))
    window.actions_.by_id["guide"].trigger()
    return window


def press(window: MainWindow, key: Qt.Key, held: Qt.KeyboardModifier = NOTHING) -> None:
    QTest.keyClick(QApplication.focusWidget() or window, key, held)
    settle(window)


def settle(window: MainWindow) -> None:
    window.side.findings.settle()
    QApplication.processEvents()
    window.guide.look()


def step(window: MainWindow) -> str:
    return STEPS[window.guide.at].id


def add_lamp(window: MainWindow) -> None:
    press(window, Qt.Key.Key_R)
    press(window, Qt.Key.Key_A)
    QTest.keyClicks(QApplication.focusWidget(), "led")
    press(window, Qt.Key.Key_Return)


def tie_both(window: MainWindow) -> None:
    press(window, Qt.Key.Key_Return)
    press(window, Qt.Key.Key_Return)
    press(window, Qt.Key.Key_Down)
    press(window, Qt.Key.Key_Return)
    press(window, Qt.Key.Key_Return)


def test_it_goes_from_an_empty_board_to_a_sheet_by_keyboard_alone(guided: MainWindow) -> None:
    assert step(guided) == "turn" and guided.guide.bubble.isVisible()
    press(guided, Qt.Key.Key_R)
    assert step(guided) == "add"
    press(guided, Qt.Key.Key_A)
    QTest.keyClicks(QApplication.focusWidget(), "led")
    settle(guided)
    popup = guided.search.popup
    assert not guided.guide.bubble.geometry().intersects(popup.geometry()), "what was found stays in sight"
    press(guided, Qt.Key.Key_Return)
    assert step(guided) == "tie"
    press(guided, Qt.Key.Key_Return)
    press(guided, Qt.Key.Key_Return)
    assert step(guided) == "tie-other"
    press(guided, Qt.Key.Key_Down)
    press(guided, Qt.Key.Key_Return)
    press(guided, Qt.Key.Key_Return)
    assert step(guided) == "finding"
    press(guided, Qt.Key.Key_F8)
    assert step(guided) == "remedy"
    press(guided, Qt.Key.Key_Tab)
    press(guided, Qt.Key.Key_Return)
    assert step(guided) == "remedy", "only shown so far"
    press(guided, Qt.Key.Key_Return)
    assert step(guided) == "budget"
    assert QApplication.focusWidget() is guided.loom, "the keyboard is not left with the plan's name"
    guided.budgets.setFocus(Qt.FocusReason.TabFocusReason)
    settle(guided)
    assert step(guided) == "hand-over"
    press(guided, Qt.Key.Key_H, Qt.KeyboardModifier.ControlModifier)
    assert guided.guide.at == len(STEPS)
    guided.guide.bubble.findChild(QPushButton, "guideDone").click()
    assert not guided.guide.runs and not guided.guide.bubble.isVisible()


@pytest.mark.parametrize("until", [0, 2, 4])
def test_it_can_be_left_at_any_moment_and_what_was_planned_stays(
    guided: MainWindow, monkeypatch, until: int
) -> None:
    monkeypatch.setattr("knotplan.desktop.documents.ask_save", lambda *_: "discard")
    for way in (add_lamp, tie_both)[: until // 2]:
        way(guided)
    plan = guided.session.plan
    guided.guide.bubble.findChild(QPushButton, "guideLeave").click()
    assert not guided.guide.runs
    assert not guided.guide.bubble.isVisible() and not guided.guide.bubble.ring.isVisible()
    assert guided.session.plan is plan
    guided.actions_.by_id["guide"].trigger()
    assert guided.guide.runs
    guided.actions_.by_id["guide"].trigger()
    assert not guided.guide.runs, "the same action leaves it"


def test_it_goes_back_where_the_lamp_is_gone(guided: MainWindow) -> None:
    add_lamp(guided)
    tie_both(guided)
    assert step(guided) == "finding"
    while guided.session.plan.parts:
        guided.session.undo()
    settle(guided)
    for _ in STEPS:
        guided.guide.look()
    assert step(guided) == "add"
    press(guided, Qt.Key.Key_A)
    QTest.keyClicks(QApplication.focusWidget(), "led")
    press(guided, Qt.Key.Key_Return)
    assert step(guided) == "tie"


def test_a_part_without_a_mistake_is_led_past_the_remedy(guided: MainWindow) -> None:
    press(guided, Qt.Key.Key_R)
    press(guided, Qt.Key.Key_A)
    QTest.keyClicks(QApplication.focusWidget(), "usb brick")
    press(guided, Qt.Key.Key_Return)
    tie_both(guided)
    for _ in range(3):
        settle(guided)
    assert [f.severity for f in guided.session.report.findings if f.severity != "to-do"] == []
    assert step(guided) == "budget"


def test_work_that_no_file_holds_is_asked_about(window: MainWindow, monkeypatch) -> None:
    from knotplan.core.plan import edits

    window.session.edit("rename", edits.retitle, "Mine")
    plan = window.session.plan
    monkeypatch.setattr("knotplan.desktop.documents.ask_save", lambda *_: "cancel")
    window.actions_.by_id["guide"].trigger()
    assert window.session.plan is plan and not window.guide.runs
    monkeypatch.setattr("knotplan.desktop.documents.ask_save", lambda *_: "discard")
    window.actions_.by_id["guide"].trigger()
    assert window.guide.runs and not window.session.plan.parts


def test_it_is_offered_once(window: MainWindow, tmp_path) -> None:
    window.greet()
    assert window.guide.bubble.isVisible() and not window.guide.runs
    window.guide.bubble.findChild(QPushButton, "guideNo").click()
    assert not window.guide.bubble.isVisible()
    window.greet()
    assert not window.guide.bubble.isVisible()
    assert Settings(tmp_path / "config").greeted, "nor at the next start"


def test_the_offer_goes_when_one_begins_without_it(window: MainWindow) -> None:
    window.greet()
    window.session.changed.emit()  # as when the first analysis is there
    assert window.guide.bubble.isVisible()
    window.session.select("part", "flag")
    assert not window.guide.bubble.isVisible() and not window.guide.bubble.ring.isVisible()


def test_the_keys_that_it_names_are_those_of_the_actions() -> None:
    keys = {"turn": ("R", "turn"), "add": ("A", "add"), "finding": ("F8", "next-finding")}
    for at, (key, action) in keys.items():
        assert f"ress {key}" in STEPS[AT[at]].says.replace(":", " ").replace(",", " ")
        assert COMMANDS[action].keys == key
    assert "Ctrl+H" in STEPS[AT["hand-over"]].says


def test_it_follows_what_it_speaks_of(guided: MainWindow) -> None:
    before = guided.guide.bubble.ring.geometry()
    guided.resize(1024, 640)
    QApplication.processEvents()
    guided.guide.look()
    assert guided.guide.bubble.ring.geometry() != before
    assert guided.rect().contains(guided.guide.bubble.geometry())
    QApplication.sendEvent(guided.budgets, QEvent(QEvent.Type.ToolTip))
    assert step(guided) == "turn", "what is pointed at too early is not counted"


sides = st.integers(0, 1200)


@given(
    sides,
    st.integers(0, 700),
    st.integers(10, 400),
    st.integers(10, 300),
    st.integers(60, 320),
    st.integers(40, 200),
)
def test_a_bubble_stays_in_the_window_and_off_its_thing(x, y, wide, high, w, h) -> None:
    window = QRect(8, 8, 1264, 784)
    thing = QRect(x, y, wide, high).intersected(window)
    size = QSize(w, h)
    corner = place_beside(thing, size, window, 14)
    box = QRect(corner, size)
    assert window.contains(box)
    assert not box.intersects(thing)
    assert corner == place_beside(thing, size, window, 14, [QRect(QPoint(2000, 2000), size)])

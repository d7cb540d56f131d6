"""The README's five minutes, by keyboard alone: from an empty window to
a wired, checked, handed-over plan."""

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLineEdit

from knotplan.core.plan.document import Plan
from knotplan.desktop.window import MainWindow
from knotplan.exchange.plan_file import load


class Keyboard:
    """Keys as the window system delivers them: to the window, so that shortcuts are tried first."""

    def __init__(self, qtbot, window: MainWindow):
        self.qtbot, self.window = qtbot, window

    def press(self, *keys: Qt.Key, shift: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        for key in keys:
            self.qtbot.keyClick(self.window.windowHandle(), key, shift)
            QApplication.processEvents()

    def type(self, text: str) -> None:
        for letter in text:
            self.qtbot.keyClick(self.window.windowHandle(), letter)
        QApplication.processEvents()

    def ctrl(self, key: Qt.Key) -> None:
        self.press(key, shift=Qt.KeyboardModifier.ControlModifier)


@pytest.fixture
def empty(qtbot, open_window) -> MainWindow:
    return open_window(Plan("bowline-40"))


def add(keys: Keyboard, text: str) -> None:
    keys.press(Qt.Key.Key_Escape, Qt.Key.Key_A)  # while a lead is selected, letters begin a name
    keys.qtbot.waitUntil(keys.window.search.hasFocus)
    keys.type(text)
    keys.press(Qt.Key.Key_Return)


def test_five_minutes_by_keyboard(qtbot, empty: MainWindow, tmp_path: Path) -> None:
    keys, session = Keyboard(qtbot, empty), empty.session
    add(keys, "red led")
    assert session.selection.id == "red-led.anode" and empty.loom.hasFocus()

    keys.press(Qt.Key.Key_Return, Qt.Key.Key_Return)  # the candidates, and the best of them
    assert session.circuit.contacts.pin(session.plan.tie_of("red-led.anode").to).kind == "io"

    keys.press(Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Return)
    assert session.circuit.nets.is_ground("red-led.cathode")

    keys.press(Qt.Key.Key_F8)  # the gravest finding
    while session.report.findings[empty.side.findings.at].rule != "led-no-resistor":
        keys.press(Qt.Key.Key_F8)
    card = empty.side.findings.cards[empty.side.findings.at]
    empty.side.findings.settle()
    assert card.hasFocus()
    keys.press(Qt.Key.Key_Tab)
    assert QApplication.focusWidget() is card.buttons[0], "one step from a finding to its remedy"
    keys.press(Qt.Key.Key_Return)  # shows
    assert not session.plan.tie("red-led.anode").beads
    keys.press(Qt.Key.Key_Return)  # makes: the keyboard is on "Make this change"
    assert session.plan.tie("red-led.anode").beads[0].ohm == 270

    keys.press(Qt.Key.Key_F3)
    session.select("lead", "red-led.anode")
    keys.ctrl(Qt.Key.Key_R)
    field = empty.side.inspector.panel.findChild(QLineEdit, "role")
    assert field.hasFocus()
    keys.type("pier")
    keys.press(Qt.Key.Key_Return)
    assert session.plan.tie("red-led.anode").role == "pier"

    add(keys, "usb brick")
    keys.press(Qt.Key.Key_Return, Qt.Key.Key_Return)
    assert session.plan.tie_of("usb-brick.plug").to == "board.usb"
    assert session.report.findings == ()

    assert empty.documents.save_to(tmp_path / "pier.knot.json")
    assert load(tmp_path / "pier.knot.json", session.catalog) == session.plan
    keys.ctrl(Qt.Key.Key_H)
    assert empty.views.shown() is empty.views.page("hand-over")
    assert empty.views.page("hand-over").write(empty.views.page("hand-over").export(), tmp_path / "pier.html")
    assert "pier" in (tmp_path / "pier.html").read_text("utf-8")


def test_a_name_in_a_scheme_of_one_s_own_choice(qtbot, empty: MainWindow) -> None:
    """Any name, typed on the bench: a bare 12 asks which of three; "line 44" does not."""
    keys, session = Keyboard(qtbot, empty), empty.session
    add(keys, "green led")
    keys.type("12")
    keys.press(Qt.Key.Key_Return)
    offers = empty.side.inspector.panel.offers
    assert session.plan.ties == () and offers.hasFocus() and len(offers.offers()) == 3
    keys.ctrl(Qt.Key.Key_T)
    field = empty.side.inspector.panel.field
    field.selectAll()
    keys.type("line 44")
    keys.press(Qt.Key.Key_Return)
    assert session.plan.tie_of("green-led.anode").to == "board.p4"


def test_everything_that_the_walk_did_can_be_undone_and_done_again(qtbot, empty: MainWindow) -> None:
    keys, session = Keyboard(qtbot, empty), empty.session
    first = session.plan
    add(keys, "servo")
    keys.press(Qt.Key.Key_Return, Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_R)
    last = session.plan
    assert last.turned == 90 and len(last.ties) == 1
    for _ in range(3):
        keys.ctrl(Qt.Key.Key_Z)
    assert session.plan == first
    for _ in range(3):
        keys.press(
            Qt.Key.Key_Z, shift=Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        )
    assert session.plan == last

"""Adding parts: what is typed finds what is meant, several at once, and dragged onto a pin."""

import msgspec
import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt
from PySide6.QtGui import QDropEvent

from knotplan.desktop.part_drag import PART_MIME, Dragged, as_bytes
from knotplan.desktop.window import MainWindow


def typed(qtbot, window: MainWindow, text: str) -> list[str]:
    window.actions_.by_id["add"].trigger()
    qtbot.keyClicks(window.search, text)
    return [e.text for e in window.search.popup.entries()]


def test_the_first_that_is_offered_is_the_one_that_is_meant(qtbot, window: MainWindow) -> None:
    assert typed(qtbot, window, "servo")[0].startswith("Add Micro servo")
    said = window.search.popup.preview.accessibleDescription()
    assert "signal: " in said and "power: supply, 4.5 – 6 V" in said, "what it needs is shown beside it"
    qtbot.keyClick(window.search, Qt.Key.Key_Down)
    assert window.search.popup.preview.accessibleDescription() != ""


def test_several_at_once_are_one_step(qtbot, window: MainWindow) -> None:
    before = window.session.plan
    assert typed(qtbot, window, "3 red led")[0] == "Add 3 × Red LED"
    qtbot.keyClick(window.search, Qt.Key.Key_Return)
    names = [p.name for p in window.session.plan.parts[len(before.parts) :]]
    assert names == ["Red LED", "Red LED 2", "Red LED 3"]
    assert window.session.undo_word == "add 3 × Red LED"
    window.session.undo()
    assert window.session.plan == before


def dropped(window: MainWindow, data: QMimeData, contact: str) -> None:
    at = window.loom.place_of(contact)
    event = QDropEvent(
        QPointF(at), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    window.loom.dropEvent(event)


def test_a_part_that_is_dropped_on_a_pin_is_tied_to_it(window: MainWindow) -> None:
    data = QMimeData()
    data.setData(PART_MIME, as_bytes(Dragged("push-button", "Bell rope", {})))
    dropped(window, data, "board.p37")
    tie = window.session.circuit.ties.at["board.p37"][0]
    assert tie.lead == "bell-rope.contact" and window.session.selection.id == "bell-rope.contact"
    window.session.undo()
    assert "board.p37" not in window.session.circuit.ties.at


def test_the_list_gives_what_it_drags(qtbot, window: MainWindow) -> None:
    typed(qtbot, window, "2 push button")
    found = window.search.popup.list
    data = found.mimeData([found.item(0)])
    what = msgspec.json.decode(bytes(data.data(PART_MIME).data()), type=Dragged)
    assert (what.part, what.count) == ("push-button", 2)


@pytest.mark.parametrize(
    "bad", [b"", b"{}", b"[1]", b'{"part":"nothing","name":"x","params":{}}', b'{"part":"led","count":9999}']
)
def test_what_is_no_part_changes_nothing(window: MainWindow, bad: bytes) -> None:
    before = window.session.plan
    data = QMimeData()
    data.setData(PART_MIME, bad)
    dropped(window, data, "board.p37")
    assert window.session.plan == before


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("99 led", "Between 1 and 32 parts can be added at once."),
        ("0 led", "Between 1 and 32 parts can be added at once."),
        ("serwo", "No part is called “serwo”. Nearest words: servo"),
        ("3 serwo", "No part is called “serwo”. Nearest words: servo"),
        ("zzzzqq", "No part is called “zzzzqq”."),
    ],
)
def test_what_finds_no_part_says_why(qtbot, window: MainWindow, text: str, said: str) -> None:
    assert typed(qtbot, window, text) == []
    assert window.search.popup.list.item(0).text().startswith(said)

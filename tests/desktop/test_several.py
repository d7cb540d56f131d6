"""Several parts at once: chosen, copied, put in, moved, changed, by mouse and by keys."""

import pytest
from PySide6.QtCore import QMimeData, QPoint, Qt
from PySide6.QtWidgets import QApplication, QComboBox

from knotplan.core.plan.document import Plan, split
from knotplan.desktop.clipboard import PARTS_MIME
from knotplan.desktop.panels.several_panel import SeveralPanel
from knotplan.desktop.window import MainWindow

NONE, CTRL, SHIFT = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
)
LEFT = Qt.MouseButton.LeftButton


def head(window: MainWindow, part: str) -> QPoint:
    """A place on the name of a part's card."""
    card = window.session.bench.card(part)
    return window.loom.to_widget(card.x + 14, card.y + card.form.head + 10).toPoint()


def click(qtbot, window: MainWindow, part: str, held=NONE) -> None:
    qtbot.mouseClick(window.loom, LEFT, held, head(window, part))


def chosen(window: MainWindow) -> set[str]:
    return set(window.session.selection.parts)


def test_ctrl_adds_and_takes_away_and_shift_takes_all_between(qtbot, window: MainWindow) -> None:
    click(qtbot, window, "lamp")
    click(qtbot, window, "flag", CTRL)
    assert chosen(window) == {"lamp", "flag"}
    click(qtbot, window, "lamp", CTRL)
    assert chosen(window) == {"flag"}
    side = window.session.bench.order["left"]
    click(qtbot, window, side[0])
    click(qtbot, window, side[2], SHIFT)
    assert set(side[:3]) <= chosen(window)
    click(qtbot, window, side[1])
    assert chosen(window) == {side[1]}, "a plain click means one"


def test_a_band_selects_what_it_touches(qtbot, window: MainWindow) -> None:
    bench = window.session.bench
    cards = [c for c in bench.cards if c.side == "right"]
    x, y = min(c.x for c in cards), min(c.y for c in cards)
    start = window.loom.to_widget(x - 12, y - 4).toPoint()
    end = window.loom.to_widget(x + 30, y + cards[0].h + 20).toPoint()
    qtbot.mousePress(window.loom, LEFT, NONE, start)
    qtbot.mouseMove(window.loom, end)
    qtbot.mouseRelease(window.loom, LEFT, NONE, end)
    area = {c.part for c in cards if c.y < y + cards[0].h + 20}
    assert chosen(window) == area and len(area) == 2


def test_everything_is_selected_by_keys_and_removed_as_one_step(qtbot, window: MainWindow) -> None:
    before = window.session.plan
    window.actions_.by_id["select-all"].trigger()
    assert chosen(window) == {p.id for p in before.parts}
    assert isinstance(window.side.inspector.panel, SeveralPanel)
    window.actions_.by_id["delete"].trigger()
    assert window.session.plan.parts == () and window.session.plan.ties == ()
    window.session.undo()
    assert window.session.plan == before


def test_parts_go_from_window_to_window_with_the_ties_among_them(open_window) -> None:
    one = open_window("harbour-light")
    other = open_window(Plan("clove-22"))
    one.session.select_parts(["lens", "lens-driver"])
    one.actions_.by_id["copy"].trigger()
    assert "Lens driver" in QApplication.clipboard().text(), "as text too"
    other.actions_.by_id["paste"].trigger()
    assert [p.id for p in other.session.plan.parts] == ["lens", "lens-driver"]
    assert len(other.session.plan.ties) == 4 and other.session.undo_word == "paste 2 parts"
    assert chosen(other) == {"lens", "lens-driver"}
    other.actions_.by_id["paste"].trigger()
    assert [p.name for p in other.session.plan.parts] == ["Lens", "Lens driver", "Lens 2", "Lens driver 2"]


def test_cut_and_duplicate(window: MainWindow) -> None:
    session = window.session
    session.select_parts(["horn-and-bell", "fog-horn"])
    among = [t for t in session.plan.ties if {split(t.lead)[0], split(t.to)[0]} <= chosen(window)]
    window.actions_.by_id["duplicate"].trigger()
    assert len(session.selection.parts) == 2 and chosen(window) != {"horn-and-bell", "fog-horn"}
    new = [t for t in session.plan.ties if {split(t.lead)[0], split(t.to)[0]} <= chosen(window)]
    assert len(new) == len(among) > 0
    session.undo()
    session.select_parts(["lamp"])
    window.actions_.by_id["cut"].trigger()
    assert "lamp" not in session.circuit.placed
    window.actions_.by_id["paste"].trigger()
    assert "lamp" in session.circuit.placed


@pytest.mark.parametrize("held", [b"", b"{}", b"nonsense", b'{"format": "knotplan-plan", "version": 99}'])
def test_what_is_no_part_on_the_clipboard_is_told_and_changes_nothing(
    window: MainWindow, held: bytes, monkeypatch
) -> None:
    told: list[str] = []
    window.session.noticed.connect(told.append)
    data = QMimeData()
    data.setData(PARTS_MIME, held)
    QApplication.clipboard().setMimeData(data)
    before = window.session.plan
    window.actions_.by_id["paste"].trigger()
    assert window.session.plan == before and told and "clipboard" in told[0]


def test_cards_are_carried_to_another_place_lined_up_and_let_go(qtbot, window: MainWindow) -> None:
    session, loom = window.session, window.loom
    start = head(window, "lamp")
    target = session.bench.card("flag")
    end = loom.to_widget(target.x + 20, target.y - 2).toPoint()
    qtbot.mousePress(loom, LEFT, NONE, start)
    for at in (start + QPoint(12, 6), end):
        qtbot.mouseMove(loom, at)
    qtbot.mouseRelease(loom, LEFT, NONE, end)
    assert session.plan.part("lamp").side == "right" and session.bench.card("lamp").side == "right"
    order = session.bench.order["right"]
    assert order.index("lamp") == order.index("flag") - 1
    window.actions_.by_id["let-go"].trigger()
    assert session.plan.part("lamp").side == "" and session.plan.part("lamp").place == -1
    session.select_parts(["door", "red-pier-light"])
    window.actions_.by_id["line-up"].trigger()
    side = session.bench.card("red-pier-light").side
    assert side == session.bench.card("door").side
    places = sorted(session.bench.order[side].index(p) for p in ("door", "red-pier-light"))
    assert places[1] == places[0] + 1


def test_one_field_of_many_is_changed_at_once(window: MainWindow) -> None:
    session = window.session
    session.select_parts(["red-pier-light", "green-pier-light"])
    panel = window.side.inspector.panel
    colour = panel.findChild(QComboBox, "colour")
    assert colour.currentText() == "various"
    colour.setCurrentIndex(colour.findData("amber"))
    colour.activated.emit(colour.currentIndex())
    assert {session.plan.part(p).params["colour"] for p in session.selection.parts} == {"amber"}
    assert session.undo_word == "change colour of 2 parts"

"""What the bubble at the pointer, the budgets and the menus say."""

from itertools import pairwise

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent, QNativeGestureEvent, QPointingDevice, QWheelEvent
from PySide6.QtWidgets import QApplication, QMenu

from knotplan.core.drawing.loom.view import Selection, look
from knotplan.core.drawing.palette import CORDS, LIGHT
from knotplan.core.drawing.shapes import Text, text_width
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop.commands.edit import PLACES
from knotplan.desktop.gauges import gauge, line_gauge
from knotplan.desktop.loom.hints import lines
from knotplan.desktop.loom.hit_tester import Hit
from knotplan.desktop.window import MainWindow


def bubble(window: MainWindow, kind: str, thing: str) -> str:
    s = window.session
    return "\n".join(text for text, _ in lines(s.report, s.view, Hit(kind, thing)))


def test_a_pin_s_bubble_has_its_names_its_jobs_its_load_and_its_tie(window: MainWindow) -> None:
    said = bubble(window, "pin", "board.p7")
    for words in (
        "L22 (pos 7)",
        "Library index 16",
        "line 62",
        "PULSE_A0",
        "in and out, pulse pair A",
        "Power-on pulled down",
        "of 12 mA",
        "Tied to Lamp · anode",
        "Shares pulse pair A, one frequency: L14, L21",
    ):
        assert words in said, words


def test_a_pin_answers_the_selected_lead_in_its_bubble(draft: MainWindow) -> None:
    draft.session.select("lead", "flag.signal")
    assert "best: own pulse pair B" in bubble(draft, "pin", "board.p18")
    assert "cannot: no pulse output" in bubble(draft, "pin", "board.p20")
    assert "possible: shares pulse pair A with Lamp (1 kHz)" in bubble(draft, "pin", "board.p12")


@pytest.mark.parametrize(
    ("kind", "thing", "words"),
    [
        ("pin", "board.usb", "up to 3 A"),
        ("pin", "board.p1", "1.5 a for all parts"),
        ("pin", "board.p40", "job console: the system prints"),
        ("lead", "flag.signal", "tied to L3 (pos 18)"),
        ("lead", "part-5-v-brick.plus", "tied to Flag · power"),
        ("tie", "lamp.anode", "with 180 Ω"),
        ("tie", "lamp.anode", "orange cord to L22 (pos 7)"),
        ("tie", "lamp.anode", "“lamp”"),
    ],
)
def test_other_bubbles(window: MainWindow, kind: str, thing: str, words: str) -> None:
    assert words.lower() in bubble(window, kind, thing).lower()


def test_a_selected_pin_is_answered_by_the_leads_that_want_one(draft: MainWindow) -> None:
    view = look(draft.session.report, "fit", Selection("pin", "board.p18"))
    assert set(view.answers) == {"flag.signal"}
    assert look(draft.session.report, "load", Selection("pin", "board.p18")).answers == {}


def test_a_supply_s_live_end_is_answered_by_what_it_can_feed(window: MainWindow) -> None:
    window.session.edit("untie", edits.untie, "flag.power")
    view = look(window.session.report, "fit", Selection("lead", "part-5-v-brick.plus"))
    assert "flag.power" in view.answers and not any(a.startswith("board.") for a in view.answers)


# --- budgets --------------------------------------------------------------------------------------


@pytest.mark.parametrize("size", [(1024, 640), (1280, 800), (2560, 1440)])
@pytest.mark.parametrize("board", ["bowline-40", "clove-22"])
@pytest.mark.parametrize("folded", [True, False])
def test_no_gauge_writes_over_its_neighbour(
    open_window, size: tuple[int, int], board: str, folded: bool
) -> None:
    window = open_window("harbour-light" if board == "bowline-40" else Plan(board))
    window.resize(*size)
    window.budgets.fold(folded)
    QApplication.processEvents()
    stacked = window.budgets._stacked()
    for budget, area in window.budgets._places():
        made = line_gauge(budget, area, LIGHT) if folded else gauge(budget, area, stacked, LIGHT)
        texts = [s for s in made if isinstance(s, Text)]
        spans = []
        for s in texts:
            wide = text_width(s.text, s.size, s.bold)
            spans.append((s.x - wide, s.x, s.y) if s.anchor == "end" else (s.x, s.x + wide, s.y))
        assert all(area.left() - 0.1 <= left and right <= area.right() + 0.1 for left, right, _ in spans)
        for (_, right, y), (left, _, y2) in pairwise(spans):
            assert y != y2 or right < left, "title and amount in one line do not touch"
        whole = not any(s.text.endswith("…") for s in texts)
        assert whole or (size == (1024, 640) and "assumed" in budget.title), (
            "only that long title is cut, in the least window"
        )


def test_a_click_on_a_budget_goes_to_its_finding(qtbot, open_window) -> None:
    plan = Plan("clove-22")
    for k in range(3):
        plan = edits.add_part(plan, "relay-module", f"Pump {k}")
        plan = edits.tie(plan, f"pump-{k}.coil", "board.w3")
    window = open_window(plan)
    qtbot.mouseClick(window.budgets, Qt.MouseButton.LeftButton, pos=QPoint(60, 18))
    focused = QApplication.focusWidget()
    assert focused.finding.rule == "rail-over" and focused.finding.subjects == ("5v",)


# --- menus, wheel ---------------------------------------------------------------------------------


def test_the_cord_and_bead_menus_act_on_what_is_selected(window: MainWindow) -> None:
    menus = window.actions_.submenus
    window.session.select("", "")
    assert not menus["colour"].isEnabled() and not menus["bead"].isEnabled()
    window.session.select("tie", "flag.signal")
    assert [a.text() for a in menus["colour"].actions()] == list(CORDS)
    next(a for a in menus["colour"].actions() if a.text() == "violet").trigger()
    assert window.session.plan.tie("flag.signal").cord == "violet"
    next(a for a in menus["bead"].actions() if a.text() == "Pull-down").trigger()
    assert window.session.plan.tie("flag.signal").beads[0].ohm == 10e3


def test_a_part_is_put_on_a_side_and_back(window: MainWindow) -> None:
    window.session.select("part", "flag")
    place = {a.text(): a for a in window.actions_.submenus["place"].actions()}
    place[PLACES["left"]].trigger()
    assert window.loom.card_of("flag").side == "left"
    place[PLACES[""]].trigger()
    assert window.loom.card_of("flag").side == "right"


def test_the_context_menu_offers_what_fits_what_is_under_the_pointer(window: MainWindow, monkeypatch) -> None:
    offered: list[list[str]] = []

    class Shown(QMenu):
        def exec(self, _at: QPoint) -> None:
            offered.append([a.text() for a in self.actions()])

    monkeypatch.setattr("knotplan.desktop.actions.QMenu", Shown)
    for kind, thing in (("part", "flag"), ("tie", "flag.signal"), ("", "")):
        window.session.select(kind, thing)
        event = QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, QPoint(5, 5), QPoint(5, 5))
        QApplication.sendEvent(window.loom, event)
    part, tie, nothing = offered
    assert "Re&name part …" in part and "&Cord colour" in tie and "&Add part …" in nothing
    assert "&Cord colour" not in nothing


def roll(
    loom, at: QPointF, pixels: QPoint, phase: Qt.ScrollPhase, keys=Qt.KeyboardModifier.NoModifier
) -> None:
    """A wheel, or two fingers on a touchpad, which tell pixels and a phase."""
    nothing = Qt.MouseButton.NoButton
    QApplication.sendEvent(loom, QWheelEvent(at, at, pixels, QPoint(0, 120), nothing, keys, phase, False))


def wide(loom) -> float:
    """Pixels for ten points of the bench."""
    return (loom.to_widget(10, 0) - loom.to_widget(0, 0)).x()


def test_the_wheel_zooms_about_the_pointer(window: MainWindow) -> None:
    loom, spot = window.loom, window.session.bench.pins["board.p18"]
    before, one = loom.place_of("board.p18"), wide(loom)
    roll(loom, before, QPoint(), Qt.ScrollPhase.NoScrollPhase)
    assert (loom.to_widget(spot.x, spot.y) - before).manhattanLength() < 1e-6
    assert wide(loom) > one * 1.1


def test_two_fingers_move_the_view_and_zoom_with_ctrl(window: MainWindow) -> None:
    loom = window.loom
    before, one, zero = loom.place_of("board.p18"), wide(loom), loom.to_widget(0, 0)
    roll(loom, before, QPoint(-30, 12), Qt.ScrollPhase.ScrollUpdate)
    assert loom.to_widget(0, 0) - zero == QPointF(-30, 12) and wide(loom) == pytest.approx(one)
    roll(loom, before, QPoint(-30, 12), Qt.ScrollPhase.ScrollUpdate, Qt.KeyboardModifier.ControlModifier)
    assert wide(loom) > one * 1.1


def test_two_fingers_that_part_zoom_about_their_middle(window: MainWindow) -> None:
    loom, spot = window.loom, window.session.bench.pins["board.p18"]
    at, one = loom.place_of("board.p18"), wide(loom)

    def pinch(value: float, kind=Qt.NativeGestureType.ZoomNativeGesture) -> None:
        pad = QPointingDevice.primaryPointingDevice()
        QApplication.sendEvent(loom, QNativeGestureEvent(kind, pad, 2, at, at, at, value, QPointF()))

    pinch(0.25)
    assert wide(loom) == pytest.approx(1.25 * one)
    assert (loom.to_widget(spot.x, spot.y) - at).manhattanLength() < 1e-6
    pinch(90.0, Qt.NativeGestureType.RotateNativeGesture)
    assert wide(loom) == pytest.approx(1.25 * one), "turning is none of ours"


def test_dragging_with_the_middle_button_moves_the_view(qtbot, window: MainWindow) -> None:
    loom = window.loom
    before = loom.to_widget(0, 0)
    qtbot.mousePress(loom, Qt.MouseButton.MiddleButton, pos=QPoint(4, 4))
    qtbot.mouseMove(loom, QPoint(44, 24))
    qtbot.mouseRelease(loom, Qt.MouseButton.MiddleButton, pos=QPoint(44, 24))
    assert loom.to_widget(0, 0) - before == QPointF(40, 20)
    window.actions_.by_id["zoom-fit"].trigger()
    assert (loom.to_widget(0, 0) - before).manhattanLength() < 1e-6


def test_recent_plans_open_again(window: MainWindow, tmp_path) -> None:
    path = tmp_path / "mine.knot.json"
    window.documents.save_to(path)
    window.documents.show_example("harbour-light-draft")
    window.actions_.submenus["recent"].aboutToShow.emit()
    entry = window.actions_.submenus["recent"].actions()[0]
    assert entry.text() == "mine.knot.json"
    entry.trigger()
    assert window.session.path == path


def test_a_double_click_on_a_card_renames_its_part(qtbot, window: MainWindow) -> None:
    card = window.loom.card_of("flag")
    qtbot.mouseDClick(
        window.loom, Qt.MouseButton.LeftButton, pos=window.loom.to_widget(card.x + 60, card.y + 18).toPoint()
    )
    field = QApplication.focusWidget()
    assert field.objectName() == "name"
    qtbot.keyClicks(field, "Pennant")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert window.session.plan.part("flag").name == "Pennant" and window.loom.hasFocus()


def test_of_many_budgets_the_fullest_are_shown_in_their_order() -> None:
    from knotplan.core.power.budget import Budget, Item
    from knotplan.desktop.budget_bar import fullest

    many = tuple(
        Budget(f"b{k}", f"B {k}", "supply", 1.0, (Item("x", 0.1, ((k * 7) % 10) / 10),)) for k in range(10)
    )
    shown, left = fullest(many, 4)
    assert left == 7 and [b.worst_a for b in shown] == pytest.approx([0.7, 0.8, 0.9])  # b1, b4, b7
    assert fullest(many, 10) == (many, 0) and len(fullest(many, 0)[0]) == 1

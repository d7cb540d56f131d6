"""Suggestions, mending, folding and cords, driven through the real window."""

import random

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QComboBox, QDialog, QPushButton, QWidget

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.core.plan.beads import SeriesResistor
from knotplan.core.plan.document import Plan
from knotplan.core.suggest.asked import loosened
from knotplan.core.suggest.suggestion import first_answer, prepare
from knotplan.desktop.mend_dialog import MendDialog
from knotplan.desktop.panels.suggestion_panel import SuggestionPanel
from knotplan.desktop.session import Session
from knotplan.desktop.window import MainWindow
from tests.conftest import lay
from tests.random.benches import crowded

BENCH = lay(
    "bowline-40",
    {"usb": "usb-brick", "Brick": "brick-5v", "Lamp": "led", "Flag": "micro-servo", "Door": "push-button"},
    {"usb.plug": "board.usb"},
)


def settled(qtbot, window: MainWindow) -> None:
    """Until the search has ended."""
    qtbot.waitUntil(lambda: not window.session.suggester.searching, timeout=60_000)
    window.session.suggester.wait()


def pressed(window: MainWindow, name: str) -> None:
    found = window.side.inspector.panel.findChild(QPushButton, name)
    assert isinstance(found, QPushButton), name
    found.click()


def test_everything_untied_is_suggested_shown_and_taken_as_one_step(qtbot, open_window) -> None:
    window = open_window(BENCH)
    window.actions_.by_id["suggest"].trigger()
    settled(qtbot, window)
    session = window.session
    found = session.suggester.suggestion
    assert found is not None and found.proven and found.conflict is None
    assert isinstance(window.side.inspector.panel, SuggestionPanel)
    assert "nothing costs less" in window.side.inspector.panel.state.text()
    assert session.plan == BENCH, "nothing is made before it is taken"
    assert window.loom._ghosts(), "it is drawn as ghosts"
    pressed(window, "takeAll")
    assert {t.lead for t in session.plan.ties} >= {
        "lamp.anode",
        "flag.signal",
        "door.contact",
        "brick.zero",
        "flag.power",
    }
    assert not [f for f in session.report.findings if f.rule == "lead-untied"]
    assert session.suggester.suggestion is None and not isinstance(
        window.side.inspector.panel, SuggestionPanel
    )
    session.undo()
    assert session.plan == BENCH


def test_ties_are_taken_one_by_one_and_the_rest_stays_proposed(qtbot, open_window) -> None:
    window = open_window(BENCH)
    window.actions_.by_id["suggest"].trigger()
    settled(qtbot, window)
    pressed(window, "take-door.contact")
    assert [t.lead for t in window.session.plan.ties] == ["usb.plug", "door.contact"]
    left = window.session.suggester.suggestion
    assert left is not None and "door.contact" not in {t.lead for t in left.ties} and left.ties
    pressed(window, "leaveSuggestion")
    assert window.session.suggester.suggestion is None and len(window.session.plan.ties) == 2


@pytest.mark.parametrize("taken", [["door.contact"], None])
def test_what_is_taken_is_not_proposed_while_the_window_draws_itself_anew(qtbot, open_window, taken) -> None:
    """Any view may ask for the suggested circuit as soon as the plan has changed."""
    window = open_window(BENCH)
    session = window.session
    window.actions_.by_id["suggest"].trigger()
    settled(qtbot, window)
    asked: list[int] = []
    session.changed.connect(lambda: asked.append(len(session.suggested_circuit().plan.ties)))
    whole = len(session.suggested_circuit().plan.ties)
    session.take_suggestion(taken)
    assert asked and set(asked) == {whole}, (
        "what is made and what is still proposed make the whole, at every moment"
    )
    left = session.suggester.suggestion
    assert (left is None) == (taken is None) and bool(window.loom._ghosts()) == (taken is not None)


@pytest.mark.parametrize("anew", [False, True])
@pytest.mark.parametrize("seed", [*range(40), 282])  # in the last one a load goes on a bare contact
def test_any_suggestion_is_taken_tie_by_tie(qapp, seed: int, anew: bool) -> None:
    """After each one, what is made and what is still proposed make the same whole; then all of it is made."""
    plan = crowded(random.Random(seed), shipped())
    session = Session(shipped(), plan)
    asked = loosened(plan, shipped()) if anew else plan
    session._be_about(asked)
    found = first_answer(prepare(asked, shipped()), shipped())
    session.suggester.suggestion = found
    whole = joined(session.suggested_circuit().plan)
    session.changed.connect(lambda: seen.append(joined(session.suggested_circuit().plan)))
    seen: list[set[frozenset[str]]] = []
    for tie in found.ties:
        session.take_suggestion([tie.lead])
    assert all(now == whole for now in seen)
    assert joined(session.plan) == whole
    assert session.suggester.suggestion is (None if found.ties else found)


def test_a_tie_that_stands_already_the_other_way_round_is_no_trouble(qapp) -> None:
    """A wire is told from its consumer's end; a suggestion may tell it from the other one."""
    plan = edits.tie(BENCH, "flag.ground", "brick.zero")
    session = Session(shipped(), plan)
    session._be_about(loosened(plan, shipped()))
    found = first_answer(prepare(BENCH, shipped(), ["brick.zero"]), shipped())
    session.suggester.suggestion = replace(
        found, ties=(replace(found.ties[0], lead="brick.zero", contact="flag.ground"),)
    )
    assert joined(session.suggested_circuit().plan) == joined(plan)
    session.take_suggestion()
    assert joined(session.plan) == joined(plan) and session.suggester.suggestion is None


def joined(plan: Plan) -> set[frozenset[str]]:
    return {frozenset((t.lead, t.to)) for t in plan.ties}


def test_another_edit_puts_a_suggestion_away(qtbot, open_window) -> None:
    window = open_window(BENCH)
    window.actions_.by_id["suggest"].trigger()
    settled(qtbot, window)
    window.session.edit("turn", edits.turn)
    assert window.session.suggester.suggestion is None and window.session.preview is None


def test_only_what_is_selected_is_asked_about(qtbot, open_window) -> None:
    window = open_window(BENCH)
    window.session.select("part", "door")
    window.loom.setFocus()
    qtbot.keyClick(window.windowHandle(), Qt.Key.Key_S)
    settled(qtbot, window)
    found = window.session.suggester.suggestion
    assert found is not None and {t.lead for t in found.ties} == {"door.contact", "door.common"}


def test_a_conflict_is_named_and_the_others_can_still_be_had(qtbot, open_window) -> None:
    window = open_window(edits.add_part(BENCH, "knob", "Dial"))
    window.actions_.by_id["suggest"].trigger()
    settled(qtbot, window)
    found = window.session.suggester.suggestion
    assert found is not None and found.conflict is not None and found.ties == ()
    assert "Dial · wiper" in found.conflict.words
    pressed(window, "suggestOthers")
    settled(qtbot, window)
    found = window.session.suggester.suggestion
    assert found is not None and found.conflict is None and "dial.wiper" not in {t.lead for t in found.ties}
    assert "flag.signal" in {t.lead for t in found.ties}


def test_a_search_is_stopped_and_what_was_found_stays(qtbot, open_window) -> None:
    window = open_window(BENCH)
    suggester = window.session.suggester
    window.actions_.by_id["suggest"].trigger()
    qtbot.waitUntil(lambda: suggester.suggestion is not None, timeout=60_000)
    suggester.stop()
    suggester.wait()
    assert not suggester.searching and suggester.suggestion is not None and suggester.suggestion.ties


def test_anew_moves_what_is_not_fixed(qtbot, open_window) -> None:
    plan = edits.tie(edits.tie(BENCH, "door.contact", "board.p40"), "flag.signal", "board.p12")
    plan = edits.set_cord(edits.set_role(plan, "door.contact", "visitor"), "door.contact", 0.8)
    window = open_window(edits.fix_tie(plan, "flag.signal", True))
    window.actions_.by_id["suggest-anew"].trigger()
    settled(qtbot, window)
    pressed(window, "takeAll")
    ties = {t.lead: t.to for t in window.session.plan.ties}
    assert ties["door.contact"] != "board.p40" and ties["flag.signal"] == "board.p12"
    assert len([t for t in window.session.plan.ties if t.lead == "door.contact"]) == 1
    moved = window.session.plan.tie("door.contact")
    assert (moved.role, moved.length_m) == ("visitor", 0.8), "what the maker said of the tie moves with it"


def test_mending_all_that_is_safe_is_shown_first_and_undone_at_once(monkeypatch, open_window) -> None:
    ties = {
        "usb.plug": "board.usb",
        "lamp.anode": "p11",
        "lamp.cathode": "p17",
        "door.contact": "p8",
        "door.common": "p28",
        "brick.zero": "p39",
        "flag.power": "brick.plus",
        "flag.ground": "brick.zero",
        "flag.signal": "p7",
    }
    parts = {
        "usb": "usb-brick",
        "Brick": "brick-5v",
        "Lamp": "led",
        "Flag": "micro-servo",
        "Door": "push-button",
    }
    window = open_window(lay("bowline-40", parts, ties))
    before = window.session.plan
    seen: list[str] = []

    def looked(dialog: MendDialog) -> int:
        seen.extend(dialog.list.item(k).text() for k in range(dialog.list.count()))
        assert window.session.preview is not None and window.session.plan == before
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(MendDialog, "exec", looked)
    window.actions_.by_id["mend"].trigger()
    assert any("270 Ω" in text for text in seen) and any("pull-up" in text for text in seen)
    assert window.session.report.findings == ()
    window.session.undo()
    assert window.session.plan == before


def test_mending_leaves_the_makers_decisions_alone(monkeypatch, open_window) -> None:
    """A resistor that is there, if wrong, is the maker's; so is the pin that a tie is on."""
    plan = lay(
        "bowline-40",
        {"usb": "usb-brick", "Lamp": "led"},
        {"usb.plug": "board.usb", "lamp.anode": "p38", "lamp.cathode": "p17"},
        {"lamp.anode": [SeriesResistor(10e3)]},
    )
    window = open_window(plan)
    told: list[str] = []
    window.session.noticed.connect(told.append)
    window.actions_.by_id["mend"].trigger()
    assert told and "decision of yours" in told[0] and window.session.plan == plan


WINDER = lay(
    "clove-22",
    {"Lens": "geared-stepper", "Driver": "coil-driver"},
    {"lens.blue": "driver.out1", "driver.in1": "e5"},
)


@pytest.fixture
def winder(open_window) -> MainWindow:
    return open_window(WINDER)


def test_space_folds_a_hub_with_what_hangs_on_it(qtbot, winder: MainWindow) -> None:
    winder.session.select("part", "driver")
    winder.loom.setFocus()
    qtbot.keyClick(winder.windowHandle(), Qt.Key.Key_Space)
    assert "lens" not in winder.session.bench.by_part
    qtbot.keyClick(winder.windowHandle(), Qt.Key.Key_Space)
    assert "lens" in winder.session.bench.by_part


def test_a_click_on_the_foot_shows_all_leads(qtbot, winder: MainWindow) -> None:
    card = winder.session.bench.card("driver")
    x, y, w, h = card.foot
    at = winder.loom.to_widget(x + w / 2, y + h / 2)
    qtbot.mouseClick(winder.loom, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert "driver.out7" in winder.session.bench.leads
    chooser = winder.side.inspector.panel.findChild(QComboBox, "shows")
    assert isinstance(chooser, QComboBox) and chooser.currentText() == "all leads"


def test_a_cord_dropped_on_a_card_finds_the_best_contact_there(qtbot, winder: MainWindow) -> None:
    loom, card = winder.loom, winder.session.bench.card("driver")
    start = loom.place_of("lens.pink").toPoint()
    end = loom.to_widget(card.x + card.w / 2, card.y + 20).toPoint()
    qtbot.mousePress(loom, Qt.MouseButton.LeftButton, pos=start)
    qtbot.mouseMove(loom, start + (end - start) / 2)
    qtbot.mouseMove(loom, end)
    qtbot.mouseRelease(loom, Qt.MouseButton.LeftButton, pos=end)
    assert winder.session.plan.tie_of("lens.pink").to == "driver.out2"


def test_a_cord_has_a_length_and_copper(qtbot, winder: MainWindow) -> None:
    winder.session.select("lead", "driver.in1")
    field = winder.side.inspector.panel.findChild(QWidget, "length")
    line = getattr(field, "line", field)
    line.selectAll()
    qtbot.keyClicks(line, "1.5")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert winder.session.plan.tie("driver.in1").length_m == 1.5
    winder.session.select("lead", "driver.in1")
    copper = winder.side.inspector.panel.findChild(QComboBox, "copper")
    copper.setCurrentIndex(copper.findText("0.5", Qt.MatchFlag.MatchStartsWith))
    copper.activated.emit(copper.currentIndex())
    assert winder.session.plan.tie("driver.in1").mm2 == 0.5


def test_the_wheel_moves_what_is_painted_and_paints_anew_when_it_rests(qtbot, winder: MainWindow) -> None:
    loom = winder.loom
    loom._took_s = 1.0  # as if painting took longer than a frame
    loom.grab()
    loom._took_s = 1.0
    loom.zoom(1.5, QPointF(100, 100))
    assert loom._moving is not None and loom._settling.isActive()
    loom.grab()
    assert loom._layer is None, "nothing was painted anew meanwhile"
    qtbot.waitUntil(lambda: not loom._settling.isActive())
    loom.grab()
    assert loom._layer is not None and loom._moving is None


def test_arranging_anew_keeps_the_plan(winder: MainWindow) -> None:
    before = winder.session.plan
    winder.actions_.by_id["arrange"].trigger()
    assert winder.session.plan == before and not winder.session.can_undo


def test_a_plan_without_parts_has_nothing_to_suggest(qtbot, open_window) -> None:
    window = open_window(Plan("bowline-40"))
    window.actions_.by_id["suggest"].trigger()
    settled(qtbot, window)
    assert window.session.suggester.suggestion is not None and window.session.suggester.suggestion.ties == ()


def test_enter_takes_all_and_escape_puts_it_away(qtbot, open_window) -> None:
    window = open_window(BENCH)
    window.loom.setFocus()
    qtbot.keyClick(window.windowHandle(), Qt.Key.Key_S)
    settled(qtbot, window)
    qtbot.keyClick(window.loom, Qt.Key.Key_Escape)
    assert window.session.suggester.suggestion is None and window.session.plan == BENCH
    qtbot.keyClick(window.windowHandle(), Qt.Key.Key_S)
    settled(qtbot, window)
    qtbot.keyClick(window.loom, Qt.Key.Key_Return)
    assert "flag.signal" in {t.lead for t in window.session.plan.ties}


def test_mending_is_offered_where_the_findings_are(qtbot, monkeypatch, open_window) -> None:
    window = open_window(
        lay(
            "bowline-40",
            {"usb": "usb-brick", "Lamp": "led"},
            {"usb.plug": "board.usb", "lamp.anode": "p11", "lamp.cathode": "p17"},
        )
    )
    monkeypatch.setattr(MendDialog, "exec", lambda dialog: QDialog.DialogCode.Accepted)
    qtbot.waitUntil(lambda: window.side.findings.mend.isVisibleTo(window), timeout=10_000)
    window.side.findings.mend.click()
    assert window.session.report.findings == () and not window.side.findings.mend.isVisibleTo(window)

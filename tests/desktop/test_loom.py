"""Pointing, dragging and keys on the bench."""

import random

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QApplication

from knotplan.catalog.load import shipped
from knotplan.core.drawing.loom.picture import groups
from knotplan.core.drawing.loom.sketch import FAR, Sketch
from knotplan.core.drawing.loom.view import Selection
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop.loom.hit_tester import Hit
from knotplan.desktop.window import MainWindow
from knotplan.examples import example


def at(window: MainWindow, contact: str) -> QPoint:
    return window.loom.place_of(contact).toPoint()


def drag(qtbot, window: MainWindow, start: QPoint, stop: QPoint) -> None:
    loom = window.loom
    qtbot.mousePress(loom, Qt.MouseButton.LeftButton, pos=start)
    for k in range(1, 6):
        qtbot.mouseMove(loom, start + (stop - start) * k / 5)
    QApplication.processEvents()
    qtbot.mouseRelease(loom, Qt.MouseButton.LeftButton, pos=stop)


def test_a_cord_pulled_from_a_lead_to_a_pin_ties_it_in_one_step(qtbot, draft: MainWindow) -> None:
    before = draft.session.plan
    drag(qtbot, draft, at(draft, "flag.signal"), at(draft, "board.p18"))
    assert draft.session.plan.tie_of("flag.signal").to == "board.p18"
    assert "Flag · signal" not in [f.message for f in draft.session.report.findings]
    draft.session.undo()
    assert draft.session.plan == before


def test_a_pins_end_moves_to_another_pin(qtbot, window: MainWindow) -> None:
    drag(qtbot, window, at(window, "board.p20"), at(window, "board.p8"))
    assert window.session.plan.tie_of("door.contact").to == "board.p8"


def test_pulling_into_nowhere_changes_nothing(qtbot, window: MainWindow) -> None:
    before = window.session.plan
    drag(qtbot, window, at(window, "flag.signal"), QPoint(5, 5))
    assert window.session.plan is before


def test_the_cord_snaps_and_the_pin_answers_under_the_pointer(qtbot, draft: MainWindow) -> None:
    loom, start, stop = draft.loom, at(draft, "flag.signal"), at(draft, "board.p16")
    qtbot.mousePress(loom, Qt.MouseButton.LeftButton, pos=start)
    for k in range(1, 6):
        qtbot.mouseMove(loom, start + (stop - start) * k / 5)
    texts = [s.text for s in loom._hovered() if hasattr(s, "text")]
    assert "cannot: no pulse output" in texts
    assert len(loom._dragged()) == 2, "snapped cords have an edge"
    qtbot.mouseRelease(loom, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))


def test_clicks_select_leads_pins_cards_and_cords(qtbot, window: MainWindow) -> None:
    loom, session = window.loom, window.session
    qtbot.mouseClick(loom, Qt.MouseButton.LeftButton, pos=at(window, "flag.signal"))
    assert session.selection == Selection("lead", "flag.signal")
    qtbot.mouseClick(loom, Qt.MouseButton.LeftButton, pos=at(window, "board.p18"))
    assert session.selection == Selection("pin", "board.p18")
    card = loom.card_of("flag")
    qtbot.mouseClick(loom, Qt.MouseButton.LeftButton, pos=loom.to_widget(card.x + 60, card.y + 18).toPoint())
    assert session.selection == Selection("part", "flag")
    bead = next(c for c, _ in loom.hits.cords if c.tie == "lamp.anode").beads[0]
    qtbot.mouseClick(loom, Qt.MouseButton.LeftButton, pos=loom.to_widget(bead[0], bead[1]).toPoint())
    assert session.selection == Selection("tie", "lamp.anode", "lamp.anode")
    qtbot.mouseClick(loom, Qt.MouseButton.LeftButton, pos=QPoint(4, 4))
    assert session.selection == Selection()


def test_keys_alone_tie_a_lead_to_the_best_candidate(qtbot, draft: MainWindow) -> None:
    draft.loom.setFocus()
    draft.session.select("lead", "flag.signal")
    qtbot.keyClick(draft.loom, Qt.Key.Key_Return)
    offers = draft.side.inspector.panel.offers
    assert offers.hasFocus()
    best = offers.offer().contact
    qtbot.keyClick(offers, Qt.Key.Key_Return)
    assert draft.session.plan.tie_of("flag.signal").to == best
    assert draft.loom.hasFocus()


def test_arrows_walk_over_leads_and_across_cords(qtbot, window: MainWindow) -> None:
    loom, session = window.loom, window.session
    for side in ("left", "right"):
        cards = sorted((c for c in session.bench.cards if c.side == side), key=lambda c: (c.y, c.x))
        leads = [spot.contact for card in cards for spot in card.leads]
        session.select("lead", leads[0])
        seen = [leads[0]]
        for _ in leads[1:]:
            qtbot.keyClick(loom, Qt.Key.Key_Down)
            seen.append(session.selection.id)
        assert seen == leads
    session.select("lead", "flag.signal")
    qtbot.keyClick(loom, Qt.Key.Key_Left)  # the cord leaves to the left
    assert session.selection == Selection("pin", "board.p18")
    qtbot.keyClick(loom, Qt.Key.Key_Right)
    assert session.selection == Selection("lead", "flag.signal")
    qtbot.keyClick(loom, Qt.Key.Key_Escape)
    assert session.selection == Selection()


def test_digits_typed_on_a_selected_lead_begin_a_pins_name(qtbot, draft: MainWindow) -> None:
    draft.loom.setFocus()
    draft.session.select("lead", "flag.signal")
    qtbot.keyClick(draft.loom, Qt.Key.Key_1)
    field = draft.side.inspector.panel.field
    assert field.hasFocus() and field.text() == "1"


@pytest.mark.parametrize("name", ["A0", "RST", "SDA1", "t", "S"])
def test_letters_typed_on_a_selected_lead_begin_a_name_and_are_no_commands(
    qtbot, draft: MainWindow, name: str
) -> None:
    """As the window system delivers keys: shortcuts are tried first, and stand back."""
    draft.loom.setFocus()
    before = draft.session.plan
    draft.session.select("lead", "flag.signal")
    for letter in name:
        shift = Qt.KeyboardModifier.ShiftModifier if letter.isupper() else Qt.KeyboardModifier.NoModifier
        qtbot.keyClick(draft.windowHandle(), letter, shift)
        QApplication.processEvents()
    field = draft.side.inspector.panel.field
    assert field.hasFocus() and field.text() == name
    assert draft.session.plan == before and not draft.search.hasFocus()


def test_single_letters_are_commands_where_nothing_expects_a_name(qtbot, window: MainWindow) -> None:
    window.loom.setFocus()
    window.session.select("", "")
    qtbot.keyClick(window.windowHandle(), "a")
    assert window.search.hasFocus()


def test_typing_a_name_brings_a_folded_side_back(qtbot, window: MainWindow) -> None:
    window.fold_side()
    assert not window._side_place.isVisible()
    window.loom.setFocus()
    window.session.select("lead", "flag.signal")
    qtbot.keyClick(window.loom, "L")
    assert window._side_place.isVisible() and window.side.inspector.panel.field.text() == "L"


def test_the_view_follows_the_selection_when_it_is_zoomed(qtbot, window: MainWindow) -> None:
    loom, session = window.loom, window.session
    for _ in range(8):
        loom.zoom(1.25)
    for contact in (*session.bench.leads, *session.bench.pins):
        session.select("lead" if contact in session.bench.leads else "pin", contact)
        at = loom.place_of(contact)
        assert 0 < at.x() < loom.width() and 0 < at.y() < loom.height(), contact
    assert loom.scale > 3


def test_delete_unties_then_removes(qtbot, window: MainWindow) -> None:
    window.session.select("lead", "flag.signal")
    window.actions_.by_id["delete"].trigger()
    assert window.session.plan.tie_of("flag.signal") is None
    window.session.select("part", "flag")
    window.actions_.by_id["delete"].trigger()
    assert "flag" not in window.session.circuit.placed
    window.session.undo()
    window.session.undo()
    assert window.session.plan.tie_of("flag.signal").to == "board.p18"


def test_zooming_keeps_the_place_under_the_pointer(window: MainWindow) -> None:
    loom = window.loom
    spot = window.session.bench.pins["board.p18"]
    before = loom.place_of("board.p18")
    loom.zoom(1.5, before)
    after = loom.to_widget(spot.x, spot.y)
    assert (after - before).manhattanLength() < 1e-6
    loom.fit()
    x, y, w, h = window.session.bench.bounds()
    corners = [loom.to_widget(x, y), loom.to_widget(x + w, y + h)]
    assert all(loom.rect().contains(c.toPoint()) for c in corners)


@pytest.mark.parametrize("size", [(1024, 640), (1280, 800), (2560, 1440)])
def test_everything_fits_at_any_size(window: MainWindow, size: tuple[int, int]) -> None:
    window.resize(*size)
    QApplication.processEvents()
    x, y, w, h = window.session.bench.bounds()
    for place in (QPointF(x, y), QPointF(x + w, y + h)):
        assert window.loom.rect().contains(window.loom.to_widget(place.x(), place.y()).toPoint())


def test_turning_keeps_ties_under_their_pins(qtbot, window: MainWindow) -> None:
    for action in ("turn", "flip", "turn"):
        window.actions_.by_id[action].trigger()
        spot = at(window, "board.p18")
        qtbot.mouseClick(window.loom, Qt.MouseButton.LeftButton, pos=spot)
        assert window.session.selection == Selection("pin", "board.p18")


def test_an_empty_bench_says_what_to_do(open_window) -> None:
    window = open_window(Plan("clove-22"))
    assert not window.loom.grab().isNull()
    texts = window.side.inspector.panel.findChildren(type(window.bar.state))
    assert any("Press A" in t.text() for t in texts)


def test_a_long_session_of_edits_goes_back_to_the_beginning(window: MainWindow) -> None:
    first = window.session.plan
    for k, cord in enumerate(["red", "green", "blue", "violet", "white"] * 3):
        window.session.edit("recolour", edits.recolour, "flag.signal", cord)
        window.session.edit("turn", edits.turn)
        assert window.session.undo_word, k
    while window.session.can_undo:
        window.session.undo()
    assert window.session.plan == first
    while window.session.can_redo:
        window.session.redo()
    assert window.session.plan.tie("flag.signal").cord == "white"


def test_a_gesture_is_one_step(window: MainWindow) -> None:
    for cord in ("red", "green", "blue"):
        window.session.edit("recolour", edits.recolour, "flag.signal", cord, gesture="spin")
    window.session.undo()
    assert window.session.plan.tie("flag.signal").cord == ""


def test_ties_of_a_file_with_ids_of_its_own_can_be_selected(open_window) -> None:
    """Ids are the file's: nothing may be read out of them."""
    from msgspec.structs import replace

    from knotplan.catalog.load import shipped
    from knotplan.examples import example

    plan = example("harbour-light", shipped())
    window = open_window(
        replace(plan, ties=tuple(replace(t, id=f"wire {k}") for k, t in enumerate(plan.ties)))
    )
    for k, tie in enumerate(plan.ties):
        window.session.select("tie", f"wire {k}")
        assert window.session.selection.lead == tie.lead
        assert window.loom.accessibleDescription() == window.session.circuit.titles.of(tie.lead)
        assert not window.loom.grab().isNull()


@pytest.mark.parametrize("scene", ["harbour-light", "mist-bench", "seed-drawers"])
def test_whatever_the_pointer_rests_on_may_be_folded_away_or_go(open_window, scene: str) -> None:
    """A bubble is drawn for what is drawn; a lead, pin or cord that an edit
    has taken off the picture has none."""
    window = open_window(example(scene, shipped()))
    loom, session = window.loom, window.session
    every = {
        p.id: ("folded" if session.plan.part(p.id).shows != "folded" else "all") for p in session.plan.parts
    }
    places = [Hit("lead", x) for x in session.bench.leads] + [Hit("pin", x) for x in session.bench.pins]
    places += [Hit("tie", t.id) for t in session.plan.ties] + [Hit("part", p) for p in every]
    for hit in places:
        loom._hover, loom._rested = hit, True
        assert loom._hovered() is not None
    for part, shows in every.items():
        for hit in (h for h in places if h.id.partition(".")[0] == part):
            loom._hover, loom._rested = hit, True
            session.edit("fold", edits.show_leads, part, shows)
            loom.grab()
            session.undo()
        loom._hover = Hit("part", part)
        session.edit("delete", edits.remove_part, part)
        loom.grab()
        session.undo()


@pytest.mark.parametrize("seed", range(6))
def test_what_is_painted_and_pointed_at_is_always_the_bench_as_it_is(window: MainWindow, seed: int) -> None:
    """Whatever is done in whatever order: another size, a folded side, an edit, a lens, a zoom."""
    r, loom, session = random.Random(seed), window.loom, window.session
    plan = session.plan
    acts = (
        lambda: window.resize(r.choice([800, 1024, 1366, 1900]), r.choice([480, 640, 800, 1080])),
        window.fold_side,
        lambda: window.budgets.fold(not window.budgets.folded),
        lambda: session.edit("turn", edits.turn),
        lambda: session.edit("add", edits.add_part, "led", "One more"),
        session.undo,
        lambda: session.look_through(r.choice(["fit", "volts", "load"])),
        lambda: loom.zoom(r.choice([0.6, 1.5])),
        loom.fit,
    )
    for _ in range(25):
        r.choice(acts)()
        QApplication.processEvents()
        if loom.scale >= FAR:
            now = groups(session.report, session.bench, session.view, loom.p)
        else:
            now = Sketch(session.report, session.bench, loom.p).groups(loom.scale)
        assert loom.layers() == now
        assert loom.hits.bench is session.bench
    while session.can_undo:
        session.undo()
    assert session.plan == plan

"""The Wire-up view in the real window: the demo wired to its end by keyboard, then two edits."""

from collections.abc import Callable
from functools import reduce

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QPushButton, QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.close_up import READABLE, close_up
from knotplan.core.drawing.palette import DARK, LIGHT
from knotplan.core.drawing.shapes import Disc, Text
from knotplan.core.meter.told import typed
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan, split
from knotplan.core.plan.wired import Reading
from knotplan.core.wiring.entries import CHANGED
from knotplan.core.wiring.state import state_of
from knotplan.desktop.window import MainWindow
from knotplan.desktop.wire.view import WireView

Key = Qt.Key


@pytest.fixture
def window(open_window: Callable[..., MainWindow]) -> MainWindow:
    made = open_window("harbour-light")
    made.show_view("wire")
    return made


def worked_out(page: WireView) -> bool:
    return page.meter.table is not None and page.meter.table.whole


@pytest.fixture
def view(window: MainWindow, qtbot) -> WireView:
    page: WireView = window.views.page("wire")
    qtbot.waitUntil(lambda: worked_out(page), timeout=60_000)
    return page


def press(widget: QWidget, key: Key) -> None:
    QTest.keyClick(widget, key)
    QApplication.processEvents()


def texts(widget: QWidget) -> str:
    return " ".join(x.text() for x in widget.findChildren(QLabel))


def measure_first(view: WireView) -> None:
    """The readings between the supplies, by keyboard."""
    view.meter.list.setFocus()
    view.meter.list.choose(view.meter.checks[0].point.id)
    while view.meter.missing():
        press(view.meter.list, Key.Key_Space)


def test_the_demo_is_wired_to_its_end_by_keyboard_and_two_edits_are_replugged(view: WireView, window) -> None:
    session = window.session
    count = len(view.entries)
    assert view.far.text() == f"0 of {count} done" and view.entry() == view.entries[0]
    view.list.setFocus()
    for done in range(count):
        entry = view.entry()
        assert entry is not None and entry.mark == "open"
        if entry.step is not None and entry.step.stage == "power" and view.meter.missing():
            assert not view.sheet.next_button.isEnabled() and "First measure" in view.sheet.warning.text()
            press(view.list, Key.Key_Space)
            assert view.far.text() == f"{done} of {count} done", "nothing is switched on unmeasured"
            measure_first(view)
            view.list.setFocus()
        press(view.list, Key.Key_Space)
        assert view.far.text() == f"{done + 1} of {count} done"
    assert state_of(session.circuit).done == set(state_of(session.circuit).tasks)
    assert len(session.plan.readings) == sum(c.needed for c in view.meter.checks)
    press(view.list, Key.Key_Space)
    assert view.far.text() == f"{count} of {count} done", "there is nothing left to do"

    session.edit("tie", edits.tie, "lamp.anode", "board.p12")
    session.edit("remove", edits.remove_part, "flag")
    changed = [e for e in view.entries if e.group == CHANGED]
    assert {e.do for e in changed} == {
        "Unplug Flag · signal from L3 (pos 18)",
        "Unplug Flag · power from 5 V brick · +5 V",
        "Unplug Flag · ground from GND (pos 28)",
        "Move Lamp · anode: from L22 (pos 7) to L14 (pos 12)",
    }
    view.list.choose(changed[0].id)
    for _ in changed:
        press(view.list, Key.Key_Space)
    assert not [e for e in view.entries if e.mark != "done"]
    assert state_of(session.circuit).done == set(state_of(session.circuit).tasks)
    for _ in changed:
        session.undo()
    assert len([e for e in view.entries if e.group == CHANGED]) == 4, "the bench is under undo"


def test_backspace_goes_back_and_delete_takes_a_mark_away(view: WireView) -> None:
    view.list.setFocus()
    for _ in range(3):
        press(view.list, Key.Key_Space)
    assert view.entry() == view.entries[3]
    press(view.list, Key.Key_Backspace)
    assert view.entry() == view.entries[2] and view.entries[2].mark == "done", "going back undoes nothing"
    press(view.list, Key.Key_Delete)
    assert view.entries[2].mark == "open" and view.far.text().startswith("2 of")
    press(view.sheet, Key.Key_Space)
    assert view.entries[2].mark == "done" and view.entry() == view.entries[3]
    press(view.sheet, Key.Key_Backspace)
    assert view.entry() == view.entries[2]


def test_a_click_on_the_sheet_is_done_next_and_one_on_a_mark_turns_it(view: WireView) -> None:
    QTest.mouseClick(view.sheet, Qt.MouseButton.LeftButton, pos=QPoint(60, view.sheet.height() - 60))
    assert view.entries[0].mark == "done" and view.entry() == view.entries[1]
    row = next(k for k, r in enumerate(view.list.model_.rows) if getattr(r, "id", "") == view.entries[0].id)
    at = view.list.visualRect(view.list.model_.index(row, 0))
    QTest.mouseClick(
        view.list.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(at.left() + 12, at.center().y())
    )
    assert view.entries[0].mark == "open"


def test_a_step_selects_its_tie_everywhere(view: WireView, window: MainWindow) -> None:
    view.list.choose("cord:lamp.anode")
    assert (window.session.selection.kind, window.session.selection.id) == ("tie", "lamp.anode")
    assert "180 Ω (brown grey brown silver)" in view.sheet.do.text()
    assert view.sheet.where.text() == "Left row, 4th pin from the notch end, between GND and L0"


def test_a_slip_that_does_harm_is_told(view: WireView, qtbot) -> None:
    view.list.choose("cord:part-5-v-brick.zero")
    qtbot.waitUntil(lambda: "Not into" in view.sheet.warning.text(), timeout=30_000)
    assert "L17 (pos 37)" in view.sheet.warning.text() and "bears 3.6 V" in view.sheet.warning.text()
    view.list.choose("cord:lamp.cathode")
    assert "Not into L17" not in view.sheet.warning.text()


def test_progress_stands_in_the_rail(view: WireView, window: MainWindow) -> None:
    (made,) = (b for b in window.rail.buttons if b.view.id == "wire")
    assert made.share == 0.0
    view.do_it()
    assert made.share == pytest.approx(1 / len(view.entries)) and "% done" in made.accessibleDescription()


def test_pads_are_shown_as_they_lie(view: WireView) -> None:
    from knotplan.desktop.buses.pads import Pads

    view.list.choose("part:air")
    (pads,) = view.sheet.findChildren(Pads)
    assert pads.part_id == "air" and view.sheet.close_up.isHidden()
    view.list.choose("cord:lamp.anode")
    assert not view.sheet.pads.isVisible() and not view.sheet.close_up.isHidden()


# --- the meter -----------------------------------------------------------------------------------------


def chosen(view: WireView, point: str) -> None:
    found = next(p for p in view.meter.table.points if p.id == point)
    view.meter.ask(found)


def test_readings_are_typed_kept_and_answered(view: WireView, window: MainWindow) -> None:
    chosen(view, "ohms:lamp.anode:board.p7")
    assert "180 Ω (162 Ω to 198 Ω)" in view.meter.expects.text()
    assert "Lamp · anode: cord open" in view.meter.means.text()
    QTest.keyClicks(view.meter.field, "181")
    press(view.meter.field, Key.Key_Return)
    (reading,) = window.session.plan.readings
    assert (reading.value, reading.says) == (181.0, "") and view.meter.mark(
        view.meter.table.points[0]
    ) == "open"
    assert "All of it reads as planned." in texts(view.meter.answer)

    chosen(view, "ohms:lamp.anode:board.p7")
    view.meter.note("open")
    said = texts(view.meter.answer)
    assert "Measure next:" in said and "Lamp · anode: one hole further" in said
    look = next(b for b in view.meter.answer.findChildren(QPushButton) if b.objectName() == "lookAgain")
    view.list.choose(view.entries[0].id)
    look.click()
    assert view.entry().step.tie == "lamp.anode"

    chosen(view, "ohms:flag.signal:board.p18")
    view.meter.note("open")
    assert "Nothing single explains this" in texts(view.meter.answer)


def test_nonsense_is_said_and_nothing_is_kept(view: WireView, window: MainWindow) -> None:
    chosen(view, "ohms:lamp.anode:board.p7")
    view.meter.field.setText("a lot")
    press(view.meter.field, Key.Key_Return)
    assert not window.session.plan.readings and "ok, no, open" in view.meter.fault.text()


def test_who_complains_is_asked_first_about_that_part(view: WireView) -> None:
    box = view.meter.parts.findChild(QComboBox)
    box.setCurrentIndex(box.findText("Lamp"))
    box.activated.emit(box.currentIndex())
    answer = view.meter.found()
    assert answer is not None and "lamp" in answer.ranked[0].faults[0].parts
    asked = next(b for b in view.meter.answer.findChildren(QPushButton) if b.objectName() == "measureNext")
    asked.click()
    assert view.meter.point() == answer.next.point and view.meter.field.hasFocus()


def test_a_reading_is_stale_when_the_plan_expects_another(view: WireView, window: MainWindow, qtbot) -> None:
    from knotplan.core.plan.beads import SeriesResistor

    chosen(view, "ohms:lamp.anode:board.p7")
    view.meter.note("180")
    point = view.meter.table.points[[p.id for p in view.meter.table.points].index("ohms:lamp.anode:board.p7")]
    assert view.meter.mark(point) == "done"
    window.session.edit("bead", edits.change_bead, "lamp.anode", 0, SeriesResistor(330.0))
    assert view.meter.table is None, "the table is that of another plan"
    qtbot.waitUntil(lambda: worked_out(view), timeout=60_000)
    assert view.meter.mark(point) == "changed"
    view.meter.list.choose(point.id)
    press(view.meter.list, Key.Key_Delete)
    assert not window.session.plan.readings


def test_the_table_can_be_stopped_and_begun_again(window: MainWindow, qtbot) -> None:
    view: WireView = window.views.page("wire")
    view.work.click()
    assert view.work.text() == "Work out" and view.meter.missing()
    view.work.click()
    assert view.work.text() == "Stop"
    qtbot.waitUntil(lambda: worked_out(view), timeout=60_000)
    assert not view.work.isVisible() and not view.progress.isVisible()


def test_of_a_large_bench_what_is_between_the_supplies_comes_unasked(open_window, qtbot) -> None:
    window = open_window("organ-shutters")
    window.show_view("wire")
    view: WireView = window.views.page("wire")
    qtbot.waitUntil(lambda: view.meter.table is not None, timeout=60_000)
    qtbot.waitUntil(lambda: view.work.text() == "Work out", timeout=60_000)
    assert view.progress.text() == "between supplies only" and not view.meter.table.faults
    supply = next(e for e in view.entries if e.step is not None and e.step.stage == "power")
    view.list.choose(supply.id)
    assert "First measure between the supplies" in view.sheet.warning.text()
    readings = [typed(c.point, "ok", c.expected) for c in view.meter.checks]
    assert len(readings) > 100
    window.session.edit("measure", lambda plan: reduce(edits.note_reading, readings, plan))
    assert not view.meter.missing()
    assert "All of it" not in texts(view.meter.answer) and "Nothing single" not in texts(view.meter.answer)
    view.list.choose(supply.id)
    view.do_it()
    assert f"supply:{supply.step.part}" in view.state.done


def test_a_supply_that_was_exchanged_is_not_switched_on_unmeasured(view: WireView, window, qtbot) -> None:
    session = window.session
    measure_first(view)
    supply = next(e for e in view.entries if e.step is not None and e.step.stage == "power")
    view.list.choose(supply.id)
    view.do_it()
    session.edit("forget", edits.drop_readings, tuple(r.point for r in session.plan.readings))
    (was,) = [w for w in session.plan.wired if w.task == supply.id]
    session.edit("another", edits.note_wired, (replace(was, owners=("another, Volts: 5 V",)),), ())
    view.list.choose(supply.id)
    assert view.entry().mark == "changed" and not view.sheet.next_button.isEnabled()
    view.do_it()
    assert supply.id not in view.state.done


def test_with_nothing_planned_it_says_so(open_window) -> None:
    window = open_window(Plan("bowline-40"))
    window.show_view("wire")
    view: WireView = window.views.page("wire")
    assert "Nothing is planned yet." in view.sheet.do.text() and view.far.text() == "0 of 0 done"


READINGS = (
    Reading("ohms:lamp.anode:board.p7"),
    Reading("ohms:lamp.anode:board.p7", -3.0),
    Reading("diode:lamp.led", None, "open", 5.0, None),
    Reading("volts:lamp.anode@brick", None, "open"),
    Reading("no such point", 1e300, "ok"),
)


@pytest.mark.parametrize("reading", READINGS)
def test_readings_that_a_file_has_mutilated_are_shown(view: WireView, window, reading: Reading) -> None:
    window.session.edit("note", edits.note_reading, reading)
    for point, _ in list(view.meter._points()):
        view.meter.list.choose(point.id)
        assert view.meter.where.text()


# --- the whole screen ----------------------------------------------------------------------------------


@pytest.mark.qt_log_ignore("propagateSizeHints")
def test_f11_puts_the_step_on_the_whole_screen(view: WireView, window: MainWindow) -> None:
    window.actions_.by_id["full-screen"].trigger()
    bench = view.bench
    assert bench is not None and bench.isVisible() and not window.isFullScreen()
    assert bench.sheet.do.text() == view.sheet.do.text()
    assert "may go dark" in bench.said.text() or "stays awake" in bench.said.text()
    first = view.entry()
    press(bench.sheet, Key.Key_Space)
    assert view.entry() != first and bench.sheet.do.text() == view.entry().do
    press(bench.sheet, Key.Key_Backspace)
    assert view.entry() == first or view.entry().id == first.id
    press(bench.sheet, Key.Key_Escape)
    assert view.bench is None


def test_words_of_the_close_up_are_read_from_a_metre(view: WireView) -> None:
    """At every step the smallest word has 24 px, the hole is in the picture, and so is its name."""
    circuit: Circuit = view.session.circuit
    rooms = ((640.0, 420.0), (410.0, 150.0), (1200.0, 640.0))
    for entry in view.entries:
        step = entry.step
        if step is None or not step.to:
            continue
        for w, h in rooms:
            for palette in (LIGHT, DARK):
                picture = close_up(circuit, step, step.neighbours, (w, h), palette)
                scale = min(w / picture.w, h / picture.h)
                words = [s for s in picture.shapes if isinstance(s, Text) and _inside(picture, s)]
                own = [s for s in words if s.size >= 12]
                assert own and all(s.size * scale >= READABLE - 0.1 for s in own), (entry.title, w)
                ring = [s for s in picture.shapes if isinstance(s, Disc) and s.stroke == palette.active]
                if split(step.to)[1] not in circuit.board.sockets:
                    assert ring and all(_inside(picture, s) for s in ring), (entry.title, w)


def _inside(picture, shape) -> bool:
    return picture.x < shape.x < picture.x + picture.w and picture.y < shape.y < picture.y + picture.h


def test_the_close_up_is_painted_with_the_cord_in_its_colour(view: WireView) -> None:
    view.list.choose("cord:lamp.anode")
    QApplication.processEvents()
    image: QImage = view.sheet.close_up.grab().toImage()
    colours = {
        image.pixelColor(x, y).name() for x in range(0, image.width(), 3) for y in range(0, image.height(), 3)
    }
    assert "#d97b1f" in colours, "the orange cord"


def test_a_table_that_comes_when_the_plan_is_another_is_dropped(window: MainWindow, qtbot) -> None:
    """The plan is changed from another view, while the table of the one before is on its way."""
    window.show_view("wire")
    view = window.views.page("wire")
    view.table_task.wait()
    qtbot.waitUntil(lambda: view.meter.table is not None and view.meter.table.whole, timeout=30_000)
    view.begin_table()
    window.show_view("loom")
    window.session.edit("less", edits.remove_part, "lamp")
    view.table_task.wait()
    qtbot.wait(100)
    assert view.meter.table is None
    window.show_view("wire")
    view.table_task.wait()
    qtbot.waitUntil(lambda: view.meter.table is not None, timeout=30_000)
    assert not any("lamp" in p.id for p in view.meter.table.points)

"""The Timing view: lanes beside their names, zoom and cursors, what the program
asks, tables, files; in the real window."""

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QPushButton, QTableWidget, QWidget

from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop.findings.card import FindingCard
from knotplan.desktop.panels.two_lines import ROW
from knotplan.desktop.timing.steps_preview import StepsPreview
from knotplan.desktop.timing.view import TimingView


def shown(open_window, plan) -> TimingView:
    window = open_window(plan)
    window.show_view("timing")
    return window.views.page("timing")


@pytest.fixture
def view(open_window) -> TimingView:
    return shown(open_window, "harbour-light")


def texts(widget: QWidget) -> str:
    return " ".join(w.text() for w in widget.findChildren(QLabel))


def side(view: TimingView) -> QWidget:
    return view.side.widget()


def type_in(view: TimingView, name: str, text: str) -> None:
    field = side(view).findChild(QLineEdit, name) or side(view).findChild(QWidget, name).findChild(QLineEdit)
    field.setText(text)
    field.editingFinished.emit()


def ask(view: TimingView, key: str, text: str) -> None:
    found = [f for f in side(view).findChildren(QLineEdit) if f.objectName() == f"setting-{key}"]
    found[0].setText(text)
    found[0].editingFinished.emit()


def test_lanes_stand_beside_their_names_and_scroll_with_them(qtbot, view: TimingView) -> None:
    assert [x.id for x in view.list.model_.lanes][:2] == ["lamp.anode", "red-pier-light.anode"]
    view.window().resize(1280, 700)
    qtbot.wait(0)
    bar = view.list.verticalScrollBar()
    bar.setValue(bar.maximum())
    assert view.plot.offset == bar.value() > 0
    last = view.list.visualRect(view.list.model_.index(view.list.model_.rowCount() - 1, 0))
    top = view.plot.plot.plotItem.vb.mapViewToScene(QPointF(0, (view.list.model_.rowCount() - 1) * ROW)).y()
    assert abs(top - last.top()) <= 2, "a name stands beside its wave"


def test_a_lane_says_what_its_part_does(view: TimingView) -> None:
    view.list.choose("lens-driver.in2")
    said = texts(side(view))
    assert (
        "2037.8864 steps" in said
        and "2048 steps, it is 1.79° off" in said
        and "Held where it stands it draws 308 mA" in said
    )
    assert (
        view.plot.chosen.id == "lens-driver.in2" and "Lens driver · IN 2" in view.plot.accessibleDescription()
    )
    tables = side(view).findChildren(QTableWidget)
    assert [t.accessibleName() for t in tables] == [
        "In the order of the wiring",
        "For the program's list of coils",
    ]
    assert tables[1].item(1, 1).text() == "IN 1, IN 3, IN 2, IN 4" and "buzzes" in tables[1].item(0, 2).text()


def test_what_the_program_asks_changes_the_wave(view: TimingView) -> None:
    view.list.choose("flag.signal")
    ask(view, "at", "0")
    assert view.session.plan.part("flag").settings == {"at": 0.0} and "600 µs" in view.list.lane().about
    ask(view, "at", "200")
    assert view.session.plan.part("flag").settings == {"at": 0.0} and "at most 170 °" in texts(side(view))
    view.session.undo()
    assert view.session.plan.part("flag").settings == {} and "85°" in view.list.lane().about
    view.list.choose("lens-driver.in1")
    mode = side(view).findChild(QComboBox, "setting-mode")
    mode.activated.emit(mode.findText("half steps"))
    assert (
        view.session.plan.part("lens").settings == {"mode": "half"} and "half steps" in view.list.lane().about
    )


def test_a_lane_bears_the_mark_of_what_the_checks_say_of_its_part(view: TimingView) -> None:
    def said(lane_id: str) -> str:
        model = view.list.model_
        at = [lane.id for lane in model.lanes].index(lane_id)
        return str(model.index(at, 0).data(Qt.ItemDataRole.AccessibleTextRole))

    assert "stop" not in said("lens-driver.in1")
    view.session.edit("faster", edits.set_program_setting, "lens", "rpm", 60.0)
    assert said("lens-driver.in1").endswith(", stop") and "stop" not in said("lamp.anode")
    view.session.undo()
    assert "stop" not in said("lens-driver.in1")


def test_a_servos_measured_ends_and_another_frequency(view: TimingView) -> None:
    view.list.choose("flag.signal")
    found = {f.accessibleName(): f for f in side(view).findChildren(QWidget) if f.accessibleName()}
    assert "Pulse at one end" in found
    line = found["Pulse at one end"].findChild(QLineEdit) or found["Pulse at one end"]
    line.setText("0.55m")
    line.editingFinished.emit()
    assert view.session.plan.part("flag").params["one_end"] == pytest.approx(0.00055)
    field = next(f for f in side(view).findChildren(QLineEdit) if f.objectName() == "hertz")
    field.setText("60")
    field.editingFinished.emit()
    assert view.session.plan.tie_of(
        "flag.signal"
    ).hertz == 60.0 and view.list.lane().wave.period_s == pytest.approx(1 / 60)
    field = next(f for f in side(view).findChildren(QLineEdit) if f.objectName() == "hertz")
    field.setText("50")
    field.editingFinished.emit()
    assert view.session.plan.tie_of("flag.signal").hertz == 0.0, "the part's own frequency is no wish"


def test_steps_of_brightness_are_previewed_and_copied(view: TimingView) -> None:
    view.list.choose("lamp.anode")
    preview = side(view).findChild(StepsPreview)
    assert len(preview.counts) == 16 and preview.accessibleDescription().startswith("0, 7, 13")
    law = side(view).findChild(QComboBox, "setting-law")
    law.activated.emit(law.findText("doubling"))
    ask(view, "levels", "8")
    preview = side(view).findChild(StepsPreview)
    assert preview.counts == (0, 1024, 2048, 4096, 8192, 16384, 32768, 65535)
    preview.grab()
    side(view).findChild(QPushButton, "copy0").click()
    assert QGuiApplication.clipboard().text().splitlines()[-1].split("\t")[1] == "65535"


def test_zoom_pan_and_cursors_by_mouse(qtbot, view: TimingView) -> None:
    plot = view.plot
    port = plot.plot.viewport()
    plot.look_at(0.0, 0.05)
    at = QPointF(port.width() / 2, 100)
    wheel = QWheelEvent(
        at,
        port.mapToGlobal(at.toPoint()).toPointF(),
        QPoint(),
        QPoint(0, 120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    plot.eventFilter(port, wheel)
    assert plot.end_s - plot.start_s == pytest.approx(0.05 / 1.4) and (
        plot.start_s + plot.end_s
    ) / 2 == pytest.approx(0.025)
    QTest.mouseClick(port, Qt.MouseButton.LeftButton, pos=QPoint(100, 60))
    QTest.mouseClick(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, QPoint(300, 60))
    a, b = plot.at
    assert a == pytest.approx(plot._time_at(100)) and b == pytest.approx(plot._time_at(300))
    assert "apart" in view.read.text() and "Hz" in view.read.text()
    before = plot.start_s
    QTest.mousePress(port, Qt.MouseButton.LeftButton, pos=QPoint(400, 60))
    QTest.mouseMove(port, QPoint(300, 60))
    QTest.mouseRelease(port, Qt.MouseButton.LeftButton, pos=QPoint(300, 60))
    assert plot.start_s > before and plot.at[0] == a, "dragging moves, and puts no cursor"


def test_everything_goes_by_keys(view: TimingView) -> None:
    plot = view.plot
    view.list.choose("flag.signal")
    plot.look_at(0.0, 0.05)
    plot.setFocus()
    for _ in range(2):
        QTest.keyClick(plot, Qt.Key.Key_PageDown)
    assert plot.at[0] == pytest.approx(0.00145), "from edge to edge of the chosen lane"
    QTest.keyClick(plot, Qt.Key.Key_PageDown, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClick(plot, Qt.Key.Key_PageDown)
    assert plot.at[0] == pytest.approx(0.02) and plot.at[1] is not None
    QTest.keyClick(plot, Qt.Key.Key_PageUp)
    assert plot.at[0] == pytest.approx(0.00145)
    for key, longer in ((Qt.Key.Key_Up, False), (Qt.Key.Key_Down, True)):
        before = plot.end_s - plot.start_s
        QTest.keyClick(plot, key)
        assert (plot.end_s - plot.start_s > before) == longer
    QTest.keyClick(plot, Qt.Key.Key_Right)
    assert plot.start_s > 0
    QTest.keyClick(plot, Qt.Key.Key_Home)
    assert plot.start_s == 0
    QTest.keyClick(plot, Qt.Key.Key_Escape)
    assert plot.at == [None, None]


def test_spans_from_nanoseconds_to_seconds(view: TimingView) -> None:
    for name in ("10 s", "20 µs", "1 ms"):
        view.spans.chosen.emit(name)
        view.plot.grab()
    for _ in range(80):
        view.plot.keyPressEvent(_key(Qt.Key.Key_Up))
    assert view.plot.end_s - view.plot.start_s == pytest.approx(20e-9)
    view.spans.chosen.emit("All")
    assert view.plot.end_s == 4.0


def _key(key: Qt.Key):
    from PySide6.QtCore import QEvent
    from PySide6.QtGui import QKeyEvent

    return QKeyEvent(QEvent.Type.KeyPress, key, Qt.KeyboardModifier.NoModifier)


def test_a_filter_leaves_lanes_out(view: TimingView) -> None:
    view.filter.setText("lens")
    assert {x.part for x in view.list.model_.lanes} == {"lens"} and len(view.plot.lanes) == 4
    view.filter.setText("nothing of that name")
    assert view.list.lane() is None and view.plot.lanes == []
    view.filter.clear()
    assert len(view.plot.lanes) == 13


def test_dump_and_picture_are_written(view: TimingView, tmp_path: Path) -> None:
    said: list[str] = []
    view.session.noticed.connect(said.append)
    view.plot.look_at(0.0, 0.02)
    view.write_dump(tmp_path / "w.vcd")
    view.write_picture(tmp_path / "w.svg")
    assert (
        b"$enddefinitions" in (tmp_path / "w.vcd").read_bytes()
        and b"Flag" in (tmp_path / "w.svg").read_bytes()
    )
    view.plot.look_at(0.0, 1000.0)
    view.write_dump(tmp_path / "long.vcd")
    view.write_dump(tmp_path / "no" / "folder.vcd")
    assert (
        "take a shorter time" in said[2]
        and "was not written" in said[3]
        and not (tmp_path / "long.vcd").exists()
    )


def test_findings_about_a_lane_stand_beside_it(open_window) -> None:
    view = shown(open_window, "rules/stepper-fast.bad")
    card = side(view).findChild(FindingCard)
    assert card.finding.rule == "stepper-fast"
    view = shown(open_window, "rules/pulse-off.bad")
    view.list.choose("flag.signal")
    rules = {c.finding.rule for c in side(view).findChildren(FindingCard)}
    assert rules == {"pulse-off", "servo-coarse"}


def test_a_thousand_lanes_draw_only_what_is_in_sight(open_window) -> None:
    view = shown(open_window, "organ-shutters")
    assert view.list.model_.rowCount() == 960
    assert len(view.plot._items) < 60
    view.list.choose("shutter-60-16.signal")
    assert (
        view.list.verticalScrollBar().value() > 0
        and view.plot.offset == view.list.verticalScrollBar().value()
    )
    assert "If all 16 servos of this counter start at once they draw 10.4 A" in texts(side(view))


def test_an_empty_plan_says_what_to_do(open_window) -> None:
    view = shown(open_window, Plan("bowline-40"))
    assert view.empty.isVisible() and "No pin gives anything out yet" in view.empty.text()


def test_dark_small_and_shown_from_the_menu(qtbot, open_window) -> None:
    window = open_window("harbour-light")
    window.resize(1024, 640)
    window.actions_.by_id["timing"].trigger()
    view = window.views.page("timing")
    view.list.choose("flag.signal")
    view.plot.look_at(0.01, 0.03)
    window.set_look("dark")
    qtbot.wait(0)
    assert view.plot.p is window.palette_now and (view.plot.start_s, view.plot.end_s) == (0.01, 0.03)
    assert view.list.lane().id == "flag.signal"
    view.grab()
    side(view).findChild(QPushButton, "showInLoom").click()
    assert window.session.selection.id == "flag" and not view.isVisible()

"""The Bring-up view, driven as a maker drives it: what comes in, what differs, where it leads."""

import json
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLabel, QPushButton

from knotplan.core.bringup.captured.trace import trace_of
from knotplan.core.practice.troubles import drawn, troubles
from knotplan.desktop.bringup import dialect_dialog, paste, program_page, table_dialog, waves_page
from knotplan.desktop.bringup.practice import PracticeDialog, Wish
from knotplan.exchange.bench import wave_csv

ROOT = Path(__file__).parents[2]
BENCH = ROOT / "docs/examples/harbour-light"


@pytest.fixture
def view(window, qtbot):
    window.show_view("bringup")
    return window.views.page("bringup")


def settled(view, qtbot) -> None:
    """The comparison has come back."""
    qtbot.waitUntil(lambda: view.held is not None or view.evidence.bench().empty, timeout=20_000)
    view.task.wait()
    qtbot.wait(50)


def titles(view) -> list[str]:
    return [card.difference.title for card in view.list.cards if card.difference.gravity == "differs"]


def press(card, name: str) -> None:
    made = next(b for b in card.findChildren(QPushButton) if b.objectName() == name)
    made.setFocus()
    QTest.keyClick(made, Qt.Key.Key_Return)


def test_a_scan_is_seen_on_the_map_and_the_plan_can_follow(view, qtbot) -> None:
    view.take_file(BENCH / "scan.txt", "scan")
    settled(view, qtbot)
    page = view.pages["scan"]
    assert titles(view) == ["Air answers at 0x4A, planned is 0x49"]
    assert "nobody answers" in page.map.words(0x49) and "somebody answers; " not in page.map.words(0x49)
    assert "nothing is planned; somebody answers" in page.map.words(0x4A)
    card = view.list.cards[0]
    before = view.session.plan
    press(card, "takeOver")
    assert view.session.plan is before, "one press only shows what would change"
    press(card, "make")
    settled(view, qtbot)
    qtbot.waitUntil(lambda: titles(view) == [], timeout=10_000)
    view.session.undo()
    qtbot.waitUntil(lambda: titles(view) != [], timeout=10_000)


def test_what_is_pasted_is_read_or_said_to_be_none(view, qtbot, monkeypatch) -> None:
    text = (BENCH / "lines.txt").read_text("utf-8")
    QGuiApplication.clipboard().setText("something else")
    seen = []

    def answered(dialog) -> int:
        assert dialog.text.toPlainText() == "", "only what can be read is offered"
        dialog.text.setPlainText("no lines here")
        dialog.take()
        seen.append(dialog.why.text())
        dialog.text.setPlainText(text)
        dialog.take()
        return dialog.result()

    monkeypatch.setattr(paste, "run", answered)
    view.look_at("lines")
    view.pages["lines"].paste()
    settled(view, qtbot)
    assert "cannot be read" in seen[0]
    assert len(titles(view)) == 1 and "L8" in titles(view)[0]
    table = view.pages["lines"].table
    wrong = [k for k in range(table.rowCount()) if table.item(k, 3).text().startswith("≠")]
    assert [table.item(k, 0).text() for k in wrong] == ["Tide mark · contact"]
    press(view.list.cards[0], "goStep")
    window = view.window()
    assert window.views.shown() is window.views.page("wire")
    assert window.views.page("wire").entry().step.tie == "tide-mark.contact"


def test_a_capture_is_read_beside_the_window_and_its_channels_are_the_makers(view, qtbot) -> None:
    view.take_file(BENCH / "capture.vcd", "waves")
    qtbot.waitUntil(lambda: bool(view.evidence.traces), timeout=20_000)
    settled(view, qtbot)
    page = view.pages["waves"]
    assert any("another order" in t for t in titles(view))
    rows = page.list.model_.rows
    assert all(m.pair.why == "name" for m in rows)
    lamp = next(k for k, m in enumerate(rows) if m.lane and m.lane.part == "lamp")
    flag = next(m.lane.id for m in rows if m.lane and m.lane.part == "flag")
    page.list.setCurrentIndex(page.list.model_.index(lamp, 0))
    page.lane.setCurrentIndex(page.lane.findData(flag))
    page.lane.activated.emit(page.lane.currentIndex())
    qtbot.waitUntil(lambda: page.list.model_.rows[lamp].pair.why == "maker", timeout=20_000)
    again = page.list.model_.rows
    assert again[lamp].lane.id == flag and sum(m.pair.lane == flag for m in again) == 1
    assert page.plot.words().startswith(f"{len(rows)} channels")


def test_zoom_and_edges_by_keys_stay_with_the_capture(view, qtbot) -> None:
    view.take_file(BENCH / "capture.vcd", "waves")
    qtbot.waitUntil(lambda: bool(view.evidence.traces), timeout=20_000)
    settled(view, qtbot)
    plot = view.pages["waves"].plot
    span = plot.end_s - plot.start_s
    QTest.keyClick(plot, Qt.Key.Key_Up)
    assert plot.end_s - plot.start_s < span
    QTest.keyClick(plot, Qt.Key.Key_PageDown)
    QTest.keyClick(plot, Qt.Key.Key_PageDown)
    trace = view.pages["waves"].list.model_.rows[plot.channel].trace
    assert plot.at[0] in trace.times.tolist()
    view.pages["waves"].see_all()
    assert plot.start_s == 0.0 and plot.end_s == max(t.end_s for t in view.evidence.traces)


def test_planned_lies_upon_captured_and_only_what_differs_is_underlined(view, qtbot, monkeypatch) -> None:
    """A wave as planned, and the same with one pulse too long."""
    from knotplan.core.timing.lanes import lanes

    lane = next(x for x in lanes(view.session.circuit) if x.part == "flag")
    times, levels = lane.wave.edges(0.0, 0.2)
    edges = [(float(t) + 0.0013, int(v)) for t, v in zip(times, levels, strict=True)]
    view.evidence.take_traces([trace_of("flag", edges, 0.0, 0.2)], "a test")
    settled(view, qtbot)
    page = view.pages["waves"]
    view.look_at("waves")
    qtbot.waitUntil(lambda: len(page.list.model_.rows) == 1, timeout=10_000)
    m = page.list.model_.rows[0]
    page.see_all()
    assert m.lane.id == lane.id
    period = lane.wave.period_s
    shift = page.plot.shift_s(m) % period
    assert min(shift - 0.0013, period - shift + 0.0013) == pytest.approx(0, abs=1e-9)
    put = []
    monkeypatch.setattr(page.plot, "_put", put.append)
    seen = m.trace.seen(0.0, 0.2, 400)
    page.plot._underlined(seen, page.plot._planned(m), 0.0, m.trace.end_s)
    assert put == []
    longer = [(t + (0.004 if k == 5 else 0.0), v) for k, (t, v) in enumerate(edges)]
    other = trace_of("flag", longer, 0.0, 0.2).seen(0.0, 0.2, 400)
    page.plot._underlined(other, page.plot._planned(m), 0.0, m.trace.end_s)
    marks = put[0].opts["x0"]
    assert edges[5][0] - 1e-3 <= marks.min() and marks.max() <= longer[5][0]


def test_reading_is_stopped_and_what_was_there_stays(view, qtbot, tmp_path) -> None:
    view.take_file(BENCH / "capture.vcd", "waves")
    qtbot.waitUntil(lambda: bool(view.evidence.traces), timeout=20_000)
    before = view.evidence.traces
    page = view.pages["waves"]
    page.stop_reading()
    found = page._load(BENCH / "capture.vcd", None, object())
    assert found[1] is None
    page._came(found)
    assert view.evidence.traces is before and page.stop.isHidden()


def test_a_table_says_first_what_its_columns_are(view, qtbot, tmp_path, monkeypatch) -> None:
    rows = "\n".join(f"{k},0;{k % 2};{(k // 2) % 2}" for k in range(60))
    (tmp_path / "capture.csv").write_text(f"sample;red;green\n{rows}\n", "utf-8")
    seen = {}

    def answered(dialog) -> bool:
        seen["first"] = dialog.how
        dialog.sign.setCurrentIndex(dialog.sign.findData("|"))
        dialog.sign.activated.emit(dialog.sign.currentIndex())
        seen["why"] = dialog.why.text()
        dialog.unit.setCurrentIndex(dialog.unit.findData("ms"))
        dialog.unit.activated.emit(dialog.unit.currentIndex())
        return True

    monkeypatch.setattr(table_dialog, "run", answered)
    view.look_at("waves")
    view.pages["waves"].take_file(tmp_path / "capture.csv")
    qtbot.waitUntil(lambda: bool(view.evidence.traces), timeout=20_000)
    first = seen["first"]
    assert (first.sign, first.comma, first.head, first.time) == (";", True, 1, 0) and "upright" in seen["why"]
    red = view.evidence.traces[0]
    assert red.name == "red" and np.diff(red.times) == pytest.approx(np.full(red.count - 1, 1e-3))
    assert isinstance(first, wave_csv.Understood)


def test_the_program_is_shown_with_what_differs_and_leads_to_its_line(view, qtbot, monkeypatch) -> None:
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(BENCH / "program"))
    view.look_at("program")
    view.pages["program"].open_folder()
    settled(view, qtbot)
    page = view.pages["program"]
    assert {page.file.itemData(k) for k in range(page.file.count())} == {"harbour.py", "harbour.c"}
    assert len(titles(view)) == 3
    card = next(c for c in view.list.cards if "Green pier light" in c.difference.title)
    press(card, "goLine")
    assert page.text.textCursor().block().text().startswith("PIER_GREEN = 35")
    assert page.text.textCursor().blockNumber() + 1 in page.text.wrong
    QTest.keyClick(card, Qt.Key.Key_Return)
    assert view.session.selection.id == "green-pier-light.anode"
    assert "GPIO character device" in page.speaks.text()


OWN = """
#include "board_io.h"
#define PIER_RED 41
#define PIER_GREEN 35
int main(void)
{
    io_make(PIER_RED, IO_OUT);
    io_make(PIER_GREEN, IO_OUT);
    io_make(38, IO_IN_PULL_UP); /* door */
}
"""


def test_a_dialect_is_proposed_corrected_used_and_kept(view, qtbot, tmp_path, monkeypatch) -> None:
    (tmp_path / "main.c").write_text(OWN, "utf-8")
    view.take_file(tmp_path / "main.c", "program")
    settled(view, qtbot)
    page = view.pages["program"]
    assert titles(view) == [] and "no known dialect" in page.speaks.text()
    view.evidence.count_by("kernel")
    settled(view, qtbot)
    folder = tmp_path / "own"
    monkeypatch.setattr(dialect_dialog.dialect_file, "own_folder", lambda: folder)
    seen = []

    def answered(dialog) -> int:
        seen.append(dialog.text.toPlainText())
        dialog.text.setPlainText("title = 1")
        dialog.take()
        assert dialog.why.text()
        dialog.text.setPlainText(seen[0])
        dialog.name.setText("Board I/O")
        dialog.keep.setChecked(True)
        dialog.take()
        return dialog.result()

    monkeypatch.setattr(dialect_dialog, "run", answered)
    page.propose_dialect()
    settled(view, qtbot)
    qtbot.waitUntil(lambda: len(titles(view)) == 1, timeout=10_000)
    assert "Green pier light" in titles(view)[0]
    assert "io_make" in seen[0] and "IO_IN_PULL_UP" in seen[0]
    assert (folder / "board-i-o.toml").read_text() == seen[0]
    assert program_page.ask_dialect is dialect_dialog.ask_dialect


def test_ends_from_a_log_are_taken_over(view, qtbot, tmp_path) -> None:
    (tmp_path / "log.txt").write_text(
        "\n".join(f"12:00:0{k % 10} flag: {700 + 25 * k} volts=3.{k % 10}" for k in range(60)), "utf-8"
    )
    view.take_file(tmp_path / "log.txt", "log")
    qtbot.wait(50)
    page = view.pages["log"]
    assert [page.table.item(k, 0).text() for k in range(page.table.rowCount())] == ["flag", "volts"]
    assert page.part.currentText().startswith("Flag")
    assert "700 µs to 2.175 ms" in page.offer.text() and "600 µs to 2.3 ms" in page.offer.text()
    page.take.click()
    assert view.session.circuit.placed["flag"].params["one_end"] == pytest.approx(0.0007)
    assert view.session.circuit.placed["flag"].params["other_end"] == pytest.approx(0.002175)
    view.session.undo()
    assert view.session.circuit.placed["flag"].params.get("one_end", 0.0006) == pytest.approx(0.0006)


def test_a_bench_file_of_another_machine_brings_lines_and_scans(view, qtbot, tmp_path) -> None:
    tree = {
        "format": "knotplan-bench", "version": 1, "model": "Made-up", "notes": ["levels are not known"],
        "lines": [{"chip": "gpiochip0", "offset": 38, "used_by": "system", "direction": "output"}],
        "scans": [{"bus": 1, "answers": [0x48, 0x49, 0x3C], "silent": [0x50]}],
    }  # fmt: skip
    (tmp_path / "bench.json").write_text(json.dumps(tree), "utf-8")
    view.take_file(tmp_path / "bench.json", "scan")
    settled(view, qtbot)
    assert view.evidence.origin == {"scan": "bench.json", "lines": "bench.json"}
    assert titles(view) == []
    view.look_at("lines")
    assert len(titles(view)) == 1


def test_practice_is_said_to_be_made_up_hides_its_faults_and_shows_them(view, qtbot) -> None:
    circuit = view.session.circuit
    view.begin_practice(Wish((), 2, 3))
    qtbot.waitUntil(view.bar.isVisible, timeout=30_000)
    settled(view, qtbot)
    assert "made up" in view.bar.said.text() and "2 faults are hidden" in view.bar.said.text()
    assert all(origin == "the practice bench" for origin in view.evidence.origin.values())
    assert view.bar.what.isHidden()
    view.bar.look.click()
    assert view.bar.what.text() == "\n".join(f"• {t.title}" for t in drawn(circuit, 2, 3))
    view.bar.leave.click()
    assert view.evidence.bench().empty and view.bar.isHidden() and not view.evidence.origin


def test_a_chosen_fault_is_ticked_and_its_bench_shows_it(view, qtbot, monkeypatch) -> None:
    from knotplan.desktop.bringup import view as module

    def answered(dialog) -> bool:
        for k in range(dialog.list.count()):
            if dialog.list.item(k).text().startswith("Water"):
                dialog.list.item(k).setCheckState(Qt.CheckState.Checked)
                chosen.append(dialog.list.item(k).data(Qt.ItemDataRole.UserRole))
                break
        return True

    chosen: list = []
    monkeypatch.setattr(module, "run", answered)
    view.ask_practice()
    qtbot.waitUntil(view.bar.isVisible, timeout=30_000)
    assert view.evidence.practice.troubles == tuple(chosen)
    assert chosen[0] in troubles(view.session.circuit)


def test_an_edit_of_the_plan_is_compared_again(view, qtbot) -> None:
    from knotplan.core.plan import edits

    view.take_file(BENCH / "scan.txt", "scan")
    settled(view, qtbot)
    assert len(titles(view)) == 1
    view.session.edit("less", edits.remove_part, "air")
    qtbot.waitUntil(lambda: any("0x4A" in t and "Air" not in t for t in titles(view)), timeout=20_000)


def test_a_capture_of_nothing_and_one_without_edges_are_shown(view, qtbot) -> None:
    view.evidence.take_traces([], "a test")
    settled(view, qtbot)
    view.look_at("waves")
    view.evidence.take_traces([trace_of("flag", [], 0.0, 1.0)], "a test")
    settled(view, qtbot)
    qtbot.waitUntil(lambda: len(view.pages["waves"].list.model_.rows) == 1, timeout=10_000)
    assert waves_page.under(view.pages["waves"].list.model_.rows[0])


def test_a_large_plan_lists_no_faults_and_leaves_them_to_chance(qtbot) -> None:
    from knotplan.catalog.load import shipped
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.examples import example

    dialog = PracticeDialog(Circuit(example("organ-shutters", shipped()), shipped()))
    qtbot.addWidget(dialog)
    assert dialog.list.count() == 1 and not dialog.list.isEnabled()
    assert dialog.wish().chosen == () and dialog.wish().count == 1


def test_files_dropped_together_go_each_to_its_page(view, qtbot, tmp_path) -> None:
    from knotplan.desktop.commands import dropped

    (tmp_path / "log.txt").write_text("left: 1500\nleft: 1600\n", "utf-8")
    (tmp_path / "notes.txt").write_text("nothing here", "utf-8")
    view.window().show_view("loom")
    names = ("scan.txt", "lines.txt", "capture.vcd", "program/harbour.py", "program/harbour.c")
    dropped.take(
        view.window().desk, [*(BENCH / n for n in names), tmp_path / "log.txt", tmp_path / "notes.txt"]
    )
    qtbot.waitUntil(lambda: bool(view.evidence.traces), timeout=20_000)
    assert view.window().views.shown() is view
    assert set(view.evidence.origin) == {"scan", "lines", "waves", "program", "log"}
    assert len(view.evidence.files) == 2


def test_what_is_no_file_of_a_bench_is_told(view, qtbot, tmp_path) -> None:
    said = []
    view.session.noticed.connect(said.append)
    (tmp_path / "notes.txt").write_text("nothing here", "utf-8")
    view.take_any([tmp_path / "notes.txt", tmp_path / "not-there.txt"])
    assert any("notes.txt is no scan" in s for s in said) and any("not-there.txt" in s for s in said)


def test_a_broken_capture_says_what_is_wrong_and_what_was_there_stays(
    view, qtbot, tmp_path, monkeypatch
) -> None:
    view.take_file(BENCH / "capture.vcd", "waves")
    qtbot.waitUntil(lambda: bool(view.evidence.traces), timeout=20_000)
    before = view.evidence.traces
    said = []
    monkeypatch.setattr(waves_page, "run", lambda dialog: said.append(dialog.text.toPlainText()))
    (tmp_path / "trace.vcd").write_bytes(b"\xff\x00 nothing")
    view.take_any([tmp_path / "trace.vcd"])
    qtbot.waitUntil(lambda: bool(said), timeout=20_000)
    assert said[0] and view.evidence.traces is before


def test_another_plan_begins_without_what_was_said_of_the_one_before(view, qtbot, tmp_path) -> None:
    from knotplan.catalog.load import shipped
    from knotplan.examples import example

    view.take_file(BENCH / "scan.txt", "scan")
    settled(view, qtbot)
    path = tmp_path / "same.knot.json"
    view.session.mark_saved(path)
    view.session.replace_document(view.session.plan, path)
    assert view.evidence.scans, "the same file, read anew"
    view.session.replace_document(example("mist-bench", shipped()), tmp_path / "other.knot.json")
    assert view.evidence.bench().empty and not view.evidence.origin and view.bar.isHidden()


def test_what_is_not_compared_is_never_called_as_planned(open_window, qtbot) -> None:
    """An empty plan: whatever comes in, nothing was held against anything."""
    from knotplan.core.plan.document import Plan

    window = open_window(Plan(board="bowline-40", title="Empty"))
    window.show_view("bringup")
    view = window.views.page("bringup")
    for name, kind in (("lines.txt", "lines"), ("capture.vcd", "waves")):
        view.take_file(BENCH / name, kind)
        qtbot.waitUntil(lambda kind=kind: kind in view.evidence.origin, timeout=20_000)
        settled(view, qtbot)
        said = [w.text() for w in view.list.widget().findChildren(QLabel)]
        assert said == [view.page.not_compared]
    assert not any("✓" in s.text for s in view._segments)


def test_source_that_cannot_be_read_is_told(view, qtbot, tmp_path) -> None:
    (tmp_path / "main.py").write_text("import gpiod\ndef (:\n", "utf-8")
    view.take_file(tmp_path / "main.py", "program")
    settled(view, qtbot)
    (card,) = [c for c in view.list.cards if c.difference.kind == "program-unread"]
    press(card, "goLine")
    assert view.pages["program"].text.textCursor().block().text() == "def (:"

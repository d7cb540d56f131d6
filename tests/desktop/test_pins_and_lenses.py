"""The Pins view, the pin card and the five lenses, in the real window."""

from types import SimpleNamespace

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from knotplan.catalog.load import shipped
from knotplan.core.drawing.loom.lenses import LENSES
from knotplan.core.drawing.loom.picture import groups, overlay
from knotplan.core.drawing.loom.room import lay_out
from knotplan.core.drawing.loom.view import Selection, look
from knotplan.core.drawing.palette import DARK, LIGHT
from knotplan.core.drawing.shapes import Curve, Disc, Polygon, Shape, Text
from knotplan.core.plan.document import Plan
from knotplan.desktop.commands.edit import delete
from knotplan.desktop.loom.lens_bar import NOTHING
from knotplan.desktop.window import MainWindow
from tests.conftest import lay, look_at


def drawn(board: str, lens: str) -> list[Shape]:
    report = look_at(Plan(board))
    return list(LENSES[lens](report, lay_out(report.circuit), LIGHT))


@pytest.mark.parametrize("lens", LENSES)
@pytest.mark.parametrize("board", shipped().shipped_ids("board"))
@pytest.mark.parametrize("turned", [0, 90, 180, 270])
def test_every_lens_on_every_board_in_every_direction(board: str, lens: str, turned: int) -> None:
    from msgspec.structs import replace

    report = look_at(replace(Plan(board), turned=turned))
    bench = lay_out(report.circuit)
    pin = next(c for c in bench.pins if report.circuit.contacts.pin(c))
    view = look(report, lens, Selection("pin", pin))
    x, y, w, h = bench.bounds()
    shapes = [s for g in groups(report, bench, view, DARK) for s in g.shapes] + list(
        overlay(report, bench, view, DARK)
    )
    for s in shapes:
        if isinstance(s, Disc | Text):
            assert x - 40 <= s.x <= x + w + 40 and y - 40 <= s.y <= y + h + 40


def test_volts_tell_levels_and_tolerance_apart_by_shape() -> None:
    reef, core, five = drawn("reef-48", "volts"), drawn("capstan-34", "volts"), drawn("clove-22", "volts")
    assert sum(isinstance(s, Polygon) for s in reef) == 4 * sum(
        p.driver == "tolerant" for p in shipped().board("reef-48").pins.values() if p.kind == "io"
    )
    assert any(isinstance(s, Disc) and s.dash for s in core) and not any(
        isinstance(s, Disc) and s.dash for s in five
    )
    io_and_supplies = [p for p in shipped().board("clove-22").pins.values() if p.kind in ("io", "supply")]
    assert sum(isinstance(s, Disc) for s in five) == 2 * len(io_and_supplies)  # above 4 V the ring is double


def test_volts_show_what_a_tied_pin_sees_and_where_it_is_too_much() -> None:
    report = look_at(lay("bowline-40", {"Door": "push-button"}, {"door.contact": "p12", "door.common": "p1"}))
    said = [s.text for s in LENSES["volts"](report, lay_out(report.circuit), LIGHT) if isinstance(s, Text)]
    assert "5.25 V" in said


def test_power_on_draws_states_straps_and_what_toggles() -> None:
    halyard = drawn("halyard-w", "power-on")
    said = [s.text for s in halyard if isinstance(s, Text)]
    assert said.count("high at start") == 2 and said.count("low at start") == 2
    assert sum(isinstance(s, Curve) for s in halyard) == 5 * 2  # two pins that toggle, five strokes each


def test_sharing_gives_each_timer_its_letter_and_fills_what_is_used() -> None:
    report = look_at(lay("bowline-40", {"Flag": "micro-servo"}, {"flag.signal": "p18"}))
    bench = lay_out(report.circuit)
    letters = {
        (s.x, s.y - 4.2): s.text for s in LENSES["sharing"](report, bench, LIGHT) if isinstance(s, Text)
    }
    at = {
        p: letters[(bench.pins[f"board.{p}"].x, bench.pins[f"board.{p}"].y)]
        for p in ("p7", "p12", "p18", "p24", "p40")
    }
    assert at["p7"] == at["p12"] == at["p40"] != at["p18"] == at["p24"]


def test_lenses_have_keys_and_their_legend_has_what_the_board_has(window: MainWindow) -> None:
    def legend() -> list[str]:
        return [text for _, text in window.lenses.legend.entries()]

    for key, lens in (("F6", "volts"), ("F7", "load"), ("Shift+F7", "power-on"), ("F12", "sharing")):
        action = window.actions_.by_id[f"lens-{lens}"]
        assert action.shortcut().toString() == key
        action.trigger()
        assert window.session.lens == lens
    window.session.look_through("volts")
    assert legend() == ["about 3 V", "about 5 V and more"]
    window.documents.begin("reef-48")
    assert "bears more than its supply" in legend()
    window.session.look_through("power-on")
    assert legend() == ["pulled up", "pulled down", "floating"]


def test_pointing_at_a_pin_lights_its_relatives(window: MainWindow, qtbot) -> None:
    window.session.look_through("sharing")
    qtbot.mouseMove(window.loom, window.loom.place_of("board.p7").toPoint())
    rings = [s for s in window.loom._hovered() if isinstance(s, Disc) and s.dash]
    places = {
        (window.session.bench.pins[f"board.{p}"].x, window.session.bench.pins[f"board.{p}"].y)
        for p in ("p12", "p40")
    }
    assert {(s.x, s.y) for s in rings} == places


def test_a_pin_shows_its_card_where_the_pointer_rests(window: MainWindow, qtbot) -> None:
    def said() -> str:
        return " ".join(s.text for s in window.loom._hovered() if isinstance(s, Text))

    qtbot.mouseMove(window.loom, window.loom.place_of("board.p40").toPoint())
    assert "L21 (pos 40)" in said() and "Voltage allowed" not in said()
    qtbot.waitUntil(lambda: "Voltage allowed" in said(), timeout=3000)
    qtbot.mouseMove(window.loom, window.loom.place_of("board.p18").toPoint())
    assert "L3 (pos 18)" in said() and "Voltage allowed" not in said()


# --- the pin card ---------------------------------------------------------------------------------


def test_the_card_stays_by_key_and_goes_by_escape(window: MainWindow, qtbot) -> None:
    card = window.actions_.by_id["pin-card"]
    window.session.select("lead", "lamp.anode")
    assert not card.isEnabled()  # so that a C can begin the name of a pin
    window.session.select("pin", "board.p40")
    assert card.isEnabled()
    card.trigger()
    said = " ".join(s.text for s in window.loom._hovered() if isinstance(s, Text))
    assert "L21 (pos 40)" in said and "takes log-ins" in said
    qtbot.keyClick(window.loom, Qt.Key.Key_Escape)
    assert not window.loom._hovered()


def test_the_card_is_copied_as_text(window: MainWindow, qtbot) -> None:
    window.session.select("pin", "board.p7")
    window.actions_.by_id["copy-card"].trigger()
    text = QApplication.clipboard().text()
    assert text.splitlines()[0] == "Bowline 40: L22 (pos 7)" and "Lamp · anode" in text


def test_search_finds_a_pin_by_any_name_and_shows_it(window: MainWindow, qtbot) -> None:
    window.show_view("pins")
    window.search.setFocus()
    for typed, contact in (("sda1", "board.p14"), ("line 62", "board.p7"), ("pulse_b", "board.p18")):
        window.search.setText(typed)
        window.search.textEdited.emit(typed)
        assert window.search.popup.entries()[0].kind == "pin"
        qtbot.keyClick(window.search, Qt.Key.Key_Return)
        assert window.session.selection.id == contact and window.views.shown() is window.views.page("loom")
        assert window.loom.card_kept


# --- the Pins view --------------------------------------------------------------------------------


def test_the_pins_view_has_every_pin_and_follows_the_plan(window: MainWindow) -> None:
    window.show_view("pins")
    view = window.views.page("pins")
    assert view.model.rowCount() == 40 and view.head.text() == "Pins of Bowline 40"
    state = view.model.heads.index("State")
    assert view.model.rows[6].cells[state] == "tied to Lamp · anode"
    window.session.select("lead", "lamp.anode")
    delete(window.desk)
    assert view.model.rows[6].cells[state] == ""


def test_a_pasted_list_is_translated_and_its_scheme_recognised(window: MainWindow, qtbot) -> None:
    window.show_view("pins")
    view = window.views.page("pins")
    view.pasted.setPlainText("40, 32, 12")
    qtbot.waitUntil(lambda: view.head.text() == "3 names")
    assert view.summary.text() == "0 clear, 3 ambiguous"
    texts = [view.schemes.itemText(k) for k in range(view.schemes.count())]
    assert "position – fits every name" in texts
    view.schemes.setCurrentIndex(texts.index("position – fits every name"))
    view.schemes.activated.emit(view.schemes.currentIndex())
    assert view.summary.text() == "3 clear" and [r.pin for r in view.model.rows] == ["p40", "p32", "p12"]


def test_enter_shows_the_pin_on_the_board_and_the_table_is_copied(window: MainWindow, qtbot) -> None:
    window.show_view("pins")
    view = window.views.page("pins")
    view.table.selectRow(13)
    qtbot.keyClick(view.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    lines = QApplication.clipboard().text().splitlines()
    assert len(lines) == 2 and lines[1].split("\t")[0] == "14", "the marked line, with the headings"
    assert any(cell.startswith("-0.3") for cell in lines[1].split("\t")), "a number stays a number"
    view.table.selectAll()
    qtbot.keyClick(view.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    lines = QApplication.clipboard().text().splitlines()
    assert len(lines) == 41 and lines[0].split("\t")[:2] == ["Position", "Chip line"]
    view.table.selectRow(13)
    qtbot.keyClick(view.table, Qt.Key.Key_Return)
    assert window.session.selection.id == "board.p14" and window.views.shown() is window.views.page("loom")


def test_the_table_is_written_and_a_failure_is_told(window: MainWindow, tmp_path, monkeypatch) -> None:
    window.show_view("pins")
    window.views.page("pins").write(tmp_path / "pins.csv")
    assert (tmp_path / "pins.csv").read_bytes().startswith(b"Position,Chip line,")
    said: list[str] = []
    window.session.noticed.connect(said.append)
    window.views.page("pins").write(tmp_path / "none" / "pins.csv")
    assert "was not written" in said[-1]


@pytest.mark.parametrize("lens", ["volts", "power-on", "sharing", "load", "fit"])
def test_the_legend_of_a_board_without_signals_says_so(window: MainWindow, monkeypatch, lens: str) -> None:
    """As a board is that is being described, or that only supplies."""
    bare = SimpleNamespace(pins={}, rails={}, drivers={})
    legend = window.lenses.legend
    seen = SimpleNamespace(lens=lens, circuit=SimpleNamespace(board=bare), view=SimpleNamespace(answers={}))
    monkeypatch.setattr(legend, "session", seen)
    legend.fit()
    assert legend.entries() and legend.width() > 60
    assert lens not in ("volts", "power-on") or legend.entries() == [([], NOTHING)]

"""The Buses view: maps, pads, addresses in any form, addresses for many,
pictures; driven in the real window."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QPushButton, QWidget

from knotplan.core.buses.addresses import address_of
from knotplan.core.plan import edits
from knotplan.core.plan.document import PlacedPart
from knotplan.desktop.buses.pads import Pads
from knotplan.desktop.buses.view import BusesView
from knotplan.desktop.findings.card import FindingCard
from tests.core.buses.benches import bench, on_bus, placed


def shown(open_window, plan) -> BusesView:
    window = open_window(plan)
    window.show_view("buses")
    return window.views.page("buses")


@pytest.fixture
def draft(open_window) -> BusesView:
    return shown(open_window, "harbour-light-draft")


def texts(widget: QWidget) -> str:
    return " ".join(w.text() for w in widget.findChildren(QLabel))


def pump(qtbot) -> None:
    qtbot.wait(0)


def click(view: BusesView, address: int) -> None:
    box = view.i2c.map._box(address).center()
    QTest.mouseClick(view.i2c.map, Qt.MouseButton.LeftButton, pos=QPoint(int(box.x()), int(box.y())))


def test_the_map_shows_the_clash_and_a_click_settles_it(draft: BusesView) -> None:
    page = draft.i2c
    assert page.map.cells[0x48].state == "clash" and "0x48 Water and Air" in page.map.accessibleDescription()
    page.devices.choose("air")
    assert page.map.could == {0x48, 0x49, 0x4A, 0x4B} and page.map.chosen == 0x48
    click(draft, 0x4A)
    c = draft.session.circuit
    assert address_of(c, "air") == 0x4A and c.placed["air"].params == {"a1": "bridged"}
    assert page.map.cells[0x48].state == "taken" and draft.place is not None and draft.place.part == "air"
    draft.session.undo()
    assert draft.i2c.map.cells[0x48].state == "clash"
    click(draft, 0x3C)
    assert draft.place.part == "tide-display", "a click on another device chooses it"
    click(draft, 0x60)
    assert address_of(draft.session.circuit, "tide-display") == 0x3C, "where it cannot be, nothing happens"


def test_the_map_is_gone_about_and_used_by_keys(draft: BusesView) -> None:
    page = draft.i2c
    page.devices.choose("air")
    page.map.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Up):
        QTest.keyClick(page.map, key)
    assert page.map.at == 0x49 and "the chosen device could be here" in page.map.accessibleDescription()
    QTest.keyClick(page.map, Qt.Key.Key_Return)
    assert address_of(draft.session.circuit, "air") == 0x49


def test_pads_are_clicked_as_they_lie_and_said_as_what_to_solder(draft: BusesView) -> None:
    draft.i2c.devices.choose("air")
    pads = draft.side.widget().findChild(Pads)
    assert "To solder: leave A0 open; leave A1 open." in texts(draft.side.widget())
    first, second = pads._pad(0), pads._pad(1)
    assert first.right() < second.left(), "A0 lies left of A1, as on the module"
    QTest.mouseClick(pads, Qt.MouseButton.LeftButton, pos=second.center().toPoint())
    assert draft.session.circuit.placed["air"].params == {"a1": "bridged"}
    assert "leave A0 open; bridge A1" in texts(draft.side.widget())
    pads = draft.side.widget().findChild(Pads)
    pads.setFocus()
    QTest.keyClick(pads, Qt.Key.Key_Right)
    QTest.keyClick(pads, Qt.Key.Key_Space)
    assert draft.session.circuit.placed["air"].params["a1"] == "open"


@pytest.mark.parametrize(
    ("text", "address"), [("0x49", 0x49), ("0x92", 0x49), ("147", 0x49), ("74", 0x4A), ("1001011", 0x4B)]
)
def test_an_address_in_any_form_sets_the_straps(draft: BusesView, text: str, address: int) -> None:
    draft.i2c.devices.choose("air")
    said: list[str] = []
    draft.session.noticed.connect(said.append)
    field = draft.side.widget().findChild(QLineEdit, "address")
    field.setText(text)
    field.editingFinished.emit()
    assert address_of(draft.session.circuit, "air") == address
    if text in ("0x92", "147"):
        assert "of eight bits with the" in said[0], "what was translated is said"


def test_an_address_that_cannot_be_says_why_and_what_is_near(draft: BusesView) -> None:
    draft.i2c.devices.choose("air")
    field = draft.side.widget().findChild(QLineEdit, "address")
    for text, said in (
        ("0x60", "cannot be at 0x60; near are 0x48"),
        ("0x03", "reserved"),
        ("lamp", "is no address"),
    ):
        field.setText(text)
        field.editingFinished.emit()
        assert said in texts(draft.side.widget())
    assert address_of(draft.session.circuit, "air") == 0x48


@pytest.mark.slow
def test_many_get_their_addresses_in_one_step(open_window) -> None:
    view = shown(open_window, "organ-shutters-draft")
    view.i2c.devices.give.click()
    assert "1 device would change" in view.i2c.devices.summary.text()
    row = next(i for i in view.i2c.devices._items() if i.text(0) == "Rank 8")
    assert row.text(3) in ("0x47", "") and view.i2c.devices.take.isVisible()
    assert not view.i2c.devices.tree.isColumnHidden(3)
    view.i2c.devices.take.click()
    assert {c.state for c in view.i2c.map.cells} == {"free", "reserved", "taken", "all-call"}
    assert view.session.undo_word == "set the addresses of 1 device"
    view.i2c.devices.give.click()
    assert (
        "an address of their own already" in view.i2c.devices.summary.text()
        and not view.i2c.devices.take.isVisible()
    )
    assert view.i2c.devices.tree.isColumnHidden(3), "nothing new, no column for it"


def test_where_they_do_not_fit_the_reason_and_the_ways_out_are_offered(qtbot, open_window) -> None:
    parts = [placed("usb", "usb-brick"), *(placed(f"face{k}", "oled-display") for k in range(3))]
    ties = [t for p in parts[1:] for t in on_bus("splice-24", p)]
    view = shown(open_window, bench("splice-24", parts, ties).plan)
    view.i2c.devices.give.click()
    assert "Face0, Face1 and Face2 cannot all have addresses" in view.i2c.devices.summary.text()
    pump(qtbot)
    ways = [b for b in view.i2c.devices.more.findChildren(QPushButton, "wayOut") if not b.isHidden()]
    assert [b.text() for b in ways][-1] == "Put Face2 behind a bus switch" and len(ways) == 2
    ways[-1].click()
    assert [p.part for p in view.session.plan.parts][-1] == "bus-switch"
    titles = [view.list.item(k).text() for k in range(view.list.count())]
    assert "Bus switch · branch 0" in titles


def test_the_clock_is_chosen_and_what_follows_is_said(draft: BusesView) -> None:
    box = draft.side.widget().findChild(QComboBox, "busClock")
    assert box.accessibleName() == "Clock" and box.currentText() == "100 kHz"
    box.activated.emit(box.findText("400 kHz"))
    assert draft.session.plan.clock("board.i2c:1") == 400e3
    assert "Fast mode" in draft.i2c.plot.plot.accessibleDescription() + draft.i2c.plot.summary.text() + texts(
        draft.side.widget()
    )
    box = draft.side.widget().findChild(QComboBox, "busClock")
    box.activated.emit(box.findText("100 kHz"))
    assert draft.session.plan.clocks == (), "the usual clock is no wish"


def test_the_plot_says_where_the_bus_stands(draft: BusesView) -> None:
    said = draft.i2c.plot.plot.accessibleDescription()
    assert "1.03 kΩ with 70 pF" in said and "allowed are 1.14 kΩ to 16.9 kΩ" in said
    draft.session.edit("", edits.set_param, "tide-display", "pulls", "taken off")
    assert "1.32 kΩ" in draft.i2c.plot.plot.accessibleDescription()


def test_findings_of_the_bus_stand_beside_it_and_can_be_settled_there(draft: BusesView) -> None:
    draft.i2c.devices.choose("air")
    card = draft.side.widget().findChild(FindingCard)
    assert card.finding.rule == "address-clash"
    remedy = next(b for b in card.findChildren(QPushButton, "remedy") if b.isVisibleTo(card))
    assert remedy.accessibleName() == "Set A0 of Air: 0x49"
    card.buttons[0].click()
    make = next(b for b in card.findChildren(QPushButton) if b.objectName() == "make")
    make.click()
    assert address_of(draft.session.circuit, "air") == 0x49


def test_controllers_uarts_and_single_lines_have_pictures(open_window) -> None:
    view = shown(open_window, "rules/spi-modes.bad")
    view.list.choose("board.spi:0")
    assert view.pages.currentWidget() is view.picture
    assert "Oven" in view.picture.canvas.accessibleDescription()
    assert "no mode in common" in texts(view.side.widget())
    clock = view.side.widget().findChild(QLineEdit, "spiClock")
    clock.setText("500k")
    clock.editingFinished.emit()
    assert view.session.plan.clock("board.spi:0") == 500e3
    view.picture.canvas.grab()
    other = shown(open_window, "rules/uart-rate.bad")
    other.list.setCurrentRow(other.list.count() - 1)
    rate = other.side.widget().findChild(QComboBox, "baud")
    assert "2.9 % apart" in texts(other.side.widget())
    rate.activated.emit(rate.findText("9600 baud"))
    assert other.session.plan.part("place").settings == {} or other.session.plan.part("place").settings == {
        "baud": 9600.0
    }
    line = shown(open_window, "rules/line-starved.bad")
    line.list.choose("board.p9")
    assert "Without a supply of its own: Soil" in texts(line.side.widget())


def test_an_empty_plan_says_what_to_do(open_window) -> None:
    from knotplan.core.plan.document import Plan

    view = shown(open_window, Plan("halyard-w"))
    assert view.pages.currentWidget() is view.empty and "Tie a part's SDA" in view.empty.text()
    view = shown(open_window, Plan("splice-24", parts=(PlacedPart("water", "i2c-thermometer", "Water"),)))
    assert view.list.count() == 2 and "nothing on it" in view.list.item(0).toolTip()


def test_dark_small_and_shown_from_the_menu(qtbot, open_window) -> None:
    window = open_window("harbour-light")
    window.resize(1024, 640)
    window.actions_.by_id["buses"].trigger()
    window.set_look("dark")
    pump(qtbot)
    view = window.views.page("buses")
    assert view.isVisible() and view.i2c.map.p is window.palette_now
    view.grab()
    view.side.widget().findChild(QPushButton, "showInLoom").click()
    assert window.session.selection.id == "tide-display" and not view.isVisible()

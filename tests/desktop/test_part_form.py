"""Describing parts of one's own through the real window."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QDialog, QLineEdit, QPlainTextEdit

from knotplan.catalog.load import Catalog
from knotplan.core.draft.part import blank
from knotplan.core.plan.document import Plan
from knotplan.desktop import own_parts
from knotplan.desktop.commands import part
from knotplan.desktop.part_form import PartForm
from knotplan.desktop.window import MainWindow
from knotplan.exchange.part_file import loads
from tests.conftest import lay


@pytest.fixture
def catalog_of_ones_own(tmp_path) -> Catalog:
    return Catalog(own=tmp_path / "own")


@pytest.fixture
def maker(open_window, catalog_of_ones_own) -> MainWindow:
    window = open_window(
        lay("bowline-40", {"Flag": "micro-servo"}, {"flag.signal": "p7", "flag.ground": "p5"})
    )
    window.session.catalog = catalog_of_ones_own
    return window


def typed(qtbot, form: PartForm, name: str, text: str) -> None:
    field = form.findChild(QLineEdit, name)
    field.selectAll()
    qtbot.keyClicks(field, text)


def described(qtbot, form: PartForm) -> None:
    """A gauge typed into the form."""
    typed(qtbot, form, "title", "Rain gauge")
    typed(qtbot, form, "summary", "tipping rain gauge")
    typed(qtbot, form, "words", "weather, water, tip")
    typed(qtbot, form, "worst", "150m")
    form.grid.item(2, 0).setText("TIP")
    chooser = form.grid.cellWidget(2, 1)
    assert isinstance(chooser, QComboBox)
    chooser.setCurrentIndex(chooser.findData("contact"))
    chooser.activated.emit(chooser.currentIndex())


def test_a_part_is_described_saved_and_stands_on_the_bench(qtbot, monkeypatch, maker: MainWindow) -> None:
    def worked(form: PartForm) -> int:
        described(qtbot, form)
        assert form.save_button.isEnabled()
        form.save()
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(PartForm, "exec", worked)
    maker.actions_.by_id["part-new"].trigger()
    session = maker.session
    assert session.catalog.own_part_ids() == ("rain-gauge",)
    assert session.plan.parts[-1].name == "Rain gauge" and session.plan.carried_parts[0].id == "rain-gauge"
    part = session.circuit.parts["rain-gauge"]
    assert part.leads["tip"].title == "TIP" and part.elements["draws"].worst_a == 0.15
    session.undo()
    assert session.plan.carried_parts == () and len(session.plan.parts) == 1


def test_a_copy_of_a_part_is_changed_and_takes_its_place_with_its_ties(
    qtbot, monkeypatch, maker: MainWindow
) -> None:
    def worked(form: PartForm) -> int:
        typed(qtbot, form, "title", "Strong servo")
        form.tabs.setCurrentIndex(1)
        text = form.text.toPlainText().replace("worst_a = 0.65", "worst_a = 2.0")
        form.text.setPlainText(text)
        form.tabs.setCurrentIndex(0)
        form.save()
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(PartForm, "exec", worked)
    maker.session.select("part", "flag")
    maker.actions_.by_id["part-copy"].trigger()
    session = maker.session
    assert (
        session.plan.part("flag").part == "strong-servo" and session.plan.tie("flag.signal").to == "board.p7"
    )
    assert (
        max(e.worst_a for e in session.circuit.parts["flag"].elements.values() if hasattr(e, "worst_a"))
        == 2.0
    )
    assert maker.actions_.by_id["part-change"].isEnabled()


def test_what_is_wrong_is_said_while_it_is_typed_and_cannot_be_saved(qtbot, catalog_of_ones_own) -> None:
    form = PartForm(catalog_of_ones_own, blank())
    qtbot.addWidget(form)
    form.tabs.setCurrentIndex(1)
    text = form.findChild(QPlainTextEdit, "partText")
    text.setPlainText(form.text.toPlainText().replace('kind = "ground"', 'kind = "grund"'))
    assert "grund" in form.wrong.text() and not form.save_button.isEnabled()
    form.tabs.setCurrentIndex(0)
    assert form.tabs.currentIndex() == 1, "the form cannot show what cannot be read"


def test_leads_are_added_and_removed_and_needs_bring_their_numbers(qtbot, catalog_of_ones_own) -> None:
    form = PartForm(catalog_of_ones_own, blank())
    qtbot.addWidget(form)
    form.findChild(object, "addLead").click()
    assert form.grid.rowCount() == 4
    chooser = form.grid.cellWidget(3, 1)
    chooser.setCurrentIndex(chooser.findData("pulse"))
    chooser.activated.emit(chooser.currentIndex())
    assert (
        form.grid.item(3, 2).text() == "50 Hz"
        and not form.grid.item(3, 3).flags() & Qt.ItemFlag.ItemIsEnabled
    )
    form.grid.item(3, 2).setText("20k")
    assert form.draft.leads[3].low == 20e3
    form.grid.setCurrentCell(3, 0)
    form.findChild(object, "removeLead").click()
    assert form.grid.rowCount() == 3


def test_a_number_that_is_none_is_said_and_not_replaced_by_another_one(qtbot, catalog_of_ones_own) -> None:
    form = PartForm(catalog_of_ones_own, blank())
    qtbot.addWidget(form)
    form.grid.item(0, 2).setText("abc")
    assert "VCC, from: 'abc' is not a number" in form.wrong.text() and not form.save_button.isEnabled()
    assert form.grid.item(0, 2).text() == "abc", "what was typed stays"
    form.grid.item(0, 2).setText("3.3 V")
    assert form.wrong.text() == "" and form.save_button.isEnabled() and form.draft.leads[0].low == 3.3
    form.grid.item(0, 2).setText("3.3 A")
    assert "is in A, but V is wanted" in form.wrong.text()
    form.grid.item(0, 2).setText("3")
    form.usual.setFocus()
    qtbot.keyClicks(form.usual, "20 mA")
    assert loads(form.now(), "new-part").make({}).elements["draws"].worst_a == 0.02, (
        "one of the two stands for both"
    )
    qtbot.keyClicks(form.worst, "5m")
    assert "is above the worst case" in form.wrong.text() and not form.save_button.isEnabled()


def test_a_part_file_is_taken_in_and_shared(tmp_path, maker: MainWindow) -> None:
    from knotplan.core.draft.part import compiled
    from knotplan.exchange.part_file import dumps

    path = tmp_path / "gauge.toml"
    path.write_text(dumps(compiled(blank())), "utf-8")
    assert part.take_in(maker.desk, path) and "gauge" in maker.session.catalog.own_part_ids()
    own_parts.add(maker.session, "gauge")
    part.write(maker.desk, "new-part", tmp_path / "shared.toml")
    assert (tmp_path / "shared.toml").read_text("utf-8").strip() == path.read_text("utf-8").strip()
    named = tmp_path / "led.toml"
    named.write_text(path.read_text("utf-8"), "utf-8")
    assert not part.take_in(maker.desk, named), "that name is one of ours"


def test_an_own_part_is_found_by_the_search(maker: MainWindow, qtbot) -> None:
    from knotplan.core.draft.part import compiled
    from knotplan.exchange.part_file import dumps

    folder = maker.session.catalog.own / "parts"
    folder.mkdir(parents=True)
    (folder / "wind-vane.toml").write_text(dumps(compiled(blank())).replace("New part", "Wind vane"), "utf-8")
    maker.session.catalog.forget_part("wind-vane")
    maker.session.edit("begin", lambda plan: Plan("bowline-40"))
    maker.search.add_part()
    qtbot.keyClicks(maker.search, "vane")
    qtbot.keyClick(maker.search, Qt.Key.Key_Return)
    assert (
        maker.session.plan.parts[0].part == "wind-vane"
        and maker.session.plan.carried_parts[0].id == "wind-vane"
    )

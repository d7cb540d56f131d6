"""Value finders in the window: the inspector's lines, the dialog, histograms."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QListWidget, QPushButton, QToolButton

from knotplan.core.finders import FINDERS
from knotplan.core.plan.assumptions import ASSUMPTIONS
from knotplan.core.plan.beads import SeriesResistor
from knotplan.desktop.assumptions_dialog import AssumptionsDialog
from knotplan.desktop.panels.spread_box import SpreadBox
from knotplan.desktop.values_dialog import ValuesDialog
from knotplan.desktop.window import MainWindow


def texts(widget) -> str:
    return "\n".join(x.text() for x in widget.findChildren(QLabel))


def test_a_tie_shows_its_values_and_one_is_put_in(qtbot, window: MainWindow) -> None:
    window.session.select("lead", "quay.din")
    head = window.side.inspector.panel.findChild(QToolButton, "value-data")
    assert head.text() == "Data resistor: 270 Ω, now 330 Ω"
    head.setFocus()
    qtbot.keyClick(head, Qt.Key.Key_Space)
    assert "reflected at the source" in texts(window.side.inspector.panel)
    window.side.inspector.panel.findChild(QPushButton, "how").click()
    put = window.side.inspector.panel.findChild(QPushButton, "putValue")
    assert put.text() == "Change it to 270 Ω"
    put.click()
    beads = window.session.plan.tie_of("quay.din").beads
    assert [b.ohm for b in beads if isinstance(b, SeriesResistor)] == [270.0]
    again = window.side.inspector.panel.findChild(QToolButton, "value-data")
    assert again.isChecked(), "what was open stays open"
    assert window.side.inspector.panel.findChild(QPushButton, "putValue") is None
    window.session.undo()
    assert [b.ohm for b in window.session.plan.tie_of("quay.din").beads if isinstance(b, SeriesResistor)] == [
        330.0
    ]


def test_the_dialog_answers_each_question(qtbot, window: MainWindow) -> None:
    dialog = ValuesDialog(window.session, window)
    qtbot.addWidget(dialog)
    for k, finder in enumerate(FINDERS):
        dialog.questions.setCurrentRow(k)
        assert finder.question in texts(dialog.middle)
        assert "How it is computed" in [b.text() for b in dialog.right.findChildren(QPushButton)], finder.id
        for field in dialog.middle.findChildren(QLineEdit):
            assert field.accessibleName() and field.toolTip()


def test_typing_changes_the_answer_and_nonsense_is_said(qtbot, window: MainWindow) -> None:
    dialog = ValuesDialog(window.session, window, "led", {"supply": 12.0})
    qtbot.addWidget(dialog)

    def type_in(name: str, text: str) -> None:
        field = dialog.middle.findChild(QLineEdit, name)
        field.setText(text)
        field.editingFinished.emit()

    type_in("current", "20m")
    assert "560 Ω" in texts(dialog.right)  # (12 - 2)/0.02 = 500
    type_in("in_series", "3")
    assert "330 Ω" in texts(dialog.right)
    type_in("supply", "1.5 V")
    assert "not above the forward voltage" in texts(dialog.right)
    type_in("supply", "lots")
    assert "is not a number" in texts(dialog.middle)
    type_in("supply", "12")
    dialog.middle.findChild(QComboBox, "series").activated.emit(3)
    assert "300 Ω" in texts(dialog.right)  # (12 - 6)/0.02 in E24
    assert dialog.findChild(QListWidget, "finders").accessibleName()


def test_menu_and_inspector_open_the_dialog(monkeypatch: pytest.MonkeyPatch, window: MainWindow) -> None:
    opened: list[tuple[str, object]] = []
    monkeypatch.setattr(
        ValuesDialog,
        "exec",
        lambda self: opened.append((self.finder.id, self._given[self.finder.id]["supply"])),
    )
    window.actions_.by_id["values"].trigger()
    window.session.select("lead", "flag.power")
    head = window.side.inspector.panel.findChild(QToolButton, "value-bulk")
    head.click()
    window.side.inspector.panel.findChild(QPushButton, "otherInputs").click()
    assert opened == [("led", 5.0), ("bulk", 5.0)]


def test_specimens_are_drawn_beside_the_interface(qtbot, window: MainWindow) -> None:
    window.session.select("lead", "red-pier-light.anode")
    head = window.side.inspector.panel.findChild(QToolButton, "spread-LED current")
    assert not window.side.inspector.panel.findChildren(SpreadBox)
    head.click()
    (box,) = window.side.inspector.panel.findChildren(SpreadBox)
    qtbot.waitUntil(lambda: box.plot is not None)
    assert "nine in ten lie from" in box.summary.text() and "all are within bounds" in box.summary.text()
    head.click()
    assert not box.isVisibleTo(window.side.inspector.panel)


@pytest.mark.logs("the drawing of specimens failed")
def test_an_engine_that_fails_is_said_there(
    qtbot, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object) -> None:
        raise ArithmeticError("no operating point")

    monkeypatch.setattr("knotplan.core.engine.tolerance.of_junction", broken)
    window.session.select("lead", "lamp.anode")
    window.side.inspector.panel.findChild(QToolButton, "spread-LED current").click()
    (box,) = window.side.inspector.panel.findChildren(SpreadBox)
    qtbot.waitUntil(lambda: "failed" in box.summary.text())
    assert "no operating point" in box.summary.text()


def test_a_tie_tells_what_the_engine_found_in_each_state(window: MainWindow) -> None:
    window.session.select("lead", "red-pier-light.anode")
    window.side.inspector.panel.findChild(QToolButton, "states").click()
    said = texts(window.side.inspector.panel)
    assert "L9 high:" in said and "L9 low: 0 V" in said and "at power-on" in said
    assert "4.66 mA" in said  # as the LED's own table has it


def test_what_is_assumed_is_seen_changed_and_undone(qtbot, window: MainWindow) -> None:
    dialog = AssumptionsDialog(window.session, window)
    qtbot.addWidget(dialog)
    assert {a.title for a in ASSUMPTIONS} <= set(texts(dialog).split("\n"))

    def type_in(assumption: str, text: str) -> None:
        line = dialog.fields[assumption].line
        line.setText(text)
        line.editingFinished.emit()

    type_in("air", "47")
    assert window.session.plan.assumed("air") == 47.0
    assert window.session.undo_word == "assumption"
    back = dialog.findChild(QPushButton, "usual-air")
    assert back.isEnabled() and not dialog.findChild(QPushButton, "usual-edge").isEnabled()
    type_in("edge", "90 %")
    assert "at most 20 %" in texts(dialog)
    assert window.session.plan.assumed("edge") == 0.04
    back.click()
    assert window.session.plan.assumed("air") == 30.0
    assert dialog.fields["air"].line.text() == "30 °C" and not back.isEnabled()
    window.session.undo()
    assert window.session.plan.assumed("air") == 47.0

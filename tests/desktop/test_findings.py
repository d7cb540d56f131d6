"""A finding brings its remedy: one click shows, a second makes, undo takes it back."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLabel, QLineEdit, QPushButton

from knotplan.core.drawing.loom.view import Selection
from knotplan.core.plan import edits
from knotplan.desktop.findings.card import FindingCard
from knotplan.desktop.window import MainWindow


def card(window: MainWindow, rule: str) -> FindingCard:
    if rule == "lead-untied":
        window.side.findings.to_do.head.setChecked(True)
    window.side.findings.settle()
    return next(c for c in window.side.findings.cards if c.finding.rule == rule)


def test_show_make_and_undo_a_remedy(qtbot, draft: MainWindow) -> None:
    before = draft.session.plan
    found = card(draft, "led-no-resistor")
    qtbot.mouseClick(found.buttons[0], Qt.MouseButton.LeftButton)
    assert draft.session.plan is before, "the first click only shows"
    shown = "\n".join(x.text() for x in found.preview.findChildren(QLabel))
    assert "Red pier light · anode: gets 270 Ω" in shown
    assert draft.loom._ghosts(), "the bench shows it too"
    qtbot.mouseClick(found.preview.findChild(QPushButton, "make"), Qt.MouseButton.LeftButton)
    assert draft.session.plan.tie("red-pier-light.anode").beads[0].ohm == 270
    assert "led-no-resistor" not in [c.finding.rule for c in draft.side.findings.cards]
    draft.actions_.by_id["undo"].trigger()
    assert draft.session.plan == before
    assert card(draft, "led-no-resistor")


def test_a_second_click_on_the_same_remedy_makes_it(qtbot, draft: MainWindow) -> None:
    found = card(draft, "led-no-resistor")
    for _ in range(2):
        qtbot.mouseClick(found.buttons[0], Qt.MouseButton.LeftButton)
    assert draft.session.plan.tie("red-pier-light.anode").beads


def test_leaving_a_remedy_changes_nothing(qtbot, draft: MainWindow) -> None:
    before = draft.session.plan
    found = card(draft, "jerky-load-on-board")
    qtbot.mouseClick(found.buttons[0], Qt.MouseButton.LeftButton)
    qtbot.mouseClick(found.preview.findChild(QPushButton, "leave"), Qt.MouseButton.LeftButton)
    assert draft.session.plan is before and draft.session.preview is None and found.preview is None


def test_remedies_follow_the_plan(qtbot, draft: MainWindow) -> None:
    """What was the best pin is taken meanwhile; the offer changes with it."""
    from knotplan.core.plan import edits

    first = card(draft, "lead-untied").buttons[0].text().replace("\n", " ")
    pin = draft.session.circuit.titles.book.pins(first.split()[2])[0]
    draft.session.edit("", edits.tie, "red-pier-light.anode", f"board.{pin}")
    second = card(draft, "lead-untied").buttons[0].text().replace("\n", " ")
    assert first != second


def test_accepting_with_a_reason_sets_it_aside_and_back(qtbot, draft: MainWindow) -> None:
    count = draft.session.report.count("care")
    found = card(draft, "pin-reserved")
    qtbot.mouseClick(found.accept_button, Qt.MouseButton.LeftButton)
    qtbot.keyClick(found.reason, Qt.Key.Key_Return)
    assert draft.session.report.count("care") == count, "no reason, no accepting"
    assert "Say why" in draft.toast.text.text()
    qtbot.keyClicks(found.findChild(QLineEdit, "reason"), "console is off")
    qtbot.keyClick(found.reason, Qt.Key.Key_Return)
    assert draft.session.report.count("care") == count - 1
    aside = draft.side.findings.cards[-1]
    assert aside.finding.accepted == "console is off"
    qtbot.mouseClick(aside.findChild(QPushButton, "withdraw"), Qt.MouseButton.LeftButton)
    assert draft.session.report.count("care") == count


def test_the_keyboard_goes_from_each_finding_to_its_own_buttons(qtbot, draft: MainWindow) -> None:
    cards = draft.side.findings.cards
    cards[0].setFocus()
    for card in cards:
        for expected in card.tab_stops():
            assert QApplication.focusWidget() is expected, (card.finding.title, expected.accessibleName())
            qtbot.keyClick(expected, Qt.Key.Key_Tab)


def test_a_click_on_a_finding_selects_what_it_is_about(qtbot, draft: MainWindow) -> None:
    found = card(draft, "lead-untied")
    qtbot.mouseClick(found, Qt.MouseButton.LeftButton)
    assert draft.session.selection == Selection("lead", "flag.signal")
    draft.actions_.by_id["next-finding"].trigger()
    assert draft.session.selection.kind


def test_budgets_say_how_they_add_up(window: MainWindow) -> None:
    from knotplan.desktop.budget_bar import explained

    said = explained(next(b for b in window.session.report.budgets if b.title == "5 V brick"))
    assert "Flag: 120 mA, at worst 650 mA (stalled" in said
    assert "not all at once" in said and "all peaks would be 1.42 A" in said
    assert "5 V brick: 432 mA usually" in window.budgets.accessibleDescription()


def test_a_new_part_meets_its_maker_with_one_quiet_line(qtbot, window: MainWindow) -> None:
    """Three leads that are not tied yet are no three mistakes: no card, one line with *Suggest*."""
    findings = window.side.findings
    assert findings.to_do.isHidden(), "nothing is left to do"
    window.session.edit("", edits.add_part, "micro-servo", "Second flag")
    assert findings.cards == [] and findings.nothing.text() == "Every check holds."
    assert findings.to_do.head.text() == "3 leads to tie" and not findings.to_do.isHidden()
    assert findings.summary.text() == ""
    qtbot.mouseClick(findings.to_do.head, Qt.MouseButton.LeftButton)
    assert [c.finding.rule for c in findings.cards] == ["lead-untied"] * 3
    qtbot.mouseClick(findings.to_do.head, Qt.MouseButton.LeftButton)
    assert findings.cards == []
    window.session.undo()
    window.session.edit("", edits.add_part, "push-button", "Bell rope")
    assert findings.to_do.head.text() == "2 leads to tie"
    qtbot.mouseClick(findings.to_do.suggest, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not window.session.suggester.searching, timeout=60_000)
    window.session.take_suggestion()
    left = [f.message for f in window.session.report.findings if f.severity == "to-do"]
    assert not left and findings.to_do.isHidden()


def test_the_next_finding_goes_to_what_is_to_be_done_when_nothing_else_is_left(window: MainWindow) -> None:
    window.session.edit("", edits.add_part, "push-button", "Bell rope")
    window.actions_.by_id["next-finding"].trigger()
    assert window.side.findings.to_do.listed and window.session.selection == Selection(
        "lead", "bell-rope.contact"
    )

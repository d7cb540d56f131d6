"""Describing, changing, sharing and moving to boards, through the window's own dialogs."""

from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QAbstractItemModelTester
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QLineEdit,
    QPushButton,
    QSpinBox,
)

from knotplan.catalog.load import Catalog, shipped
from knotplan.core.draft import board as board_draft
from knotplan.core.draft.board import blank
from knotplan.core.draft.part import blank as blank_part
from knotplan.core.drawing.palette import DARK, LIGHT
from knotplan.core.plan.document import Plan
from knotplan.core.suggest.moving import move
from knotplan.desktop import dialogs
from knotplan.desktop.assumptions_dialog import AssumptionsDialog
from knotplan.desktop.board_dialog import BoardDialog
from knotplan.desktop.chart_dialog import ChartDialog
from knotplan.desktop.commands import board as board_commands
from knotplan.desktop.dialogs import ErrorDialog, TextDialog
from knotplan.desktop.mend_dialog import MendDialog
from knotplan.desktop.move_dialog import MoveDialog
from knotplan.desktop.part_form import PartForm
from knotplan.desktop.values_dialog import ValuesDialog
from knotplan.desktop.window import MainWindow
from knotplan.desktop.workshop.imports import LinesDialog, TableDialog
from knotplan.desktop.workshop.workshop import Workshop
from knotplan.exchange import board_csv, board_file, plan_file
from knotplan.exchange.table import read


@pytest.fixture
def own(tmp_path: Path) -> Catalog:
    return Catalog(own=tmp_path / "own")


@pytest.fixture
def workshop(own: Catalog, qtbot) -> Workshop:
    made = Workshop(own, blank("Tide post"), LIGHT)
    qtbot.addWidget(made, before_close_func=lambda w: setattr(w.bench, "saved", w.bench.draft))
    made.show()
    return made


def paste(workshop: Workshop, row: int, column: str, text: str) -> None:
    """As a person does: a click on a cell, then Ctrl+V."""
    keys = [c for c, _ in workshop.model.columns]
    workshop.grid.setCurrentIndex(workshop.model.index(row, keys.index(column)))
    QApplication.clipboard().setText(text)
    workshop.grid.paste()


def describe(workshop: Workshop) -> None:
    paste(workshop, 0, "printed", "5V\nGND\nD0..D12")
    paste(workshop, 15, "printed", "3V3\nGND\nA0..A5\nRST\nD13..D18")
    paste(workshop, 5, "functions", "pwm\npwm")


def test_a_board_of_thirty_pins_is_described_kept_and_planned_on(
    workshop: Workshop, own: Catalog, qtbot
) -> None:
    describe(workshop)
    assert workshop.head.text().startswith("Tide post – 30 contacts")
    with qtbot.waitSignal(workshop.kept):
        workshop.keep_and_plan()
    board = own.board("tide-post")
    assert own.own_board_ids() == ("tide-post",) and board.pins["left-6"].functions == ("digital", "pwm:any")
    assert [p.kind for p in board.pins.values()].count("ground") == 2


class Hands:
    """Types as a person does, and counts."""

    def __init__(self, workshop: Workshop, qtbot):
        self.w, self.qtbot, self.keys, self.steps = workshop, qtbot, 0, 1

    def type(self, widget, text: str, end: Qt.Key) -> None:
        self.qtbot.keyClicks(widget, text)
        self.qtbot.keyClick(widget, end)
        QApplication.processEvents()  # an editor takes its text over when the key has been dealt with
        self.keys += len(text) + 1

    def cells(self, *said: tuple[int, str, str]) -> None:
        """One step: cells of the grid, each opened by F2 and left by Enter."""
        self.steps += 1
        keys = [c for c, _ in self.w.model.columns]
        for row, column, text in said:
            self.w.grid.setFocus()
            self.w.grid.setCurrentIndex(self.w.model.index(row, keys.index(column)))
            self.qtbot.keyClick(self.w.grid, Qt.Key.Key_F2)
            self.keys += 1
            self.type(QApplication.focusWidget(), text, Qt.Key.Key_Return)

    def field(self, name: str, text: str) -> None:
        self.steps += 1
        field = self.w.facts.findChild(QLineEdit, name)
        field.setFocus()
        field.selectAll()
        self.type(field, text, Qt.Key.Key_Tab)


def test_the_handbook_s_walk_by_keys_alone(workshop: Workshop, own: Catalog, qtbot) -> None:
    """The counts stand in docs/handbook/boards.md."""
    workshop.activateWindow()
    hands = Hands(workshop, qtbot)
    hands.field("board-title", "Tide post")
    hands.steps += 1  # the voltage is right, and seen to be
    hands.cells((0, "printed", "5V"), (1, "printed", "GND"))
    hands.cells((2, "printed", "D0..D12"))
    hands.cells(
        (15, "printed", "3V3"),
        (16, "printed", "GND"),
        (17, "printed", "A0..A5"),
        (23, "printed", "RST"),
        (24, "printed", "D13..D18"),
    )
    hands.cells((2, "functions", "rx"), (3, "functions", "tx"))
    hands.cells(*((row, "functions", "pwm") for row in (5, 7, 8, 11)))
    hands.cells(*((row, "functions", "adc") for row in range(17, 23)))
    hands.cells((24, "functions", "sda"), (25, "functions", "scl"))
    hands.field("limit-drivers-io-recommended_a", "10m")
    assert workshop.keep()
    hands.steps += 2
    board = own.board("tide-post")
    assert board.drivers["io"].recommended_a == 0.01 and board.pins["right-10"].functions == (
        "digital",
        "i2c:0.sda",
    )
    assert sum(bool(p.jobs("adc")) for p in board.pins.values()) == 6
    text = (Path(__file__).parents[2] / "docs/handbook/boards.md").read_text("utf-8")
    assert f"{hands.steps} steps and {hands.keys} keys" in " ".join(text.split())


def test_the_table_of_pins_keeps_the_toolkit_s_rules_down_to_no_row(workshop: Workshop, qtbot) -> None:
    """A model that names a cell that is not there makes views fail much later."""
    QAbstractItemModelTester(
        workshop.model, QAbstractItemModelTester.FailureReportingMode.Warning, workshop.model
    )
    describe(workshop)
    whole = workshop.bench.draft
    for draft in (replace(whole, headers={}, pins=()), whole, replace(whole, headers={}, pins=())):
        workshop.bench.edit(lambda _, d=draft: d)
        workshop.bench.edit(lambda d: replace(d, title=d.title + "!"))
        workshop.bench.check()
    for _ in range(8):
        workshop.bench.undo()
    assert workshop.model.rowCount() == len(workshop.bench.draft.pins) > 0


@pytest.mark.parametrize("key", [Qt.Key.Key_Return, Qt.Key.Key_Enter])
@pytest.mark.parametrize("which", ["pins", "leads"])
@pytest.mark.qt_log_ignore("propagateSizeHints")
def test_enter_and_a_press_elsewhere_at_once(
    workshop: Workshop, own: Catalog, qtbot, key: Qt.Key, which: str
) -> None:
    """Enter is taken a moment later; the toolkit would ask an editor that is gone by
    then, and warn (which fails the test)."""
    if which == "pins":
        grid, elsewhere = workshop.grid, workshop.findChildren(QPushButton)[0]
    else:
        form = PartForm(own, blank_part())
        qtbot.addWidget(form)
        form.show()
        form.findChild(QPushButton, "addLead").click()
        grid, elsewhere = form.grid, form.findChild(QPushButton, "addLead")
    column = 0 if which == "leads" else 1
    grid.setFocus()
    grid.setCurrentIndex(grid.model().index(0, column))
    qtbot.keyClick(grid, Qt.Key.Key_F2)
    editor = next(e for e in grid.viewport().findChildren(QLineEdit) if e.isVisible())
    editor.setText("D7")
    qtbot.keyPress(editor, key)
    elsewhere.setFocus()
    qtbot.wait(5)
    assert grid.model().index(0, column).data() == "D7"
    assert grid.currentIndex().row() == 0, "who went elsewhere has not gone on to the next cell"


def test_a_range_typed_into_a_cell_fills_downwards(workshop: Workshop) -> None:
    workshop.model.setData(workshop.model.index(2, 0), "D2..D5")
    assert [p.names.get("printed") for p in workshop.bench.draft.pins[2:7]] == ["D2", "D3", "D4", "D5", None]


def test_the_picture_and_the_check_follow_and_lead_to_the_row(workshop: Workshop, qtbot) -> None:
    paste(workshop, 0, "printed", "D0\nD0")
    qtbot.waitUntil(lambda: workshop.state.text() == "1 thing to mend")
    assert workshop.wrong.item(0).text().startswith("row 2 (D0)")
    workshop.go_to(9)
    workshop._to_fault(workshop.wrong.item(0))
    assert workshop.grid.currentIndex().row() == 1 and workshop.picture.marked == 1
    workshop.bench.undo()
    qtbot.waitUntil(lambda: workshop.state.text() == "Nothing is wrong")
    assert workshop.picture.board is not None
    workshop.picture.resize(300, 500)
    workshop.picture.pin_clicked.emit(12)
    assert workshop.grid.currentIndex().row() == 12


def test_a_click_on_the_picture_finds_the_contact(workshop: Workshop, qtbot) -> None:
    from PySide6.QtCore import QPointF

    picture = workshop.picture
    p = picture._picture()
    x, y = picture._spot(3)
    scale = min(picture.width() / p.w, picture.height() / p.h)
    at = QPointF(
        (x - p.x - p.w / 2) * scale + picture.width() / 2, (y - p.y - p.h / 2) * scale + picture.height() / 2
    )
    with qtbot.waitSignal(picture.pin_clicked) as clicked:
        qtbot.mouseClick(picture, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert clicked.args == [3]


def test_headers_schemes_voltage_and_limits_are_changed_in_their_fields(workshop: Workshop) -> None:
    rows = workshop.facts.findChild(QSpinBox, "rows-left")
    rows.setValue(20)
    rows.editingFinished.emit()
    assert workshop.model.rowCount() == 35
    scheme = workshop.facts.findChild(QLineEdit, "newScheme")
    scheme.setText("Port")
    scheme.editingFinished.emit()
    assert "port" in [c for c, _ in workshop.model.columns]
    workshop.bench.edit(board_draft.set_volts, 5.0)
    assert workshop.bench.draft.base["drivers"]["io"]["input_high_v"] == 3.5
    limit = workshop.facts.findChild(QLineEdit, "limit-all_pins_a")
    limit.setText("200m")
    limit.editingFinished.emit()
    assert workshop.bench.draft.base["all_pins_a"] == 0.2
    workshop.facts._add(10, 2)
    assert list(workshop.bench.draft.headers) == ["left", "right", "main"]
    workshop.facts._remove("right")
    assert workshop.bench.sound and len(workshop.bench.board.pins) == 40


def test_cells_are_copied_cleared_and_everything_is_undone(workshop: Workshop, qtbot) -> None:
    describe(workshop)
    workshop.grid.selectAll()
    workshop.grid.copy()
    assert QApplication.clipboard().text().splitlines()[0].startswith("5V\tL1")
    workshop.grid.clear()
    assert not any(p.names for p in workshop.bench.draft.pins)
    workshop.bench.undo()
    assert workshop.bench.draft.pins[0].names["printed"] == "5V"
    workshop.bench.redo()
    assert not workshop.bench.draft.pins[0].names


def test_what_is_not_sound_is_not_kept_and_says_why(workshop: Workshop, own: Catalog) -> None:
    paste(workshop, 0, "functions", "nonsense")
    assert not workshop.keep() and "something to mend first" in workshop.state.text()
    workshop.bench.undo()
    workshop.facts._set("title", "Clove 22")
    assert not workshop.keep() and "comes with the program" in workshop.state.text()
    assert own.own_board_ids() == ()


def test_help_walks_through_the_workshop(workshop: Workshop, monkeypatch) -> None:
    said: list[str] = []
    monkeypatch.setattr(TextDialog, "exec", lambda self: said.append(self.windowTitle()))
    workshop.explain()
    assert said == ["Describing a board"]


def test_work_is_not_lost_by_leaving(workshop: Workshop, monkeypatch) -> None:
    describe(workshop)
    monkeypatch.setattr(dialogs, "may", lambda *_: False)
    workshop.reject()
    assert workshop.isVisible()
    monkeypatch.setattr(dialogs, "may", lambda *_: True)
    workshop.reject()
    assert not workshop.isVisible()


def test_everything_in_the_workshop_has_a_name_for_assistive_technology(workshop: Workshop) -> None:
    from PySide6.QtWidgets import QWidget

    for w in workshop.findChildren(QWidget):
        if (
            w.focusPolicy() & Qt.FocusPolicy.TabFocus
            and w.isVisible()
            and not w.objectName().startswith("qt_")
        ):
            assert w.accessibleName() or isinstance(w.parent(), QSpinBox), w


# --- from the window ------------------------------------------------------------------------------


@pytest.fixture
def at_home(window: MainWindow, own: Catalog) -> MainWindow:
    window.session.catalog = own
    return window


def run_workshop(monkeypatch, do) -> None:
    monkeypatch.setattr(Workshop, "exec", lambda self: do(self))  # noqa: PLW0108  (a built-in would not be bound)


def test_a_board_of_one_s_own_from_the_menu_to_a_saved_plan(
    at_home: MainWindow, monkeypatch, tmp_path: Path
) -> None:
    def work(w: Workshop) -> None:
        describe(w)
        w.facts._set("title", "Tide post")
        w.keep_and_plan()

    run_workshop(monkeypatch, work)
    at_home.actions_.by_id["board-new"].trigger()
    assert at_home.session.plan.board == "tide-post" and at_home.session.plan.carried is not None
    assert [b.property("segment") for b in at_home.bar.schemes.group.buttons()] == ["printed", "position"]
    at_home.documents.save_to(tmp_path / "p.knot.json")
    assert plan_file.load(tmp_path / "p.knot.json", shipped()).carried.title == "Tide post"


def test_changing_one_s_own_board_changes_the_plan_in_one_step(at_home: MainWindow, monkeypatch) -> None:
    run_workshop(monkeypatch, lambda w: (describe(w), w.facts._set("title", "Tide post"), w.keep_and_plan()))
    assert not at_home.actions_.by_id["board-change"].isEnabled()
    at_home.actions_.by_id["board-new"].trigger()
    assert at_home.actions_.by_id["board-change"].isEnabled()
    run_workshop(monkeypatch, lambda w: (paste(w, 2, "printed", "X9"), w.keep()))
    at_home.actions_.by_id["board-change"].trigger()
    assert at_home.session.circuit.titles.of("board.left-3") == "X9"
    at_home.session.undo()
    assert at_home.session.circuit.titles.of("board.left-3") == "D0"


def test_a_shared_plan_s_board_never_replaces_my_own_of_the_same_name_unasked(
    at_home: MainWindow, monkeypatch
) -> None:
    from msgspec.structs import replace

    mine = shipped().path_of("toggle").read_text("utf-8")
    folder = at_home.session.catalog.own / "boards"
    folder.mkdir(parents=True)
    (folder / "card.toml").write_text(mine)
    theirs = replace(at_home.session.catalog.board("card"), all_pins_a=0.01)
    at_home.session.replace_document(Plan("card", carried=theirs), None)
    asked: list[str] = []
    monkeypatch.setattr(dialogs, "may", lambda *a: asked.append(a[1]))
    run_workshop(monkeypatch, lambda w: w.keep())
    at_home.actions_.by_id["board-change"].trigger()
    assert len(asked) == 1 and (folder / "card.toml").read_text("utf-8") == mine
    at_home.session.replace_document(Plan("card", carried=at_home.session.catalog.board("card")), None)
    at_home.actions_.by_id["board-change"].trigger()
    assert len(asked) == 1 and (folder / "card.toml").read_text("utf-8").startswith(
        "# Toggle: a classroom card"
    )


def test_a_copy_of_a_board_begins_with_everything_that_it_has(at_home: MainWindow, monkeypatch) -> None:
    seen: list[Workshop] = []
    run_workshop(monkeypatch, lambda w: (seen.append(w), w.keep()))
    at_home.actions_.by_id["board-copy"].trigger()
    copy = at_home.session.catalog.board("bowline-40-copy")
    assert copy.reservations == shipped().board("bowline-40").reservations and len(copy.pins) == 40


def test_a_table_goes_through_its_columns_to_the_workshop(
    at_home: MainWindow, monkeypatch, tmp_path: Path
) -> None:
    path = tmp_path / "mast post.csv"
    path.write_text("Pin,Name,Does\n1,5V,\n2,GND,\n3,D0,pwm\n4,D1,\n")
    seen: list[Workshop] = []
    monkeypatch.setattr(TableDialog, "exec", lambda self: QDialog.DialogCode.Accepted)
    run_workshop(monkeypatch, seen.append)
    board_commands.begin_with_table(at_home.desk, path)
    assert seen[0].bench.draft.title == "Mast post" and len(seen[0].bench.draft.pins) == 4


def test_a_table_that_cannot_be_read_says_why(at_home: MainWindow, monkeypatch, tmp_path: Path) -> None:
    path = tmp_path / "bad.csv"
    path.write_text("a,b\n1,2\n1,2,3\n1\n")
    said: list[tuple[str, bool]] = []

    def look(self: TableDialog) -> QDialog.DialogCode:
        said.append((self.why.text(), self.box.button(QDialogButtonBox.StandardButton.Ok).isEnabled()))
        return QDialog.DialogCode.Rejected

    monkeypatch.setattr(TableDialog, "exec", look)
    board_commands.begin_with_table(at_home.desk, path)
    ((words, able),) = said
    assert "row 4: 1 cells where others have" in words and not able
    path.write_text("")
    refused: list[str] = []
    monkeypatch.setattr(ErrorDialog, "exec", lambda self: refused.append(self.text.toPlainText()))
    board_commands.begin_with_table(at_home.desk, path)
    assert refused == ["it is empty"]


def test_the_table_dialog_lets_the_maker_say_what_columns_mean(qtbot) -> None:
    data = b"Pin;Name\n1;D0\n2;D1\n"
    dialog = TableDialog(data, read.understood(data, "post", board_csv.KNOWN), "post")
    qtbot.addWidget(dialog)
    assert [c.currentData() for c in dialog.choices] == ["position", "printed"]
    dialog.choices[1].setCurrentIndex(dialog.choices[1].findData("scheme:Name"))
    dialog.arrangement.setCurrentIndex(2)
    dialog.volts.setCurrentIndex(0)
    draft = dialog.draft()
    assert draft.schemes == {"position": "Position", "name": "Name"} and draft.logic_v == 5.0
    assert [(h.rows, h.columns) for h in draft.headers.values()] == [(2, 1)]


def test_another_sign_or_other_letters_have_the_rest_guessed_anew(qtbot) -> None:
    rows = [f"pwm;Öse {k};{2 * k + 1};{2 * k + 2};A{k};adc" for k in range(6)]
    data = "\n".join(["The left side;;;The right side;;", "Does;Name;Pin;Pin;Name;Does", *rows]).encode(
        "cp1252"
    )
    dialog = TableDialog(data, read.understood(data, "post", board_csv.KNOWN), "post")
    qtbot.addWidget(dialog)
    assert dialog.sides.isChecked() and dialog.deep.isChecked() and len(dialog.table.rows) == 12
    dialog.sign.setCurrentIndex(dialog.sign.findData(","))
    assert not dialog.sides.isChecked() and len(dialog.table.headings) == 1
    dialog.sign.setCurrentIndex(dialog.sign.findData(";"))
    assert dialog.sides.isChecked() and dialog.table.headings == ("Does", "Name", "Pin")
    dialog.encoding.setCurrentIndex(dialog.encoding.findData("utf-8"))
    take = dialog.box.button(QDialogButtonBox.StandardButton.Ok)
    assert "is not UTF-8 text" in dialog.why.text() and not take.isEnabled()
    dialog.encoding.setCurrentIndex(dialog.encoding.findData("cp1252"))
    assert dialog.why.isHidden() and take.isEnabled() and "Öse 0" in str(dialog.table.rows)


def test_a_listing_is_pasted_prompts_and_all(qtbot) -> None:
    dialog = LinesDialog(chips=[])
    qtbot.addWidget(dialog)
    listing = 'you@board:~$ gpioinfo\ngpiochip0 - 2 lines:\n line 0: "MAST" input\n line 1: unnamed output\n'
    QApplication.clipboard().setText(listing)
    dialog.findChild(QPushButton, "pasteListing").click()
    assert [x.name for x in dialog.lines] == ["MAST", ""]


def test_the_lines_of_a_saved_listing(qtbot, tmp_path: Path, monkeypatch) -> None:
    dialog = LinesDialog(chips=[])
    qtbot.addWidget(dialog)
    take = dialog.box.button(QDialogButtonBox.StandardButton.Ok)
    assert not take.isEnabled()
    (tmp_path / "lines.txt").write_text(
        'gpiochip0 - 2 lines:\n line 0: "MAST" input\n line 1: unnamed output consumer=led\n'
    )
    dialog.load(tmp_path / "lines.txt")
    assert take.isEnabled()
    assert dialog.found.item(0).text() == "gpiochip0 0   MAST" and len(dialog.draft().pins) == 2
    said: list[str] = []
    monkeypatch.setattr(ErrorDialog, "exec", lambda self: said.append(self.text.toPlainText()))
    (tmp_path / "lines.txt").write_text("hello\n")
    dialog.load(tmp_path / "lines.txt")
    dialog.read(tmp_path / "lines.txt")
    assert said[0].startswith("line 1") and len(said) == 2


def test_a_shared_board_is_taken_in_with_its_comments_a_bad_one_is_not(
    at_home: MainWindow, monkeypatch, tmp_path: Path
) -> None:
    text = shipped().path_of("toggle").read_text("utf-8")
    (tmp_path / "card.toml").write_text(text)
    assert board_commands.take_in(at_home.desk, tmp_path / "card.toml")
    assert at_home.session.catalog.path_of("card").read_text("utf-8") == text
    (tmp_path / "toggle.toml").write_text(text)
    assert not board_commands.take_in(at_home.desk, tmp_path / "toggle.toml")
    said: list[str] = []
    monkeypatch.setattr(ErrorDialog, "exec", lambda self: said.append(self.text.toPlainText()))
    (tmp_path / "bad.toml").write_text(text.replace('driver = "clip"', 'driver = "clop"'))
    assert not board_commands.take_in(at_home.desk, tmp_path / "bad.toml")
    assert said[0].count("did you mean 'clip'?") == 4


def test_the_plan_s_board_is_written_to_a_file(at_home: MainWindow, tmp_path: Path) -> None:
    board_commands.write(at_home.desk, tmp_path / "bowline-40.toml")
    assert (tmp_path / "bowline-40.toml").read_text("utf-8").startswith("# Bowline 40: a Linux computer")
    assert board_file.load(tmp_path / "bowline-40.toml").title == "Bowline 40"


def test_boards_are_chosen_by_picture_and_by_what_they_are(own: Catalog, qtbot) -> None:
    (own.own / "boards").mkdir(parents=True)
    (own.own / "boards" / "broken.toml").write_text("title = 3")
    dialog = BoardDialog(own, DARK, "Which?")
    qtbot.addWidget(dialog)
    assert dialog.list.count() == 10 and not dialog.list.item(0).icon().isNull()
    assert "cannot be used" in dialog.list.item(9).text()
    dialog.field.setText("radio")
    assert dialog.board() == "halyard-w"
    dialog.field.setText("nothing like it")
    assert dialog.board() == ""


def test_a_new_plan_can_begin_with_describing_its_board(at_home: MainWindow, monkeypatch) -> None:
    seen: list[Workshop] = []
    run_workshop(monkeypatch, seen.append)
    monkeypatch.setattr(BoardDialog, "exec", lambda self: self._describe() or QDialog.DialogCode.Rejected)
    at_home.documents.new()
    assert len(seen) == 1


def test_a_board_of_one_s_own_is_removed_and_others_are_not(own: Catalog, qtbot, monkeypatch) -> None:
    (own.own / "boards").mkdir(parents=True)
    (own.own / "boards" / "mine.toml").write_text(shipped().path_of("toggle").read_text("utf-8"))
    dialog = BoardDialog(own, LIGHT, "Which?")
    qtbot.addWidget(dialog)
    dialog.list.select("clove-22")
    assert not dialog.away.isEnabled()
    dialog.list.select("mine")
    assert dialog.away.isEnabled()
    monkeypatch.setattr(dialogs, "may", lambda *_: False)
    dialog.remove()
    assert own.own_board_ids() == ("mine",)
    monkeypatch.setattr(dialogs, "may", lambda *_: True)
    dialog.remove()
    assert own.own_board_ids() == () and dialog.list.count() == 9


def test_moving_shows_every_tie_before_it_is_accepted_and_is_undone(window: MainWindow, monkeypatch) -> None:
    seen: list[str] = []

    def look(dialog: MoveDialog) -> QDialog.DialogCode:
        dialog.list.select("carrick-72")
        seen.append(dialog.summary.text())
        assert dialog.table.rowCount() == sum(t.to.startswith("board.") for t in window.session.plan.ties)
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(MoveDialog, "exec", look)
    before = window.session.plan
    window.actions_.by_id["move"].trigger()
    assert window.session.circuit.board.id == "carrick-72" and "carry over" in seen[0]
    QApplication.processEvents()
    shown = [b.text() for b in window.bar.schemes.findChildren(QPushButton) if b.isVisible()]
    assert shown == ["Header", "Chip line", "Kernel", "Function"]  # and none of the old board's
    assert window.views.shown() is window.views.page("loom")
    window.session.undo()
    assert window.session.plan == before


def test_the_chart_follows_its_boxes_and_is_written_in_three_formats(
    window: MainWindow, tmp_path: Path, qtbot
) -> None:
    dialog = ChartDialog(window.session, window)
    whole = dialog.paper.picture.w
    for scheme in ("library", "kernel", "function"):
        dialog.schemes[scheme].click()
    assert dialog.paper.picture.w < whole and dialog.chosen() == ("chip", "position")
    dialog.ties.click()
    texts = [s.text for s in dialog.paper.picture.shapes if hasattr(s, "text")]
    assert "Tied to" not in texts and "L22" in texts and "line 62" not in texts
    for kind, begin in (("pdf", b"%PDF"), ("svg", b"<svg"), ("png", b"\x89PNG")):
        dialog.write(tmp_path / f"c.{kind}", kind)
        assert begin in (tmp_path / f"c.{kind}").read_bytes()[:200]
    dialog.deleteLater()


@pytest.mark.parametrize(
    "dialog",
    [ChartDialog, lambda s, w: MoveDialog(s, w.palette_now, w), MendDialog, ValuesDialog, AssumptionsDialog],
)
def test_a_dialog_outlives_the_plan_that_it_was_opened_on(
    window: MainWindow, tmp_path: Path, monkeypatch, dialog
) -> None:
    """The plan goes to another board underneath, with other schemes; whatever is pressed must not fail."""
    window.session.edit("elsewhere", lambda plan: move(plan, shipped(), shipped().board("carrick-72")).plan)
    opened = dialog(window.session, window)
    window.session.undo()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "c"), ""))
    buttons, ticks = opened.findChildren(QPushButton), opened.findChildren(QCheckBox)
    for pressed in [*buttons, *ticks]:
        pressed.click()
    opened.deleteLater()
    assert window.session.plan.board == "bowline-40"


def test_settings_of_the_system_are_switched_in_the_panel_and_the_menu(window: MainWindow) -> None:
    from PySide6.QtWidgets import QCheckBox

    window.session.select("", "")
    box = window.side.inspector.panel.findChild(QCheckBox, "setting-console")
    assert box.isChecked()
    box.click()
    assert window.session.plan.set_up == ("console",)
    window.actions_.submenus["set-up"].aboutToShow.emit()
    entry = window.actions_.submenus["set-up"].actions()[0]
    assert not entry.isChecked() and entry.text() == "The serial console"
    entry.trigger()
    assert window.session.plan.set_up == ()


def test_file_dialogs_lead_to_the_same_doors(at_home: MainWindow, monkeypatch, tmp_path: Path) -> None:
    (tmp_path / "card.toml").write_text(shipped().path_of("toggle").read_text("utf-8"))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "card.toml"), ""))
    at_home.actions_.by_id["board-take"].trigger()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "out.toml"), ""))
    at_home.actions_.by_id["board-share"].trigger()
    assert at_home.session.catalog.own_board_ids() == ("card",) and (tmp_path / "out.toml").exists()

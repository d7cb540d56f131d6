"""The Board menu: the workshop and its beginnings, moving, sharing, the chart.

What is rarely used is imported when it is used.
"""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import to_builtins
from PySide6.QtWidgets import QDialog, QFileDialog, QMenu

from knotplan.catalog.load import MOST_BYTES, UnknownEntryError
from knotplan.catalog.reading import read_utf8
from knotplan.core.plan import edits
from knotplan.desktop.commands.command import LINE, Command, Menu, Submenu, add_entry
from knotplan.desktop.desk import Desk
from knotplan.desktop.dialogs import run
from knotplan.desktop.tips import tip_text

if TYPE_CHECKING:
    from knotplan.catalog.board.board import Board
    from knotplan.core.draft.board import BoardDraft
    from knotplan.desktop.workshop.workshop import Workshop

# --- the workshop -----------------------------------------------------------------------------


def open_workshop(desk: Desk, draft: "BoardDraft", text: str = "", replaces: bool = False) -> None:
    """The workshop on a draft; `text` is the file that it comes from, which it may replace."""
    from knotplan.desktop.workshop.workshop import Workshop

    workshop = Workshop(desk.session.catalog, draft, desk.palette, desk.parent, text, replaces)
    workshop.kept.connect(partial(_kept, desk))
    keep_draft(desk, workshop)
    run(workshop)
    desk.documents.drop_draft("board")


def keep_draft(desk: Desk, workshop: "Workshop") -> None:
    """Has each change in a workshop kept aside, so that a crash does not take it along."""

    def keep() -> None:
        now = workshop.bench.draft
        state = {"draft": to_builtins(now), "text": workshop.text, "replaces": workshop.replaces}
        desk.documents.keep_draft("board", now.title, state)

    workshop.bench.changed.connect(keep)


def _kept(desk: Desk, board_id: str, begin: bool) -> None:
    """A board was kept: a plan on it follows, or is begun."""
    board = desk.session.catalog.board(board_id)
    if desk.session.plan.board == board_id:
        desk.session.edit(f"change {board.title}", edits.carry, board)
    elif begin and desk.documents.may_leave():
        desk.documents.begin(board_id)


def describe(desk: Desk) -> None:
    from knotplan.core.draft.board import blank

    open_workshop(desk, blank())


def change_copy(desk: Desk) -> None:
    from knotplan.core.draft.board import from_board

    board = desk.session.circuit.board
    open_workshop(desk, from_board(board, f"{board.title} copy"), _text(desk))


def _text(desk: Desk) -> str:
    """The file of the plan's board, where it has one."""
    try:
        return read_utf8(desk.session.catalog.path_of(desk.session.circuit.board.id), MOST_BYTES)
    except (UnknownEntryError, OSError, UnicodeDecodeError):
        return ""


def is_own(desk: Desk) -> bool:
    return desk.session.plan.carried is not None


def change(desk: Desk) -> None:
    from knotplan.core.draft.board import from_board

    carried = desk.session.plan.carried
    if carried is not None:
        mine = _is_mine(desk, carried)
        open_workshop(desk, from_board(carried), _text(desk) if mine else "", mine)


def _is_mine(desk: Desk, carried: "Board") -> bool:
    """The plan's board is that of the maker's own file, and not another one of the same name."""
    try:
        own = desk.session.catalog.board(carried.id)
    except UnknownEntryError:
        return False
    return bool(to_builtins(own) == to_builtins(carried))


def from_table(desk: Desk) -> None:
    name, _ = QFileDialog.getOpenFileName(
        desk.parent, "A board from a table", "", "Tables (*.csv *.tsv *.txt);;All files (*)"
    )
    if name:
        begin_with_table(desk, Path(name))


def begin_with_table(desk: Desk, path: Path) -> None:
    """A table of pins, its columns told, then the workshop."""
    from knotplan.desktop.workshop.imports import TableDialog
    from knotplan.exchange import board_csv

    try:
        dialog = TableDialog(*board_csv.understood(path), path.stem, desk.parent)
    except (board_csv.TableError, OSError) as error:
        desk.documents.refuse(path, error)
        return
    if run(dialog) == QDialog.DialogCode.Accepted:
        open_workshop(desk, dialog.draft())


def from_lines(desk: Desk) -> None:
    from knotplan.desktop.workshop.imports import LinesDialog

    dialog = LinesDialog(desk.parent)
    if run(dialog) == QDialog.DialogCode.Accepted:
        open_workshop(desk, dialog.draft())


# --- files ------------------------------------------------------------------------------------


def take(desk: Desk) -> None:
    name, _ = QFileDialog.getOpenFileName(
        desk.parent, "Take in a board", "", "Boards (*.toml);;All files (*)"
    )
    if name:
        take_in(desk, Path(name))


def take_in(desk: Desk, path: Path) -> bool:
    """A board file checked and put among the maker's own; one that is there already is asked about."""
    from knotplan.desktop.commands import own_files

    taken = own_files.take_in(desk, path, "board")
    desk.session.catalog.forget(taken)
    return bool(taken)


def share(desk: Desk) -> None:
    board = desk.session.circuit.board
    name, _ = QFileDialog.getSaveFileName(
        desk.parent, "Save the board", f"{board.id}.toml", "Boards (*.toml)"
    )
    if name:
        write(desk, Path(name))


def write(desk: Desk, path: Path) -> None:
    """The plan's board as a file; one that has a file keeps its comments."""
    from knotplan.exchange.board_file import save

    try:
        save(desk.session.circuit.board, path, _text(desk))
    except OSError as error:
        desk.session.noticed.emit(f"{path.name} was not written: {error.strerror}")
    else:
        desk.session.noticed.emit(f"Wrote {path}")


# --- the plan's board -------------------------------------------------------------------------


def move(desk: Desk) -> None:
    from knotplan.desktop.move_dialog import MoveDialog

    dialog = MoveDialog(desk.session, desk.palette, desk.parent)
    if run(dialog) == QDialog.DialogCode.Accepted and dialog.moved is not None:
        plan = dialog.moved.plan
        desk.session.edit("move to another board", lambda _: plan)
        desk.session.select("", "")


def chart(desk: Desk) -> None:
    from knotplan.desktop.chart_dialog import ChartDialog

    run(ChartDialog(desk.session, desk.parent))


def fill_settings(menu: QMenu, desk: Desk) -> None:
    """What the board's system has on or off; a tick is what the plan wants."""
    circuit = desk.session.circuit
    for name, spec in circuit.board.settings.items():
        switch = partial(desk.session.edit, f"switch {spec.title}", edits.set_up, name)
        entry = add_entry(menu, spec.title[0].upper() + spec.title[1:], switch)
        tip = f"{spec.starts} at first; to change it: {spec.how}. {spec.note}"
        entry.setToolTip(tip_text(tip.strip()))
        entry.setCheckable(True)
        entry.setChecked(circuit.hardware.is_on(name))
    if menu.isEmpty():
        menu.addAction("this board has none").setEnabled(False)


MENU = Menu(
    "&Board",
    (
        Command(
            "move", "&Move to another board …", "Ctrl+M", "See which ties carry over before accepting", move
        ),
        Submenu(
            "set-up",
            "&System settings",
            "What the board's system has on or off at first, and you change",
            fill_settings,
            changes=True,
        ),
        Command(
            "chart",
            "Board &chart …",
            "Ctrl+Alt+B",
            "Every pin by its names, to print and keep beside the bench",
            chart,
        ),
        LINE,
        Command(
            "turn",
            "&Turn board",
            "R",
            "A quarter turn, as it lies on the bench",
            lambda desk: desk.session.edit("turn the board", edits.turn),
        ),
        Command(
            "flip",
            "Fl&ip board",
            "Shift+R",
            "See it from the other side",
            lambda desk: desk.session.edit("flip the board", edits.flip),
        ),
        LINE,
        Command(
            "board-new",
            "&Describe a board …",
            "Ctrl+B",
            "The workshop: headers, then pins in a grid",
            describe,
        ),
        Command(
            "board-table",
            "Describe one from a t&able …",
            "",
            "Begin with pins from a spreadsheet (CSV)",
            from_table,
        ),
        Command(
            "board-lines",
            "Describe one from GPIO &lines …",
            "",
            "Begin with the lines of a Linux machine",
            from_lines,
        ),
        Command(
            "board-copy",
            "Change a c&opy of this board …",
            "",
            "The workshop on a copy of the plan's board",
            change_copy,
        ),
        Command(
            "board-change",
            "Chan&ge this board …",
            "Ctrl+Shift+B",
            "The workshop on the plan's board, if it is your own",
            change,
            is_own,
        ),
        LINE,
        Command(
            "board-take",
            "Ta&ke in a board file …",
            "",
            "Add a board that somebody shared to your own",
            take,
        ),
        Command(
            "board-share",
            "Save this board as a &file …",
            "",
            "Write the plan's board to a file, to share it",
            share,
        ),
    ),
)

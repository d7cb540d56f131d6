"""What the Board menu does: the workshop and its beginnings, moving, sharing, the chart."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import to_builtins
from PySide6.QtWidgets import QDialog, QFileDialog

from knotplan.catalog.load import MOST_BYTES
from knotplan.catalog.reading import read_utf8
from knotplan.core.plan import edits
from knotplan.desktop.dialogs import run

if TYPE_CHECKING:
    from knotplan.catalog.board.board import Board
    from knotplan.core.draft.board import BoardDraft
    from knotplan.desktop.window import MainWindow
    from knotplan.desktop.workshop.workshop import Workshop


class BoardCommands:
    """What is rarely used is imported when it is used."""

    def __init__(self, window: "MainWindow"):
        self.w, self.session = window, window.session

    def handlers(self) -> dict[str, Callable[[], object]]:
        """By the action's id."""
        s = self.session
        return {
            "move": self.move,
            "chart": self.chart,
            "turn": partial(s.edit, "turn the board", edits.turn),
            "flip": partial(s.edit, "flip the board", edits.flip),
            "board-new": self.describe,
            "board-table": self.from_table,
            "board-lines": self.from_lines,
            "board-copy": self.copy,
            "board-change": self.change,
            "board-take": self.take,
            "board-share": self.share,
        }

    # --- the workshop ---------------------------------------------------------------------------

    def workshop(self, draft: "BoardDraft", text: str = "", replaces: bool = False) -> None:
        from knotplan.desktop.workshop.workshop import Workshop

        made = Workshop(self.session.catalog, draft, self.w.palette_now, self.w, text, replaces)
        made.kept.connect(self.kept)
        self.keep_draft(made)
        run(made)
        self.w.documents.drop_draft("board")

    def keep_draft(self, workshop: "Workshop") -> None:
        """Has each change in a workshop kept aside, so that a crash does not take it along."""

        def keep() -> None:
            now = workshop.bench.draft
            state = {"draft": to_builtins(now), "text": workshop.text, "replaces": workshop.replaces}
            self.w.documents.keep_draft("board", now.title, state)

        workshop.bench.changed.connect(keep)

    def kept(self, board: str, begin: bool) -> None:
        """A board was kept: a plan on it follows, or is begun."""
        found = self.session.catalog.board(board)
        if self.session.plan.board == board:
            self.session.edit(f"change {found.title}", edits.carry, found)
        elif begin and self.w.documents.may_leave():
            self.w.documents.begin(board)

    def describe(self) -> None:
        from knotplan.core.draft.board import blank

        self.workshop(blank())

    def copy(self) -> None:
        from knotplan.core.draft.board import from_board

        board = self.session.circuit.board
        self.workshop(from_board(board, f"{board.title} copy"), self._text())

    def _text(self) -> str:
        """The file of the plan's board, where it has one."""
        from knotplan.catalog.load import UnknownEntryError

        try:
            return read_utf8(self.session.catalog.path_of(self.session.circuit.board.id), MOST_BYTES)
        except (UnknownEntryError, OSError, UnicodeDecodeError):
            return ""

    def change(self) -> None:
        from knotplan.core.draft.board import from_board

        carried = self.session.plan.carried
        if carried is not None:
            mine = self._is_mine(carried)
            self.workshop(from_board(carried), self._text() if mine else "", mine)

    def _is_mine(self, carried: "Board") -> bool:
        """The plan's board is that of the maker's own file, and not another one of the same name."""
        import msgspec

        from knotplan.catalog.load import UnknownEntryError

        try:
            own = self.session.catalog.board(carried.id)
        except UnknownEntryError:
            return False
        return bool(msgspec.to_builtins(own) == msgspec.to_builtins(carried))

    def from_table(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.w, "A board from a table", "", "Tables (*.csv *.tsv *.txt);;All files (*)"
        )
        if name:
            self.table(Path(name))

    def table(self, path: Path) -> None:
        """A table of pins, its columns told, then the workshop."""
        from knotplan.desktop.workshop.imports import TableDialog
        from knotplan.exchange import board_csv

        try:
            dialog = TableDialog(board_csv.load(path), self.w)
        except (board_csv.TableError, OSError) as error:
            self.w.documents.refuse(path, error)
            return
        if run(dialog) == QDialog.DialogCode.Accepted:
            self.workshop(dialog.draft())

    def from_lines(self) -> None:
        from knotplan.desktop.workshop.imports import LinesDialog

        dialog = LinesDialog(self.w)
        if run(dialog) == QDialog.DialogCode.Accepted:
            self.workshop(dialog.draft())

    # --- files ----------------------------------------------------------------------------------

    def take(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.w, "Take in a board", "", "Boards (*.toml);;All files (*)")
        if name:
            self.take_in(Path(name))

    def take_in(self, path: Path) -> bool:
        """A board file checked and put among the maker's own; one that is there already is asked about."""
        from knotplan.desktop.own_files import take_in

        taken = take_in(self.w, path, "board")
        self.session.catalog.forget(taken)
        return bool(taken)

    def share(self) -> None:
        board = self.session.circuit.board
        name, _ = QFileDialog.getSaveFileName(self.w, "Save the board", f"{board.id}.toml", "Boards (*.toml)")
        if name:
            self.write(Path(name))

    def write(self, path: Path) -> None:
        """The plan's board as a file; one that has a file keeps its comments."""
        from knotplan.exchange.board_file import save

        try:
            save(self.session.circuit.board, path, self._text())
        except OSError as error:
            self.session.noticed.emit(f"{path.name} was not written: {error.strerror}")
        else:
            self.session.noticed.emit(f"Wrote {path}")

    # --- moving, printing -----------------------------------------------------------------------

    def move(self) -> None:
        from knotplan.desktop.move_dialog import MoveDialog

        dialog = MoveDialog(self.session, self.w.palette_now, self.w)
        if run(dialog) == QDialog.DialogCode.Accepted and dialog.moved is not None:
            plan = dialog.moved.plan
            self.session.edit("move to another board", lambda _: plan)
            self.session.select("", "")

    def chart(self) -> None:
        from knotplan.desktop.chart_dialog import ChartDialog

        run(ChartDialog(self.session, self.w))

"""The board workshop: facts and headers on the left, the grid of pins, the
picture and the check on the right."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QSizePolicy,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from knotplan.catalog.board.board import Board
from knotplan.catalog.load import Catalog
from knotplan.core.draft.board import BoardDraft
from knotplan.core.drawing.palette import Palette
from knotplan.core.quantity.written import counted
from knotplan.desktop import dialogs, lettering
from knotplan.desktop.dialogs import TextDialog, run
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, column, label, row
from knotplan.desktop.tips import tip_text
from knotplan.desktop.workshop.bench import DraftBench
from knotplan.desktop.workshop.board_picture import BoardPicture
from knotplan.desktop.workshop.facts_panel import FactsPanel
from knotplan.desktop.workshop.pin_grid import PinGrid, PinGridView
from knotplan.exchange.board_file import SUFFIX, save

HELP = (
    "Type or paste names into a column: a block from any spreadsheet, or a range such as D2..D13, which "
    "fills downwards. GND, 5V, 3V3, RST are known by their names; short words do for functions: pwm, adc, "
    "sda, tx. F1: more."
)


WALK = """1  Give the board its name and the voltage of its signal pins; rails, thresholds and limits follow \
the voltage.
2  Say rows, columns and pitch of each header; add or take away headers.
3  Fill the column Printed: type, paste from a spreadsheet, or write a range such as D2..D13, which fills \
downwards. Enter goes down. Empty cells show in grey what they are taken for.
4  Other names of the pins (port, chip line …) get a column each: type the name of the scheme on the left.
5  Functions, where a pin can do more than be switched and read: pwm, adc, sda, scl, tx, rx, mosi …, \
or by unit: pwm:1.a. \
“input” can only be read, “only adc” can only measure.
6  Power-on, where it matters; empty is floating.
7  Limits on the left, from the board's manual.
8  When nothing is wrong, Ctrl+S keeps the board, and Keep and plan on it begins a plan. Ctrl+Z takes a step \
back.

Straps, reservations, settings and banks are written into the file by hand; the workshop keeps them."""


class Workshop(QDialog):
    """One board of the maker's own; kept in the maker's folder, from where it can be used and shared."""

    kept = Signal(str, bool)
    """the id of a board that was kept, and whether a plan is to be begun on it"""

    def __init__(
        self,
        catalog: Catalog,
        draft: BoardDraft,
        palette: Palette,
        parent: QWidget | None = None,
        text: str = "",
        replaces: bool = False,
    ):
        """`text`: the file that the draft was begun from, whose comments go along; `replaces`: it is that
        very file which keeping writes, so that nobody need be asked."""
        super().__init__(parent)
        self.catalog, self.p, self.text, self.replaces = catalog, palette, text, replaces
        self.bench = DraftBench(draft, self)
        self.setWindowTitle("Board workshop")
        self.setWindowFlag(Qt.WindowType.WindowMaximizeButtonHint, True)
        self.resize(1200, 740)
        self.setMinimumSize(900, 560)
        down = QVBoxLayout(self)
        down.setContentsMargins(16, 14, 16, 12)
        self.head = label("", "head", wrap=False)
        down.addWidget(self.head)
        down.addWidget(label(HELP, "faint"))
        split = QSplitter(Qt.Orientation.Horizontal)
        split.setChildrenCollapsible(False)
        self.left = self._left()
        split.addWidget(self.left)
        self.model = PinGrid(self.bench, palette)
        self.grid = PinGridView(self.model)
        split.addWidget(self.grid)
        split.addWidget(self._right())
        split.setSizes([self.left.minimumWidth(), 610, 300])
        split.setStretchFactor(1, 1)
        down.addWidget(split, 1)
        down.addWidget(self._buttons())
        self.grid.selectionModel().currentChanged.connect(lambda *_: self._picture())
        self.model.modelReset.connect(self._picture)
        self.picture.pin_clicked.connect(self.go_to)
        self.bench.checked.connect(self.refresh)
        for keys, do in (
            ("Ctrl+Z", self.bench.undo),
            ("Ctrl+Shift+Z", self.bench.redo),
            ("Ctrl+S", self.keep),
            ("F1", self.explain),
        ):
            QShortcut(QKeySequence(keys), self, do)
        self.refresh()
        self.grid.setFocus()
        self.grid.setCurrentIndex(self.model.index(0, 0))

    def _left(self) -> QScrollArea:
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setAccessibleName("The board as a whole")
        self.facts = FactsPanel(self.bench)
        self.facts.setContentsMargins(0, 0, 10, 0)
        area.setWidget(self.facts)
        # as wide as its fields, so that nobody has to move it across
        area.setMinimumWidth(
            self.facts.minimumSizeHint().width() + area.verticalScrollBar().sizeHint().width() + 2
        )
        return area

    def _right(self) -> QWidget:
        self.picture = BoardPicture(self.p)
        self.state = label("", "strong")
        self.wrong = QListWidget()
        self.wrong.setAccessibleName("What is wrong with the board")
        self.wrong.setWordWrap(True)
        self.wrong.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.wrong.setResizeMode(QListWidget.ResizeMode.Adjust)
        lettering.fix(self.wrong, height=130)
        self.wrong.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        equip(self.wrong)
        self.wrong.itemActivated.connect(self._to_fault)
        self.wrong.itemClicked.connect(self._to_fault)
        side = column(self.picture, self.state, self.wrong, spacing=6)
        layout = side.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.setStretch(0, 1)
        self.state.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        return side

    def _buttons(self) -> QWidget:
        widget = QWidget()
        across = QHBoxLayout(widget)
        across.setContentsMargins(0, 4, 0, 0)
        across.addWidget(
            row(button("Save as file …", "saveFile", "Write the board to a file, to share it", self.save_as)),
            1,
        )
        across.addWidget(button("Close", "closeWorkshop", "Leave the workshop (Esc)", self.close))
        across.addWidget(button("Keep", "keepBoard", "Keep the board among your own (Ctrl+S)", self.keep))
        across.addWidget(
            button(
                "Keep and plan on it",
                "planOnIt",
                "Keep the board and begin a plan on it",
                self.keep_and_plan,
                "main",
            )
        )
        return widget

    # --- following the draft --------------------------------------------------------------------

    def refresh(self) -> None:
        d = self.bench.draft
        named = sum(bool([t for s, t in p.names.items() if s != "position"]) for p in d.pins)
        self.head.setText(f"{d.title} – {counted(len(d.pins), 'contact')}, {named} with a name")
        self.wrong.clear()
        for place, why in self.bench.wrong[:200]:
            item = QListWidgetItem(f"{place}: {why}" if place else why)
            item.setData(Qt.ItemDataRole.UserRole, place)
            item.setToolTip(tip_text(why))
            self.wrong.addItem(item)
        self.state.setText(
            f"{counted(len(self.bench.wrong), 'thing')} to mend" if self.bench.wrong else "Nothing is wrong"
        )
        self.wrong.setVisible(bool(self.bench.wrong))
        self._picture()

    def _picture(self) -> None:
        self.picture.show_board(self.bench.board, self.grid.currentIndex().row())

    def go_to(self, number: int) -> None:
        """The grid's row of a contact."""
        at = self.model.index(number, max(0, self.grid.currentIndex().column()))
        self.grid.setCurrentIndex(at)
        self.grid.scrollTo(at)

    def _to_fault(self, item: QListWidgetItem) -> None:
        place = str(item.data(Qt.ItemDataRole.UserRole))
        if place.startswith("row "):
            self.go_to(int(place.split()[1]) - 1)
            self.grid.setFocus()

    def explain(self) -> None:
        run(TextDialog("Describing a board", WALK, self))

    # --- keeping --------------------------------------------------------------------------------

    def _sound(self) -> Board | None:
        """The board, if it can be used; otherwise what is wrong is said."""
        if self.bench.sound and self.bench.board is not None:
            if self.bench.board.id in self.catalog.shipped_ids("board"):
                self._say(
                    f"“{self.bench.draft.title}” is the name of a board that comes with the program: give "
                    "yours another."
                )
                return None
            return self.bench.board
        self._say(f"There is something to mend first: {': '.join(self.bench.wrong[0])}.")
        return None

    def _say(self, text: str) -> None:
        self.state.setText(text)

    def keep(self) -> bool:
        """Writes the board into the maker's folder."""
        board = self._sound()
        if board is None or self.catalog.own is None:
            return False
        path = self.catalog.own / "boards" / f"{board.id}{SUFFIX}"
        if path.exists() and not self.replaces and not self._may_replace(path):
            return False
        if not self._write(board, path):
            return False
        self.catalog.forget(board.id)
        self.bench.now_kept(board.id)
        self.replaces = True
        self._say(f"Kept as {path}")
        self.kept.emit(board.id, False)
        return True

    def _may_replace(self, path: Path) -> bool:
        return dialogs.may(
            self, f"There is a board {path.stem!r} of yours already. Replace it?", "Replace it", "Leave it"
        )

    def keep_and_plan(self) -> None:
        if self.keep() and self.bench.board is not None:
            self.accept()
            self.kept.emit(self.bench.board.id, True)

    def save_as(self) -> None:
        board = self._sound()
        if board is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the board", f"{board.id}{SUFFIX}", f"Boards (*{SUFFIX})"
        )
        if name:
            self._write(board, Path(name))

    def _write(self, board: Board, path: Path) -> bool:
        try:
            self.text = save(board, path, self.text)
        except OSError as error:
            self._say(f"{path} was not written: {error.strerror}. Your work is still here.")
            return False
        self._say(f"Wrote {path}")
        return True

    # --- leaving --------------------------------------------------------------------------------

    def may_leave(self) -> bool:
        """Asks about work that no file holds."""
        if self.bench.draft == self.bench.saved:
            return True
        return dialogs.may(self, "Leave the workshop without keeping the board?", "Leave", "Stay here")

    def reject(self) -> None:
        if self.may_leave():
            super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.may_leave():
            event.accept()
        else:
            event.ignore()

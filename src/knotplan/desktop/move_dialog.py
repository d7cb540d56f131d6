"""Moving a plan to another board: what becomes of each tie is seen before anything is accepted."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QHeaderView,
    QVBoxLayout,
    QWidget,
)

from knotplan.catalog.load import UnknownEntryError
from knotplan.core.drawing.palette import Palette
from knotplan.core.match.fit import Grade
from knotplan.core.suggest.moving import Moved, MovedTie, move
from knotplan.desktop import lettering
from knotplan.desktop.board_dialog import BoardList
from knotplan.desktop.cells import CellsTable, give_column
from knotplan.desktop.lists.equip import Cell, equip
from knotplan.desktop.panels.fields import label
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

HEADS = ("Lead", "is on", "would be on", "because")
MARKS = {Grade.BEST: "✓", Grade.GOOD: "✓", Grade.POSSIBLE: "△", Grade.IMPOSSIBLE: "✕"}


class MoveDialog(QDialog):
    """The boards on the left, the fate of each tie on the right."""

    def __init__(self, session: Session, p: Palette, parent: QWidget | None = None):
        super().__init__(parent)
        self.session, self.p = session, p
        self.moved: Moved | None = None
        self.setWindowTitle("Move to another board")
        self.resize(1100, 660)
        down = QVBoxLayout(self)
        down.addWidget(
            label(f"Move “{session.plan.title}” from {session.circuit.board.title} to another board", "head")
        )
        across = QHBoxLayout()
        self.list = BoardList(session.catalog, p)
        lettering.fix(self.list, width=224)
        self.list.currentRowChanged.connect(lambda _: self.refresh())
        across.addWidget(self.list)
        right = QVBoxLayout()
        self.summary = label("", "strong")
        right.addWidget(self.summary)
        right.addWidget(
            label(
                "Beads, roles and colours go along; the findings then say which need another value.", "faint"
            )
        )
        self.table = CellsTable(0, len(HEADS))
        self.table.setHorizontalHeaderLabels(HEADS)
        self.table.setAccessibleName("What becomes of each tie")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.setWordWrap(False)
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.table.horizontalHeader().setStretchLastSection(True)
        equip(self.table)
        equip(self.list)
        right.addWidget(self.table, 1)
        across.addLayout(right, 1)
        down.addLayout(across, 1)
        self.box = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        self.box.button(QDialogButtonBox.StandardButton.Ok).setText("Move the plan")
        self.box.accepted.connect(self.accept)
        self.box.rejected.connect(self.reject)
        down.addWidget(self.box)
        other = next((b for b in session.catalog.board_ids() if b != session.plan.board), "")
        self.list.select(other)
        self.refresh()
        self.list.setFocus()

    def refresh(self) -> None:
        """What the highlighted board would make of the plan."""
        s, board_id = self.session, self.list.board()
        self.moved = None
        if board_id and board_id != s.circuit.board.id:
            try:
                own = board_id in s.catalog.own_board_ids()
                self.moved = move(s.plan, s.catalog, s.catalog.board(board_id), carried=own)
            except UnknownEntryError as error:
                self.summary.setText(str(error))
        self.box.button(QDialogButtonBox.StandardButton.Ok).setEnabled(self.moved is not None)
        rows = sorted(self.moved.ties, key=lambda t: -t.grade) if self.moved else []
        self.table.setSortingEnabled(False)
        self.table.setRowCount(len(rows))
        for k, tie in enumerate(rows):
            self._row(k, tie)
        self.table.setSortingEnabled(True)
        self.table.resizeColumnsToContents()
        for k in range(len(HEADS) - 1):
            self.table.horizontalHeader().setSectionResizeMode(k, QHeaderView.ResizeMode.Interactive)
            give_column(self.table, k, min(220, (self.table.columnWidth(k) + 12) / lettering.scale()))
        if self.moved:
            kept, changed = self.moved.count(Grade.BEST, Grade.GOOD), self.moved.count(Grade.POSSIBLE)
            lost = self.moved.count(Grade.IMPOSSIBLE)
            self.summary.setText(
                f"{kept} ties carry over, {changed} with a consequence, {lost} cannot be met"
            )
        elif board_id == s.circuit.board.id:
            self.summary.setText("This is the board that the plan is on.")

    def _row(self, k: int, tie: MovedTie) -> None:
        ink = {Grade.POSSIBLE: self.p.care_text, Grade.IMPOSSIBLE: self.p.stop}.get(tie.grade)
        for column, text in enumerate(
            (f"{MARKS[tie.grade]}  {tie.lead}", tie.was, tie.now or "untied", tie.reason)
        ):
            item = Cell(text)
            item.setToolTip(tip_text(text))
            if ink:
                item.setForeground(QColor(ink))
            self.table.setItem(k, column, item)

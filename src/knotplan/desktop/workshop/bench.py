"""What the workshop works on: a draft, what it makes, and the way back."""

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from knotplan.catalog.board.board import Board
from knotplan.core.draft.board import BoardDraft
from knotplan.core.draft.board_compiled import compiled

AFTER_MS = 40
"""how long after a change the board is made and checked anew"""


class DraftBench(QObject):
    """Owns the draft; views ask it for changes and draw what it has."""

    changed = Signal()
    """the draft is another one"""
    checked = Signal()
    """the board and what is wrong with it are those of the draft"""

    def __init__(self, draft: BoardDraft, parent: QObject | None = None):
        super().__init__(parent)
        self.draft, self.saved = draft, draft
        self.board: Board | None = None
        self.wrong: list[tuple[str, str]] = []
        self._back: list[BoardDraft] = []
        self._forward: list[BoardDraft] = []
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(AFTER_MS)
        self._soon.timeout.connect(self.check)
        self.check()

    def edit(self, change: Callable[..., BoardDraft], *arguments: object) -> None:
        """One step of the way back."""
        draft = change(self.draft, *arguments)
        if draft != self.draft:
            self._back.append(self.draft)
            self._forward.clear()
            self._show(draft)

    def _show(self, draft: BoardDraft) -> None:
        self.draft = draft
        self._soon.start()
        self.changed.emit()

    def undo(self) -> None:
        if self._back:
            self._forward.append(self.draft)
            self._show(self._back.pop())

    def redo(self) -> None:
        if self._forward:
            self._back.append(self.draft)
            self._show(self._forward.pop())

    def check(self) -> None:
        """Makes the board that the draft describes; the last one that could be made stays in sight."""
        board, self.wrong = compiled(self.draft)
        self.board = board or self.board
        self.checked.emit()

    def now_kept(self, board_id: str) -> None:
        """The draft is that of a file from now on."""
        self.draft = self.saved = replace(self.draft, id=board_id)

    @property
    def sound(self) -> bool:
        self._soon.stop()
        self.check()
        return not self.wrong

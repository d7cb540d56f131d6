"""The document behind a window: new, open, save, and the work kept aside for a crash."""

from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QDialog, QFileDialog, QWidget

from knotplan.core import edits
from knotplan.core.plan import Plan
from knotplan.desktop.board_dialog import BoardDialog
from knotplan.desktop.dialogs import ErrorDialog, ask_save
from knotplan.desktop.session import Session
from knotplan.desktop.settings import Settings
from knotplan.desktop.theme import palette_for
from knotplan.examples import example
from knotplan.exchange.plan_file import SUFFIX, PlanFileError, load, save
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.recovery import Recovery

KEEP_AFTER_MS = 1000
"""how long after an edit the work is kept aside"""


class Documents(QObject):
    """Asks before anything is lost; what goes wrong leaves everything as it was."""

    describe_wanted = Signal()
    """none of the boards will do"""

    def __init__(self, session: Session, settings: Settings, recovery: Recovery | None, window: QWidget):
        super().__init__(window)
        self.session, self.settings, self.recovery, self.window = session, settings, recovery, window
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(KEEP_AFTER_MS)
        self._timer.timeout.connect(self.keep_aside)
        session.changed.connect(self._changed)

    def _changed(self) -> None:
        if self.session.dirty:
            self._timer.start()
        elif self.recovery:
            self._timer.stop()
            self.recovery.drop()

    def keep_aside(self) -> None:
        """Keeps the work where a crash cannot reach it."""
        if self.recovery and self.session.dirty:
            try:
                self.recovery.keep(self.session.plan, self.session.path)
            except OSError as error:
                self.session.noticed.emit(f"The work could not be kept aside: {error.strerror}")

    def may_leave(self) -> bool:
        """Asks about work that no file holds; false when the maker stays."""
        if not self.session.dirty:
            return True
        answer = ask_save(self.session.plan.title, self.window)
        return answer == "discard" or (answer == "save" and self.save())

    def new(self) -> None:
        dialog = BoardDialog(self.session.catalog, palette_for(self.settings.look), "Which board is the plan for?", self.window)
        if not self.may_leave():
            return
        if dialog.exec() == QDialog.DialogCode.Accepted and (board := dialog.board()):
            self.begin(board)
        elif dialog.describes:
            self.describe_wanted.emit()

    def begin(self, board: str) -> None:
        """An empty plan on a board; one of the maker's own is carried along."""
        own = board in self.session.catalog.own_board_ids()
        self.session.replace_document(Plan(board, carried=self.session.catalog.board(board) if own else None), None)

    def open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.window, "Open a plan", "", f"Plans (*{SUFFIX} *.json);;All files (*)")
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> bool:
        """Opens a file; when it cannot be read, says everything that is wrong and changes nothing."""
        if not self.may_leave():
            return False
        try:
            plan = load(path, self.session.catalog)
        except (PlanFileError, OSError) as error:
            self.refuse(path, error)
            return False
        self.session.replace_document(plan, path)
        self.settings.opened(path)
        return True

    def refuse(self, path: Path, error: FileProblemsError | OSError) -> None:
        """Shows everything that is wrong with a file."""
        ErrorDialog(path.name, error, self.window).exec()

    def show_example(self, name: str) -> None:
        if self.may_leave():
            self.session.replace_document(example(name, self.session.catalog), None)

    def save(self) -> bool:
        return self.save_to(self.session.path) if self.session.path else self.save_as()

    def save_as(self) -> bool:
        start = str(self.session.path or edits.slug(self.session.plan.title, set()) + SUFFIX)
        name, _ = QFileDialog.getSaveFileName(self.window, "Save the plan", start, f"Plans (*{SUFFIX})")
        if not name:
            return False
        path = Path(name)
        return self.save_to(path if path.name.endswith(".json") else path.with_name(path.name + SUFFIX))

    def save_to(self, path: Path) -> bool:
        """Writes the plan; says so when that fails, and the work stays as it is."""
        try:
            save(self.session.plan, path)
        except OSError as error:
            self.session.noticed.emit(f"{path} was not written: {error.strerror}. Your work is still here.")
            return False
        self.session.mark_saved(path)
        self.settings.opened(path)
        self.session.noticed.emit(f"Saved {path.name}")
        return True

    def close(self) -> bool:
        """Whether the window may close; nothing stays behind then."""
        if not self.may_leave():
            return False
        self._timer.stop()
        if self.recovery:
            self.recovery.drop()
        return True

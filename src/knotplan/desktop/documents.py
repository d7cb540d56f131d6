"""The document behind a window: new, open, save, and the work kept aside for a crash."""

import shutil
from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QDialog, QFileDialog, QWidget

from knotplan.core.plan.document import Plan
from knotplan.core.plan.ids import slug
from knotplan.desktop import outside
from knotplan.desktop.board_dialog import BoardDialog
from knotplan.desktop.dialogs import ErrorDialog, ask_save, run
from knotplan.desktop.keeper import Keeper
from knotplan.desktop.session import Session
from knotplan.desktop.settings import Settings
from knotplan.desktop.theme import palette_for
from knotplan.examples import example
from knotplan.exchange import on_disk
from knotplan.exchange.files import backed_up, write_atomically
from knotplan.exchange.plan_file import SUFFIX, PlanFileError, Rest, dumps, load
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.recovery import Kind, Lost, Recovery


class Documents(QObject):
    """Asks before anything is lost; what goes wrong leaves everything as it was."""

    describe_wanted = Signal()
    """none of the boards will do"""
    kept_aside = Signal(object)
    """a plan, where a crash cannot reach it"""

    def __init__(self, session: Session, settings: Settings, recovery: Recovery | None, window: QWidget):
        super().__init__(window)
        self.session, self.settings, self.recovery, self.window = session, settings, recovery, window
        self.keeper = Keeper()
        self.keeper.reported.connect(session.noticed)
        self.keeper.done.connect(self._is_kept)
        self._kept: Plan | None = None
        self._given: Plan | None = None
        """to the keeper, last"""
        self._seen: on_disk.Seen | None = on_disk.look(session.path) if session.path else None
        """what the file held when this window read or wrote it"""
        self._left = ""
        """the other hand's version that the maker has decided to leave for now"""
        self._backed_up: set[Path] = set()
        self._asking = False
        session.changed.connect(self._changed)
        self._changed()

    # --- kept aside for a crash -----------------------------------------------------------------

    def _changed(self) -> None:
        plan = self.session.plan
        if plan is not self._kept:
            self._kept = plan
            self.keep_aside()

    def _is_kept(self, thing: str) -> None:
        """A plan is kept aside: the last one that was given to the keeper, if none waits."""
        if thing == "plan" and not self.keeper.waits("plan"):
            self.kept_aside.emit(self._given)

    def keep_aside(self) -> None:
        """Keeps the work where a crash cannot reach it, or no longer; never waits."""
        if self.recovery is None:
            return
        self._given = self.session.plan
        if self.session.dirty:
            self.keeper.put("plan", partial(self.recovery.keep, self.session.plan, self.session.path))
        else:
            self.keeper.put("plan", partial(self.recovery.drop, "plan"))

    def keep_draft(self, kind: Kind, title: str, draft: Any) -> None:
        """Keeps a board or part that is being described."""
        if self.recovery is not None:
            self.keeper.put(kind, partial(self.recovery.keep_draft, kind, title, draft))

    def drop_draft(self, kind: Kind) -> None:
        """It is kept among the maker's own, or given up."""
        if self.recovery is not None:
            self.keeper.put(kind, partial(self.recovery.drop, kind))

    def take_up(self, work: Lost) -> None:
        """A plan that was left behind becomes this window's, not yet saved;
        then what was kept of it is put away."""
        plan = work.plan or (work.rest.plan if work.rest else None)
        if plan is None or self.recovery is None or not self.may_leave():
            return
        self._open(plan, work.origin, saved=False)
        self.keep_aside()  # also where the same plan could not be kept a moment ago
        self.put_away(work)

    def take_up_draft(self, work: Lost, title: str) -> None:
        """A board or part that was left behind is kept as this window's;
        then what was kept of it is put away."""
        self.keep_draft(work.kind, title, work.draft)
        self.put_away(work)

    def put_away(self, work: Lost) -> None:
        """Puts away what was left behind, once this window has kept its own
        copy; until then it stays where it is."""
        if self.recovery is None or not self.keeper.flush():
            return
        try:
            self.recovery.let_go(work)
        except OSError as error:
            self.session.noticed.emit(
                f"{work.title} could not be put away: {error.strerror}. It will be offered again."
            )

    # --- opening --------------------------------------------------------------------------------

    def may_leave(self) -> bool:
        """Asks about work that no file holds; false when the maker stays."""
        if not self.session.dirty:
            return True
        answer = ask_save(self.session.plan.title, self.window)
        return answer == "discard" or (answer == "save" and self.save())

    def new(self) -> None:
        if not self.may_leave():
            return
        dialog = BoardDialog(
            self.session.catalog, palette_for(self.settings.look), "Which board is the plan for?", self.window
        )
        if run(dialog) == QDialog.DialogCode.Accepted and (board := dialog.board()):
            self.begin(board)
        elif dialog.describes:
            self.describe_wanted.emit()

    def begin(self, board: str) -> None:
        """An empty plan on a board; one of the maker's own is carried along."""
        own = board in self.session.catalog.own_board_ids()
        self._open(Plan(board, carried=self.session.catalog.board(board) if own else None), None)

    def open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.window, "Open a plan", "", f"Plans (*{SUFFIX} *.json);;All files (*)"
        )
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> bool:
        """Opens a file; when it cannot be read, says everything that is wrong and changes nothing."""
        if not self.may_leave():
            return False
        seen = on_disk.look(path)  # before it is read: who changes it in between is noticed later
        try:
            plan = load(path, self.session.catalog)
        except (PlanFileError, OSError) as error:
            return self.refuse(path, error)
        self._open(plan, path)
        self._seen = seen
        self.settings.opened(path)
        return True

    def refuse(self, path: Path, error: FileProblemsError | OSError) -> bool:
        """Shows everything that is wrong with a file; whether it was opened without that."""
        dialog = ErrorDialog(path.name, error, self.window)
        run(dialog)
        without = dialog.without
        if without and isinstance(error, PlanFileError) and error.rest is not None:
            self.open_rest(path, error.rest)
            return True
        return False

    def open_rest(self, path: Path, rest: Rest) -> None:
        """A plan without what was wrong in its file, which is kept beside it as it was found. Where that
        cannot be, the plan has no file, so that nothing is written over."""
        stem = path.name.removesuffix(SUFFIX).removesuffix(".json")
        copy = path.with_name(f"{stem}.as-found-{datetime.now():%Y%m%d-%H%M%S}.json")
        try:
            shutil.copy2(path, copy)
        except OSError:
            self._open(rest.plan, None, saved=False)
            self.session.noticed.emit(
                f"Opened without what is wrong, and without a file: {path.name} stays as it is."
            )
            return
        self._open(rest.plan, path, saved=False)
        self.session.noticed.emit(f"Opened without what is wrong; the file as it was is kept as {copy.name}.")

    def show_example(self, name: str) -> None:
        if self.may_leave():
            self._open(example(name, self.session.catalog), None)

    def _open(self, plan: Plan, path: Path | None, *, saved: bool = True) -> None:
        self._seen = on_disk.look(path) if path else None
        self._left = ""
        self.session.replace_document(plan, path, saved=saved)

    # --- saving ---------------------------------------------------------------------------------

    def save(self) -> bool:
        return self.save_to(self.session.path) if self.session.path else self.save_as()

    def save_as(self) -> bool:
        start = str(self.session.path or slug(self.session.plan.title, set()) + SUFFIX)
        name, _ = QFileDialog.getSaveFileName(self.window, "Save the plan", start, f"Plans (*{SUFFIX})")
        if not name:
            return False
        path = Path(name)
        if not path.name.endswith(
            ".json"
        ):  # the dialog has asked about the name that was typed, not about this one
            path = path.with_name(path.name + SUFFIX)
            if path.exists() and not outside.may_replace(path, self.window):
                return False
        return self.save_to(path, chosen=True)

    def save_to(self, path: Path, *, chosen: bool = False) -> bool:
        """Writes the plan; says so when that fails, and the work stays as it is. Where
        another hand has changed the file, the maker decides; `chosen` says that writing
        over what is there has been agreed to."""
        if (
            not chosen
            and self._seen is not None
            and path == self.session.path
            and on_disk.since(path, self._seen)
        ):
            return self._decided(path, saving=True)
        return self._write(path)

    def _write(self, path: Path) -> bool:
        data = dumps(self.session.plan)
        try:
            if path not in self._backed_up:
                backed_up(path)
                self._backed_up.add(path)
            write_atomically(path, data)
            self._seen, self._left = on_disk.seen(path, data), ""
        except OSError as error:
            self.session.noticed.emit(f"{path} was not written: {error.strerror}. Your work is still here.")
            return False
        self.session.mark_saved(path)
        self.keep_aside()
        self.settings.opened(path)
        self.session.noticed.emit(f"Saved {path.name}")
        return True

    # --- other hands ----------------------------------------------------------------------------

    def look_outside(self) -> None:
        """Whether another hand has changed the file meanwhile; asked about once for each change."""
        path = self.session.path
        if path is None or self._seen is None or self._asking:
            return
        since = on_disk.since(path, self._seen)
        if since is not None and since.digest != self._left:
            self._left = since.digest
            self._decided(path, saving=False)

    def _decided(self, path: Path, *, saving: bool) -> bool:
        """The maker's decision about another hand's change; whether the plan is saved then."""
        self._asking = True
        try:
            choice = outside.decide(path, self.session.plan, self.session.catalog, self.window, saving=saving)
        finally:
            self._asking = False
        acts: dict[str, Callable[[], bool]] = {
            "over": lambda: self._over(path),
            "beside": lambda: self._write(outside.beside(path)),
            "reload": lambda: self._reload(path),
        }
        return acts[choice]() if choice in acts else False

    def _over(self, path: Path) -> bool:
        self._backed_up.discard(path)  # what they wrote is kept, too
        return self._write(path)

    def _reload(self, path: Path) -> bool:
        """Theirs as one step of the way back, so that one's own is not lost."""
        seen = on_disk.look(path)
        try:
            plan = load(path, self.session.catalog)
        except (PlanFileError, OSError) as error:
            return self.refuse(path, error)
        self._seen, self._left = seen, ""
        self.session.edit("take theirs", lambda _: plan)
        self.session.mark_saved(path)
        self.keep_aside()
        return True

    def close(self) -> bool:
        """Whether the window may close; nothing stays behind then."""
        if not self.may_leave():
            return False
        if self.recovery:
            self.keeper.put("plan", partial(self.recovery.drop, "plan"))
        self.keeper.end()
        return True

"""What the program remembers between runs: recent plans and the look."""

import os
import stat
from pathlib import Path

from platformdirs import user_config_path, user_state_path
from PySide6.QtCore import QByteArray, QSettings

APP = "knotplan"
MOST_RECENT = 9
MOST_BYTES = 1_000_000


class Settings:
    """Kept in the user's configuration folder (XDG Base Directory)."""

    def __init__(self, folder: Path | None = None):
        file = (folder or user_config_path(APP)) / "settings.ini"
        if not _ordinary(file):  # a pipe or a device in its place is left alone
            file = file.with_name("settings-2.ini")
        self._store = QSettings(str(file), QSettings.Format.IniFormat)

    @property
    def recent(self) -> list[Path]:
        """Plans opened lately, newest first, those that are gone left out."""
        kept = self._store.value("recent", [])
        if isinstance(kept, str):
            names = [kept]
        elif isinstance(kept, list):
            names = kept
        else:
            names = []
        return [Path(n) for n in names if isinstance(n, str) and os.path.isfile(n)]  # noqa: PTH113  (it never raises)

    def opened(self, path: Path) -> None:
        names = [str(path.resolve()), *(str(p) for p in self.recent if p != path.resolve())]
        self._store.setValue("recent", names[:MOST_RECENT])
        self._store.sync()

    @property
    def look(self) -> str:
        return str(self._store.value("look", "system"))

    @look.setter
    def look(self, choice: str) -> None:
        self._store.setValue("look", choice)
        self._store.sync()

    @property
    def letters(self) -> str:
        """ "system" for those of the desktop, or a size of our own in points."""
        return str(self._store.value("letters", "system"))

    @letters.setter
    def letters(self, choice: str) -> None:
        self._store.setValue("letters", choice)
        self._store.sync()

    @property
    def place(self) -> QByteArray:
        """Of the window on the screen, as the toolkit keeps it; empty for none."""
        kept = self._store.value("place", QByteArray())
        return kept if isinstance(kept, QByteArray) else QByteArray()

    @place.setter
    def place(self, place: QByteArray) -> None:
        self._store.setValue("place", place)
        self._store.sync()

    @property
    def last(self) -> Path | None:
        """The plan that was open when the program ended, if its file is still there."""
        name = self._store.value("last", "")
        there = isinstance(name, str) and name and os.path.isfile(name)  # noqa: PTH113  (it never raises)
        return Path(str(name)) if there else None

    @last.setter
    def last(self, path: Path | None) -> None:
        self._store.setValue("last", str(path.resolve()) if path else "")
        self._store.sync()

    @property
    def greeted(self) -> bool:
        """The guide has been offered once."""
        return self._flag("greeted", False)

    @greeted.setter
    def greeted(self, greeted: bool) -> None:
        self._store.setValue("greeted", greeted)

    @property
    def side_folded(self) -> bool:
        """The right side is hidden."""
        return self._flag("side_folded", False)

    @side_folded.setter
    def side_folded(self, folded: bool) -> None:
        self._store.setValue("side_folded", folded)

    @property
    def side_width(self) -> int:
        """Of the right side, as the maker has drawn it; 0 for the usual one."""
        return self._number("side_width")

    @side_width.setter
    def side_width(self, wide: int) -> None:
        self._store.setValue("side_width", wide)

    @property
    def budgets_folded(self) -> bool:
        """The lower bar has the tightest budgets only."""
        return self._flag("budgets_folded", True)

    def fold_budgets(self, folded: bool) -> None:
        self._store.setValue("budgets_folded", folded)

    def _flag(self, name: str, usual: bool) -> bool:
        kept = self._store.value(name, usual)
        return kept if isinstance(kept, bool) else str(kept) == "true"

    def _number(self, name: str) -> int:
        kept = str(self._store.value(name, "0"))
        return int(kept) if kept.isascii() and kept.isdigit() and len(kept) < 6 else 0


def _ordinary(file: Path) -> bool:
    """Nothing is there, or a file of a size that settings have."""
    try:
        there = file.stat()
    except OSError:
        return True
    return stat.S_ISREG(there.st_mode) and there.st_size <= MOST_BYTES


def work_folder() -> Path:
    """Where running work is kept aside for recovery."""
    return user_state_path(APP) / "work"


def handed_over_file() -> Path:
    """Where it is noted which files were handed over, and what they held."""
    return user_state_path(APP) / "handed-over.json"

"""The running work, kept aside so that it survives a crash.

One file for each running window, named after its process; a file whose process is gone is work that
was lost and can be taken up again.
"""

import json
import os
import time
from datetime import datetime
from pathlib import Path

from msgspec import Struct

from knotplan.catalog.load import Catalog
from knotplan.core.plan import Plan
from knotplan.exchange.files import write_atomically
from knotplan.exchange.plan_file import PlanFileError, dumps, loads


class Lost(Struct, frozen=True):
    """Work that a crash left behind."""

    plan: Plan
    origin: Path | None
    """the file that it came from, if it had one"""
    kept: Path
    """where it was kept aside"""
    when: datetime
    """when it was kept last, local time"""


class Recovery:
    """Keeps one window's plan aside in `folder`."""

    def __init__(self, folder: Path, number: int | None = None):
        self.folder = folder
        self.path = folder / f"{number or os.getpid()}.work.json"
        self._mine = False

    def keep(self, plan: Plan, origin: Path | None) -> None:
        """Keeps the plan as it is now. Raises OSError."""
        self._set_aside()
        self.folder.mkdir(parents=True, exist_ok=True)
        tree = {"origin": str(origin) if origin else None, "plan": dumps(plan).decode("utf-8")}
        write_atomically(self.path, json.dumps(tree).encode("utf-8"))

    def _set_aside(self) -> None:
        """A file by our number that we have not written is a dead namesake's (containers count from 1 again)."""
        if not self._mine and self.path.exists():
            self.path.rename(self.path.with_name(f"{time.time_ns()}.work.json"))
        self._mine = True

    def drop(self) -> None:
        """Nothing needs to be kept any more: it is saved, or given up."""
        if self._mine:
            self.path.unlink(missing_ok=True)

    def lost(self, catalog: Catalog) -> list[Lost]:
        """Work of processes that are gone, newest first."""
        self._set_aside()
        found = []
        for path in sorted(self.folder.glob("*.work.json"), key=lambda p: -p.stat().st_mtime):
            number = path.name.partition(".")[0]
            if path == self.path or not number.isdigit() or _alive(int(number)):
                continue
            try:
                tree = json.loads(path.read_text("utf-8"))
                plan = loads(tree["plan"].encode("utf-8"), catalog, path.name)
                found.append(Lost(plan, Path(tree["origin"]) if tree["origin"] else None, path,
                                  datetime.fromtimestamp(path.stat().st_mtime)))  # fmt: skip
            except (OSError, ValueError, KeyError, TypeError, AttributeError, PlanFileError):
                path.rename(path.with_suffix(".unreadable"))  # kept for a look, not offered again
        return found


def _alive(number: int) -> bool:
    """Whether that process runs and is one of ours (numbers are used again)."""
    try:
        return b"knotplan" in Path(f"/proc/{number}/cmdline").read_bytes()
    except OSError:
        return False

"""The running work, kept aside so that it survives a crash.

One file for each thing that a running window works on, named after its process; a file whose process is gone
is work that was lost and can be taken up again. What is let go lies in a folder of its own for a while.
"""

import json
import os
import time
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import Any, Literal, get_args

import msgspec
from msgspec import Struct

from knotplan.catalog.load import Catalog
from knotplan.core.plan.document import FORMAT, VERSION, Plan
from knotplan.exchange.files import FileTooLargeError, read_whole, write_atomically
from knotplan.exchange.json_text import JsonError, tree_of
from knotplan.exchange.plan_file import MOST_BYTES, PlanFileError, Rest, loads

Kind = Literal["plan", "board", "part"]
"""a plan, or a board or part that is being described"""
SUFFIX = {"plan": ".work.json", "board": ".board.json", "part": ".part.json"}
LET_GO, LET_GO_DAYS = "let-go", 30
"""where work lies that nobody wanted, and for how long"""


class Lost(Struct, frozen=True):
    """Work that a crash left behind."""

    kind: Kind
    title: str
    kept: Path
    """where it was kept aside"""
    when: datetime
    """when it was kept last, local time"""
    origin: Path | None = None
    """the file that it came from, if it had one"""
    plan: Plan | None = None
    """nothing where it is a draft, or cannot be read as it is"""
    draft: Any = None
    """of a board or a part, as it was given"""
    wrong: tuple[tuple[str, str], ...] = ()
    """what is wrong with it, each with its place"""
    rest: Rest | None = None
    """what of it can be opened without that"""


class Recovery:
    """Keeps one window's work aside in `folder`."""

    def __init__(self, folder: Path, number: int | None = None):
        self.folder, self._number = folder, number or os.getpid()
        self.path = self._path("plan")
        self._mine: set[Kind] = set()

    def _path(self, kind: Kind) -> Path:
        return self.folder / f"{self._number}{SUFFIX[kind]}"

    def keep(self, plan: Plan, origin: Path | None) -> None:
        """Keeps the plan as it is now. Raises OSError."""
        tree = {"format": FORMAT, "version": VERSION, **msgspec.to_builtins(plan)}
        self._keep("plan", {"origin": str(origin) if origin else None, "plan": tree})

    def keep_draft(self, kind: Kind, title: str, draft: Any) -> None:
        """Keeps a board or part that is being described. Raises OSError."""
        self._keep(kind, {"title": title, "draft": msgspec.to_builtins(draft)})

    def _keep(self, kind: Kind, tree: dict[str, Any]) -> None:
        self._set_aside(kind)
        self.folder.mkdir(parents=True, exist_ok=True)
        write_atomically(self._path(kind), msgspec.json.encode(tree))

    def _set_aside(self, kind: Kind) -> None:
        """A file by our number that we have not written is a dead
        namesake's (containers count from 1 again)."""
        if kind not in self._mine:
            with suppress(FileNotFoundError):
                self._path(kind).rename(self.folder / f"{time.time_ns()}{SUFFIX[kind]}")
        self._mine.add(kind)

    def drop(self, kind: Kind = "plan") -> None:
        """Nothing of this kind needs to be kept any more: it is saved, or given up."""
        if kind in self._mine:
            self._path(kind).unlink(missing_ok=True)

    def lost(self, catalog: Catalog) -> list[Lost]:
        """Work of processes that are gone, newest first; what cannot be
        read is there too, with what is wrong."""
        works = []
        for kind in get_args(Kind):
            self._set_aside(kind)
            for path in self.folder.glob(f"*{SUFFIX[kind]}"):
                number = path.name.partition(".")[0]
                if path != self._path(kind) and number.isdigit() and not _alive(int(number)):
                    works.append(_read(kind, path, catalog))
        return sorted(works, key=lambda work: work.when, reverse=True)

    def let_go(self, work: Lost) -> None:
        """Puts work away that nobody wants; it can be found for a month. Raises OSError."""
        away = self.folder / LET_GO
        away.mkdir(parents=True, exist_ok=True)
        for old in list(away.iterdir()):
            if time.time() - old.stat().st_mtime > LET_GO_DAYS * 86400:
                old.unlink(missing_ok=True)
        os.utime(work.kept)
        work.kept.rename(away / f"{time.time_ns()}-{work.kept.name}")


def _read(kind: Kind, path: Path, catalog: Catalog) -> Lost:
    """One file of work; whatever is wrong with it is told, and hides no other."""
    when = datetime.fromtimestamp(0)
    try:
        when = datetime.fromtimestamp(path.stat().st_mtime)
        tree = tree_of(read_whole(path, 2 * MOST_BYTES))
        if not isinstance(tree, dict):
            raise JsonError("", "this is no work of Knot Plan")
        if kind != "plan":
            return _draft(kind, path, when, tree)
        return _plan(path, when, tree, catalog)
    except JsonError as error:
        return Lost(kind, path.name, path, when, wrong=((error.place, error.why),))
    except FileTooLargeError:
        return Lost(kind, path.name, path, when, wrong=(("", "is larger than any work"),))
    except OSError as error:
        return Lost(kind, path.name, path, when, wrong=(("", error.strerror or str(error)),))


def _draft(kind: Kind, path: Path, when: datetime, tree: dict[str, Any]) -> Lost:
    title, draft = tree.get("title"), tree.get("draft")
    text = title if isinstance(title, str) else path.name
    if not isinstance(draft, dict):
        return Lost(
            kind,
            text,
            path,
            when,
            wrong=(("draft", "is not there, or is no description of a board or a part"),),
        )
    return Lost(kind, text, path, when, draft=draft)


def _plan(path: Path, when: datetime, tree: dict[str, Any], catalog: Catalog) -> Lost:
    origin, kept = tree.get("origin"), tree.get("plan")
    came_from = Path(origin) if isinstance(origin, str) and origin and "\0" not in origin else None
    # earlier versions kept the file's text in a text
    data = kept.encode("utf-8") if isinstance(kept, str) else json.dumps(kept).encode("utf-8")
    title = kept.get("title") if isinstance(kept, dict) else None
    try:
        plan = loads(data, catalog, path.name)
    except PlanFileError as error:
        if error.rest:
            text = error.rest.plan.title
        elif isinstance(title, str):
            text = title
        else:
            text = path.name
        return Lost("plan", text, path, when, came_from, wrong=error.errors, rest=error.rest)
    return Lost("plan", plan.title, path, when, came_from, plan)


def _alive(number: int) -> bool:
    """Whether that process runs and is one of ours (numbers are used again)."""
    try:
        return b"knotplan" in Path(f"/proc/{number}/cmdline").read_bytes()
    except OSError:
        return False

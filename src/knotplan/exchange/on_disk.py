"""What a file held when it was last read or written by us, so that another hand on it is noticed."""

import hashlib
import json
from contextlib import suppress
from pathlib import Path

from msgspec import Struct

from knotplan.exchange.files import read_whole, write_atomically
from knotplan.exchange.json_text import JsonError, tree_of

MOST_BYTES = 200_000_000


class Seen(Struct, frozen=True):
    """A file as it was."""

    digest: str
    stamp: tuple[int, int, int]
    """time of change in ns, size, number of the file: while these stand, its bytes are not looked at again"""


def digest(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def seen(path: Path, data: bytes) -> Seen:
    """The state of a file that was just read or written with these bytes. Raises OSError."""
    now = path.stat()
    return Seen(digest(data), (now.st_mtime_ns, now.st_size, now.st_ino))


def look(path: Path) -> Seen | None:
    """The state of a file now; nothing where there is none, or it cannot be read."""
    try:
        return seen(path, read_whole(path, MOST_BYTES))
    except OSError:
        return None


def since(path: Path, before: Seen) -> Seen | None:
    """The file's state if another hand has changed it; nothing where it holds what it held, or is gone."""
    try:
        now = path.stat()
    except OSError:
        return None
    if (now.st_mtime_ns, now.st_size, now.st_ino) == before.stamp:
        return None
    found = look(path)
    return found if found is not None and found.digest != before.digest else None


MOST_NOTED = 500
"""files that are remembered, the newest"""


class Written:
    """Which files were written by us, and what they held: one that holds
    something else was edited by somebody."""

    def __init__(self, notes: Path):
        self._notes = notes

    def _known(self) -> dict[str, str]:
        try:
            tree = tree_of(read_whole(self._notes, 1_000_000))
        except (OSError, JsonError):
            return {}
        return {k: v for k, v in tree.items() if isinstance(v, str)} if isinstance(tree, dict) else {}

    def note(self, path: Path, data: bytes) -> None:
        """Remembers what was written; where that cannot be kept, the file counts as somebody else's later."""
        known = self._known()
        known.pop(str(path.resolve()), None)
        known[str(path.resolve())] = digest(data)
        kept = dict(list(known.items())[-MOST_NOTED:])
        with suppress(OSError):
            self._notes.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(self._notes, json.dumps(kept, indent=1).encode("utf-8"))

    def is_ours(self, path: Path) -> bool:
        """The file holds to the byte what we wrote there last."""
        noted = self._known().get(str(path.resolve()))
        now = look(path)
        return noted is not None and now is not None and now.digest == noted

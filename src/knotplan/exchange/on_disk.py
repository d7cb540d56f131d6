"""What a file held when it was last read or written by us, so that another hand on it is noticed."""

import hashlib
from pathlib import Path

from msgspec import Struct

from knotplan.exchange.files import read_whole

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

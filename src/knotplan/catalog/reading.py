"""Reading a file that anybody may have put there: an ordinary file, and no more of it than it can have."""

import errno
import os
import stat
from pathlib import Path
from typing import BinaryIO


class FileTooLargeError(OSError):
    """The file is larger than any of its kind."""


def read_whole(path: Path, most: int) -> bytes:
    """The bytes of an ordinary file of at most `most` bytes. Raises FileTooLargeError or OSError.

    A folder, device, socket or pipe is refused without reading: some never end, and
    some do something when they are read.
    """
    with open_ordinary(path) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise FileTooLargeError(errno.EFBIG, f"is larger than {_size(most)}", str(path))
    return data


def open_ordinary(path: Path) -> BinaryIO:
    """An ordinary file, to be read piece by piece. Raises OSError for anything else, without reading of
    it."""
    _ordinary(path, path.stat().st_mode)
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_NOCTTY | os.O_CLOEXEC)
    file = os.fdopen(handle, "rb")
    try:
        _ordinary(path, os.fstat(handle).st_mode)  # it may have been exchanged in between
    except OSError:
        file.close()
        raise
    return file


def read_utf8(path: Path, most: int) -> str:
    """The text of an ordinary file, line ends as line feeds, without a byte-order mark.
    Raises OSError or UnicodeDecodeError."""
    text = read_whole(path, most).decode("utf-8-sig")
    return text.replace("\r\n", "\n").replace("\r", "\n")


def _ordinary(path: Path, mode: int) -> None:
    kinds = (
        (stat.S_ISDIR, "is a folder"),
        (stat.S_ISFIFO, "is a pipe"),
        (stat.S_ISSOCK, "is a socket"),
        (stat.S_ISCHR, "is a device"),
        (stat.S_ISBLK, "is a device"),
    )
    for is_it, words in kinds:
        if is_it(mode):
            raise OSError(errno.EINVAL, f"{words}, not a file to read", str(path))


def _size(most: int) -> str:
    return f"{most // 1_000_000} MB" if most >= 1_000_000 else f"{most // 1000} kB"

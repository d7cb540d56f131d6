"""Writing a file so that it is whole or not there at all, and nothing of
what was there is lost by accident."""

import errno
import os
import re
import stat
import tempfile
from contextlib import suppress
from pathlib import Path

from knotplan.catalog.reading import FileTooLargeError, open_ordinary, read_utf8, read_whole

__all__ = [
    "FileTooLargeError",
    "backed_up",
    "open_ordinary",
    "read_utf8",
    "read_whole",
    "write_atomically",
    "write_out",
]

PART = ".part"
MOST_BACKED_UP = 200_000_000
OPEN_ALREADY = re.compile(r"/dev/(stdout|stderr|fd/)|/proc/[^/]+/fd/")
BACKUP = "~"
"""what Linux's file managers and backup programs know as the copy from before"""


def write_atomically(path: Path, data: bytes) -> None:
    """Replaces a file in one step: a crash leaves the old one or the new one, never half of either.

    Written beside its place, flushed to the disk, then renamed over it (POSIX rename is atomic), and the
    folder flushed too, so that the name is as lasting as the bytes. Mode, owner's group and symbolic links
    stay. A file of several names (hard links) is written in its place, so that all of them see it, with the
    whole copy beside it until that is done. A read-only file is not replaced. Raises OSError.
    """
    path = path.resolve()  # a link keeps pointing at the file that is replaced
    there = _replaceable(path)
    _clear_away_parts(path)
    handle, name = tempfile.mkstemp(prefix=f".{path.name[:60]}.{os.getpid()}.", suffix=PART, dir=path.parent)
    part = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        _as_it_was(part, there)
        if there is not None and there.st_nlink > 1:
            _written_in_place(path, data)
            part.unlink()
        else:
            part.replace(path)
        _sync_folder(path.parent)
    except BaseException:
        part.unlink(missing_ok=True)
        raise


def write_out(path: Path, data: bytes) -> None:
    """Writes where somebody wants it: a file is replaced in one step, a device, a pipe or a stream of the
    process (/dev/stdout) is written into and stays what it is. Raises OSError."""
    if not _is_stream(path):
        write_atomically(path, data)
        return
    # appended: a stream that is a file (`> out`, `>> out`) goes on where it is
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_APPEND | os.O_NOCTTY), "wb") as stream:
        stream.write(data)


def _is_stream(path: Path) -> bool:
    """What is no file, or is a file under a name of this process's open ones."""
    try:
        mode = path.stat().st_mode
    except OSError:
        return False
    return not (stat.S_ISREG(mode) or stat.S_ISDIR(mode)) or bool(OPEN_ALREADY.match(str(path)))


def _replaceable(path: Path) -> os.stat_result | None:
    """What stands in the place; nothing where nothing does. Raises OSError where it may not be replaced."""
    try:
        there = path.stat()
    except FileNotFoundError:
        return None
    if not stat.S_ISREG(there.st_mode):
        raise OSError(errno.EINVAL, "is a folder, a device or a pipe, not a file to write", str(path))
    if not there.st_mode & 0o222 or not os.access(path, os.W_OK):
        raise PermissionError(errno.EACCES, "is read-only", str(path))
    return there


def _as_it_was(part: Path, there: os.stat_result | None) -> None:
    """The new file with the mode of the old one, and its group where that is allowed."""
    if there is None:
        part.chmod(0o666 & ~_umask())
        return
    if there.st_gid != os.getegid() or there.st_uid != os.geteuid():
        with suppress(OSError):  # somebody who is not in the group may write the file, but not give it
            os.chown(part, there.st_uid if os.geteuid() == 0 else -1, there.st_gid)
    part.chmod(stat.S_IMODE(there.st_mode))


def _written_in_place(path: Path, data: bytes) -> None:
    with path.open("r+b") as file:
        file.write(data)
        file.truncate()
        file.flush()
        os.fsync(file.fileno())


def _sync_folder(folder: Path) -> None:
    """The names in a folder onto the disk; some file systems cannot, and then the bytes alone are safe."""
    try:
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    except OSError:
        return
    try:
        os.fsync(handle)
    except OSError as error:
        if error.errno not in (errno.EINVAL, errno.ENOTSUP, errno.EROFS):
            raise
    finally:
        os.close(handle)


def _clear_away_parts(path: Path) -> None:
    """Removes what a write of the same file, or of its backup, left behind when its process was killed."""
    pattern = re.compile(re.escape(f".{path.name[:60]}") + r"~?\.(\d+)\..*" + re.escape(PART))
    with suppress(OSError):
        for beside in list(path.parent.iterdir()):
            match = pattern.fullmatch(beside.name)
            if match and not Path(f"/proc/{match[1]}").exists():
                beside.unlink(missing_ok=True)


def backed_up(path: Path) -> Path | None:
    """Copies a file to its name with "~" behind it, as it is before it is first replaced; the copy's path,
    or nothing where there is no file. Raises OSError."""
    path = path.resolve()
    if not path.exists():
        return None
    copy = path.with_name(path.name + BACKUP)
    was = path.stat()
    write_atomically(copy, read_whole(path, MOST_BACKED_UP))
    os.utime(copy, ns=(was.st_atime_ns, was.st_mtime_ns))
    return copy


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask

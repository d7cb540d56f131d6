"""Writing a file so that it is whole or not there at all."""

import os
import tempfile
from pathlib import Path


def write_atomically(path: Path, data: bytes) -> None:
    """Replaces a file in one step: a crash leaves the old one or the new one, never half of either.

    Written beside its place, flushed to the disk, then renamed over it (POSIX rename is atomic).
    Raises OSError.
    """
    path = path.resolve()  # a link keeps pointing at the file that is replaced
    mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
    handle, name = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        Path(name).chmod(mode)
        Path(name).replace(path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask

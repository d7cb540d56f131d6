"""Traces for repair: what went wrong inside, with where it happened, in a file
of the maker's own. Nothing is sent."""

import logging
import platform
import shutil
import sys
from contextlib import suppress
from functools import cached_property
from pathlib import Path

from platformdirs import user_state_path

from knotplan import __version__
from knotplan.core.plan.document import Plan

MOST_BYTES, OLD_ONES = 400_000, 3
LINE = "%(asctime)s %(process)d %(levelname)s %(name)s: %(message)s"
PACKAGES = (
    "PySide6-Essentials",
    "msgspec",
    "numpy",
    "scipy",
    "pyqtgraph",
    "jsonschema",
    "click",
    "platformdirs",
    "jinja2",
    "tomlkit",
    "pyvcd",
    "gpiod",
)


def path() -> Path:
    """The log file (XDG state folder)."""
    return user_state_path("knotplan") / "knotplan.log"


class _LogFile(logging.Handler):
    """The file, from the first line on: most runs write none, and what turns files over brings sockets with
    it."""

    @cached_property
    def file(self) -> logging.Handler:
        """What writes; raises OSError."""
        from logging.handlers import RotatingFileHandler

        writer = RotatingFileHandler(
            path(),
            maxBytes=MOST_BYTES,
            backupCount=OLD_ONES,
            encoding="utf-8",
            errors="backslashreplace",
        )
        writer.setFormatter(logging.Formatter(LINE))
        return writer

    def emit(self, record: logging.LogRecord) -> None:
        """Writes a line. A file that cannot be written is no reason not to run."""
        with suppress(OSError):
            self.file.handle(record)

    def close(self) -> None:
        """Ends the file, if there is one."""
        if "file" in self.__dict__:
            self.file.close()
        super().close()


def begin() -> None:
    """From now on what the program logs goes to the file, which is turned over before it grows large."""
    logger = logging.getLogger("knotplan")
    if any(isinstance(h, _LogFile) for h in logger.handlers):
        return
    with suppress(OSError):  # a home that cannot be written is no reason not to run
        path().parent.mkdir(parents=True, exist_ok=True)
        logger.addHandler(_LogFile())


def versions() -> str:
    """What a report needs to know of the machine."""
    from importlib.metadata import PackageNotFoundError, version

    lines = [f"Knot Plan {__version__}", f"Python {sys.version}", f"System {platform.platform()}"]
    for package in PACKAGES:
        try:
            lines.append(f"{package} {version(package)}")
        except PackageNotFoundError:
            lines.append(f"{package} is missing")
    return "\n".join(lines) + "\n"


def gather(folder: Path, plan: Plan) -> list[Path]:
    """Log, plan and versions, copied into a folder to be sent by whoever wants to. Raises OSError."""
    from knotplan.exchange.files import write_atomically
    from knotplan.exchange.plan_file import SUFFIX, dumps

    into = _fresh(folder)
    into.mkdir(parents=True)
    files = []
    for old in sorted(path().parent.glob(path().name + "*")):
        files.append(into / old.name)
        shutil.copyfile(old, files[-1])
    for name, data in ((f"plan{SUFFIX}", dumps(plan)), ("versions.txt", versions().encode("utf-8"))):
        write_atomically(into / name, data)
        files.append(into / name)
    return files


def _fresh(folder: Path) -> Path:
    """A folder that is not there yet: nothing is overwritten."""
    number, place = 1, folder / "knotplan-report"
    while place.exists():
        number += 1
        place = folder / f"knotplan-report-{number}"
    return place

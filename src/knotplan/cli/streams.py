"""Files and streams as a command is given them: "-" is standard input or output, and what the shell hands
over as a pipe is read and written like a file."""

import os
import re
import shutil
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import click

from knotplan.cli.manners import note, stop
from knotplan.exchange.files import write_out

MOST_SPOOLED = 4_000_000_000
"""bytes of a stream; the largest captures have a quarter of it"""
STREAM = re.compile(r"/dev/(?:stdin|fd/(?P<number>\d{1,6}))|/proc/self/fd/(?P<also>\d{1,6})")
SPOOL = "knotplan-"
STANDARD_INPUT = "standard input"
STANDARD_OUTPUT = Path("-")


class InFile(click.Path):
    """A file to read, as a path. A stream (-, /dev/stdin, /dev/fd/63 of a process substitution) is read to
    its end first, so that whoever reads it has an ordinary file."""

    def __init__(self) -> None:
        super().__init__(path_type=Path)

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        number = _descriptor(os.fsdecode(value))
        if number is None or ctx is None or ctx.resilient_parsing:  # a shell completes, and nothing is read
            return super().convert(value, param, ctx)
        try:
            return _spooled(number, ctx)
        except OSError as error:
            self.fail(f"{_called(number)}: {error.strerror}", param, ctx)


class OutFile(click.Path):
    """A file to write; "-" is standard output."""

    def __init__(self) -> None:
        super().__init__(path_type=Path, dir_okay=False, allow_dash=True)


Decorated = TypeVar("Decorated", bound=Callable[..., Any])


def output_option(
    help: str, *, required: bool = False, names: tuple[str, ...] = ("-o", "--output")
) -> Callable[[Decorated], Decorated]:
    """The option that says where the result goes."""
    return click.option(
        *names, "output", required=required, type=OutFile(), help=f"{help} (- for standard output)."
    )


def is_stream(path: Path) -> bool:
    """It came over a stream, and its name here is of no interest."""
    return path.parent.name.startswith(SPOOL) and path.parent.parent == Path(tempfile.gettempdir())


def shown(path: Path) -> str:
    """What to call a file that was given."""
    return path.name if is_stream(path) else str(path)


def write(path: Path, data: bytes, about: str = "") -> None:
    """Writes the result of a command, and says so; ends the command with 2 where that fails."""
    if path == STANDARD_OUTPUT:
        sys.stdout.flush()
        sys.stdout.buffer.write(data)
        sys.stdout.buffer.flush()
        return
    try:
        write_out(path, data)
    except OSError as error:
        stop(f"knotplan: {path}: {error.strerror}", 2)
    note(f"wrote {path}{f': {about}' if about else ''}")


def _descriptor(text: str) -> int | None:
    """The number of the open file that is meant, or nothing: it is a path."""
    if text == "-":
        return 0
    match = STREAM.fullmatch(text)
    return int(match["number"] or match["also"] or 0) if match else None


def _called(number: int) -> str:
    return STANDARD_INPUT if number == 0 else f"file descriptor {number}"


def _spooled(number: int, ctx: click.Context) -> Path:
    """What a stream has, as a file that goes when the command ends. Raises OSError."""
    folder = tempfile.mkdtemp(prefix=SPOOL)
    ctx.find_root().call_on_close(lambda: shutil.rmtree(folder, ignore_errors=True))
    path, left = Path(folder) / _called(number), MOST_SPOOLED
    source = sys.stdin.buffer if number == 0 else os.fdopen(os.dup(number), "rb")
    with path.open("wb") as file:
        while left and (piece := source.read(min(left, 1_000_000))):
            file.write(piece)
            left -= len(piece)
    return path

"""A bench in one file: what `knotplan read-bench` has read on the board, for Bring-up on another machine
(JSON)."""

from contextlib import suppress
from pathlib import Path
from typing import Literal

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from knotplan.core.bringup.said import Answer, BusScan, Level, LineState
from knotplan.exchange.files import FileTooLargeError, read_utf8
from knotplan.exchange.gpio_lines import GpioError, parse
from knotplan.exchange.problems import FileProblemsError

FORMAT: Literal["knotplan-bench"] = "knotplan-bench"
VERSION = 1
MOST_BYTES = 8_000_000


class BenchFileError(FileProblemsError):
    """The file is no bench that can be read."""

    what = "bench file"


class SavedScan(Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A bus: the addresses at which somebody is, and those that were asked."""

    bus: int | None
    answers: tuple[int, ...] = ()
    drivers: tuple[int, ...] = ()
    silent: tuple[int, ...] = ()
    trouble: str = ""


class BenchFile(Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """The whole of it."""

    format: Literal["knotplan-bench"]
    version: int
    taken: str = ""
    """when, as ISO 8601"""
    system: str = ""
    """kernel and machine, in words"""
    model: str = ""
    """what the board calls itself"""
    lines: tuple[LineState, ...] = ()
    kernel_list: str = ""
    """/sys/kernel/debug/gpio as it was, for the levels; empty where it could not be read"""
    scans: tuple[SavedScan, ...] = ()
    groups: tuple[str, ...] = ()
    """that the user is in"""
    notes: tuple[str, ...] = ()
    """what could not be read, and why"""


def load(path: Path) -> BenchFile:
    """A bench file. Raises BenchFileError or OSError."""
    try:
        text = read_utf8(path, MOST_BYTES)
    except FileTooLargeError:
        raise BenchFileError(path.name, [("", "is larger than any bench")]) from None
    except UnicodeDecodeError as error:
        raise BenchFileError(path.name, [(f"byte {error.start}", "is not UTF-8 text")]) from None
    return loads(text, path.name)


def loads(text: str, name: str = "the bench") -> BenchFile:
    """A bench from its text. Raises BenchFileError."""
    try:
        bench = msgspec.json.decode(text, type=BenchFile)
    except (msgspec.DecodeError, RecursionError) as error:
        what, _, where = str(error).partition(" - at ")
        raise BenchFileError(name, [(where.strip("`$."), what)]) from None
    if bench.version > VERSION:
        raise BenchFileError(
            name, [("version", f"is {bench.version}: written by a newer program; this one reads {VERSION}")]
        )
    wrong = [
        (f"scans[{k}]", f"address {a} has more than 7 bits")
        for k, s in enumerate(bench.scans)
        for a in (*s.answers, *s.drivers, *s.silent)
        if not 0 <= a < 128
    ]
    if wrong:
        raise BenchFileError(name, wrong)
    return bench


def lines_of(bench: BenchFile) -> list[LineState]:
    """Its lines, with the levels that the kernel's list has."""
    levels: dict[tuple[str, int], Level | None] = {}
    with suppress(GpioError):
        levels = {(x.chip, x.offset): x.level for x in parse(bench.kernel_list, "the kernel's list")}
    return [
        replace(line, level=levels[line.chip, line.offset])
        if levels.get((line.chip, line.offset)) is not None
        else line
        for line in bench.lines
    ]


def scans_of(bench: BenchFile) -> list[BusScan]:
    """Its scans."""
    return [scan_of(s) for s in bench.scans]


def scan_of(s: SavedScan, place: str = "") -> BusScan:
    """One scan."""
    cells: dict[int, Answer] = {}
    of: tuple[tuple[tuple[int, ...], Answer], ...]
    of = ((s.silent, "silent"), (s.drivers, "driver"), (s.answers, "answers"))
    for addresses, answer in of:
        cells |= dict.fromkeys(addresses, answer)
    return BusScan(s.bus, cells, place, s.trouble)

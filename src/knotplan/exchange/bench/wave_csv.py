"""Captures as tables: a column of time, or none, and one for each channel; levels, or volts that become
levels.

What a table is is guessed from its first rows, shown, and may be said otherwise: which sign parts its cells,
how many rows its head has, which column is the time and in which unit.
"""

import csv
import io
import re
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from msgspec import Struct

from knotplan.core.bringup.captured.trace import Levels, Trace
from knotplan.core.timing.wave import Floats
from knotplan.exchange.bench.progress import Progress, Stopped, go_on
from knotplan.exchange.decoding import codec_of
from knotplan.exchange.files import open_ordinary
from knotplan.exchange.problems import FileProblemsError

LOOKED_AT = 200
"""rows from which everything is guessed"""
MOST_COLUMNS = 128
BEGINNING = 200_000
"""bytes"""
LEAST_TOLD = 4096
"""bytes by which an encoding is told"""
AT_ONCE = 200_000
"""rows that are read at once"""
SIGNS = (",", ";", "\t", "|", " ")
UNITS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "ns": 1e-9}
TIME = re.compile(r"\b(time|zeit|temps|t|timestamp|seconds|sample)\b|^[#\s]*(s|ms|us|µs|ns)$", re.IGNORECASE)
UNIT = re.compile(r"[\[(]\s*(s|ms|us|µs|ns)\s*[\])]|\b(ms|us|µs|ns)\b", re.IGNORECASE)
WIDE = 0.3
"""of the way between low and high that a voltage goes on before its level counts as another one
(hysteresis)"""


class CsvError(FileProblemsError):
    """The table is no capture that can be read."""

    what = "table of a capture"


class Understood(Struct, frozen=True):
    """What a table is taken for."""

    sign: str
    comma: bool
    """numbers have a comma where others have a point"""
    head: int
    """rows before the first numbers"""
    names: tuple[str, ...]
    """of the columns"""
    time: int
    """the column of the time, from 0; -1 where there is none: then `step_s` is from row to row"""
    unit_s: float
    step_s: float
    sample: tuple[tuple[str, ...], ...]
    """the first rows with numbers, to look at"""


def understood(text: str, name: str = "the table", signs: Sequence[str] = SIGNS) -> Understood:
    """What the beginning of a table is, whose cells are parted by one of some signs. Raises CsvError."""
    lines = [x for x in text.splitlines()[:LOOKED_AT] if x.strip()]
    if lines and lines[0].lower().startswith("sep="):
        lines = lines[1:]
    best: tuple[int, str, bool, list[list[str]]] | None = None
    for sign in signs:
        for comma in (False, True):
            if comma and sign == ",":
                continue
            rows = list(csv.reader(lines, delimiter=sign, skipinitialspace=True))
            good = _numeric_rows(rows, comma=comma)
            width = len(rows[good[0]]) if good else 0
            score = len(good) * min(width, 8) if width > 1 else 0
            if score and (best is None or score > best[0]):
                best = (score, sign, comma, rows)
    if best is None:
        raise CsvError(name, [("", "has no rows of numbers side by side, such as 0.001, 0, 1")])
    return _taken(*best[1:], name)


def _numeric_rows(rows: Sequence[Sequence[str]], *, comma: bool) -> list[int]:
    """Rows that are numbers all through and as wide as most."""
    numeric = [
        k
        for k, row in enumerate(rows)
        if len(row) > 0 and all(_number(x, comma=comma) is not None for x in row if x.strip())
    ]
    widths = [len(rows[k]) for k in numeric]
    usual = max(set(widths), key=widths.count) if widths else 0
    return [k for k in numeric if len(rows[k]) == usual and any(x.strip() for x in rows[k])]


def _number(text: str, *, comma: bool) -> float | None:
    plain = text.strip().replace(",", ".") if comma else text.strip()
    try:
        return float(plain)
    except ValueError:
        return None


def _taken(sign: str, comma: bool, rows: list[list[str]], name: str) -> Understood:
    good = _numeric_rows(rows, comma=comma)
    first, width = good[0], len(rows[good[0]])
    if width > MOST_COLUMNS:
        raise CsvError(name, [("", f"has {width} columns; at most {MOST_COLUMNS}")])
    heads = [row for row in rows[:first] if len(row) == width]
    names = tuple(
        " ".join(dict.fromkeys(h[k].strip() for h in heads[-1:] if h[k].strip())) or f"column {k + 1}"
        for k in range(width)
    )
    numbers = np.array([[_number(x, comma=comma) or 0.0 for x in rows[k]] for k in good])
    time = _time_column(names, numbers)
    unit = UNITS.get(_unit(names[time]), 1.0) if time >= 0 else 1.0
    sample = tuple(tuple(rows[k]) for k in good[:5])
    return Understood(sign, comma, first, names, time, unit, 0.0 if time >= 0 else 1e-6, sample)


def _time_column(names: Sequence[str], numbers: Floats) -> int:
    """The column that is named so, else the first that rises all the way."""
    rises = [k for k in range(numbers.shape[1]) if len(numbers) > 1 and (np.diff(numbers[:, k]) > 0).all()]
    titled = [k for k in rises if TIME.search(names[k])]
    return (titled or rises or [-1])[0]


def _unit(name: str) -> str:
    found = UNIT.search(name)
    return next((x.lower() for x in found.groups() if x), "s") if found else "s"


def beginning(path: Path) -> str:
    """The first rows of a table, from which it is understood. Raises OSError."""
    with open_ordinary(path) as raw:
        return raw.read(BEGINNING).decode(_codec(path), "replace")


def _codec(path: Path) -> str:
    """What a table is written in: instruments write UTF-8 or a code page, whose letters stand in headings
    only; spreadsheets UTF-16 too."""
    with open_ordinary(path) as raw:
        told = raw.read(LEAST_TOLD)
    return codec_of(told[: told.rfind(b"\n")] if len(told) == LEAST_TOLD else told)


def load(path: Path, how: Understood | None = None, progress: Progress = go_on) -> list[Trace]:
    """The channels of a table. Raises CsvError, OSError, or Stopped."""
    how = how or understood(beginning(path), path.name)
    whole = max(1, path.stat().st_size)
    pieces: list[Floats] = []
    with open_ordinary(path) as raw, io.TextIOWrapper(raw, _codec(path), "replace", newline="") as file:
        _skip(file, how)
        while True:
            piece = _read(file, how, path.name)
            if piece is None:
                break
            pieces.append(piece)
            if not progress(min(1.0, raw.tell() / whole)):
                raise Stopped
    if not pieces:
        raise CsvError(path.name, [("", "has no rows of numbers")])
    return traces(np.concatenate(pieces), how, path.name)


def loads(text: str, how: Understood | None = None, name: str = "the table") -> list[Trace]:
    """The channels of a table in memory. Raises CsvError."""
    how = how or understood(text, name)
    file = io.StringIO(text)
    _skip(file, how)
    piece = _read(file, how, name)
    if piece is None:
        raise CsvError(name, [("", "has no rows of numbers")])
    return traces(piece, how, name)


def _skip(file: io.TextIOBase, how: Understood) -> None:
    """Over the head; empty lines do not count."""
    left = how.head
    while left:
        line = file.readline()
        if not line:
            return
        if line.strip() and not line.lower().startswith("sep="):
            left -= 1


def _read(file: io.TextIOBase, how: Understood, name: str) -> Floats | None:
    """Some rows of numbers, (rows, columns); nothing at the end."""
    lines = [line for line in (file.readline() for _ in range(AT_ONCE)) if line]
    if not lines:
        return None
    if how.comma:
        lines = [line.replace(",", ".") for line in lines]
    plain = [x for x in lines if x.strip() and not x.lower().startswith("sep=")]
    if not plain:
        return np.zeros((0, len(how.names)))
    try:
        return np.loadtxt(plain, delimiter=None if how.sign == " " else how.sign, ndmin=2, comments=None)
    except ValueError as error:
        raise CsvError(name, [("", f"has a row that is not as the others: {error}")]) from None


def traces(numbers: Floats, how: Understood, name: str = "the table") -> list[Trace]:
    """Channels from a table of numbers, (rows, columns)."""
    has_time = how.time >= 0
    times = numbers[:, how.time] * how.unit_s if has_time else np.arange(len(numbers)) * how.step_s
    if len(times) > 1 and not (np.diff(times) >= 0).all():
        row = int(np.flatnonzero(np.diff(times) < 0)[0]) + 2
        raise CsvError(name, [(f"row {how.head + row}", "its time is before that of the row above")])
    times = times - times[0]
    end = float(times[-1]) if len(times) else 0.0
    tick = float(np.median(np.diff(times))) if len(times) > 1 else 0.0
    columns = [k for k in range(numbers.shape[1]) if k != how.time]
    return [_channel(how.names[k], times, numbers[:, k], end, tick) for k in columns]


def _channel(name: str, times: Floats, values: Floats, end: float, tick: float) -> Trace:
    """Levels from a column: of volts, where they pass the middle and go on."""
    levels = _levels(values)
    before = np.concatenate([levels[:1], levels[:-1]])
    real = levels != before
    return Trace(name, times[real], levels[real], 0.0, end, int(levels[0]) if len(levels) else 0, tick)


def _levels(values: Floats) -> Levels:
    low, high = float(values.min(initial=0)), float(values.max(initial=0))
    if low in (0.0, 1.0) and high in (0.0, 1.0) and np.isin(values, (0.0, 1.0)).all():
        return values.astype(np.int8)
    if high - low < 0.2:  # volts that do not change: a level by themselves
        return np.full(len(values), int(high > 1.0), np.int8)
    middle, wide = (low + high) / 2, WIDE * (high - low) / 2
    sure = np.where(values > middle + wide, 1, np.where(values < middle - wide, 0, -1))
    place = np.where(sure >= 0, np.arange(len(sure)), -1)
    last = np.maximum.accumulate(place)
    return np.where(last >= 0, sure[np.maximum(last, 0)], int(values[0] > middle)).astype(np.int8)

"""Reading a table: understood first, then as it is said. Raises TableError with everything that is wrong."""

import csv
from pathlib import Path

from msgspec.structs import replace

from knotplan.catalog.board.check import MOST_PINS
from knotplan.exchange.decoding import ENCODINGS, Decoded, decoded
from knotplan.exchange.files import FileTooLargeError, read_whole
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.table.cells import cells, parting
from knotplan.exchange.table.heads import guess, joined, usual_width
from knotplan.exchange.table.sides import pairs, unfolded
from knotplan.exchange.table.table import Rows, Table, Taken

MOST_BYTES = 2_000_000
MOST_COLUMNS = 60


class TableError(FileProblemsError):
    """The file is no table that can be read."""

    what = "table of pins"


def bytes_of(path: Path) -> bytes:
    """The bytes of a file that may be a table. Raises TableError or OSError."""
    try:
        return read_whole(path, MOST_BYTES)
    except FileTooLargeError:
        why = f"it is larger than {MOST_BYTES // 1_000_000} MB, which no table of pins is"
        raise TableError(path.name, [("", why)]) from None


def understood(
    data: bytes, name: str = "table", known: frozenset[str] = frozenset(), encoding: str = "", sign: str = ""
) -> Taken:
    """What a table most probably is; `known` are words that headings have. What is said already, the encoding
    or the sign between cells, is not guessed. Raises TableError."""
    found = _decoded(data, encoding, name)
    text = _text(found.text, name)
    sign = sign or parting(text)
    rows = _rows(text, sign, name)
    head, deep = guess(rows, known)
    taken = Taken(found.encoding, sign, head, deep)
    return replace(taken, two_sided=bool(pairs(*joined(rows, taken))))


def table(data: bytes, taken: Taken, name: str = "table") -> Table:
    """The table, as it is taken. Raises TableError."""
    text = _decoded(data, taken.encoding, name).text
    rows = _rows(_text(text, name), taken.sign, name)
    if taken.two_sided and taken.deep > 1:  # what stands above names the sides
        taken = replace(taken, head=taken.head + 1, deep=1)
    headings, below = joined(_even(rows, taken, name), taken)
    if taken.two_sided and (paired := pairs(headings, below) or _mirrored(headings)):
        headings, below = unfolded(headings, below, paired)
    if len(below) > MOST_PINS:
        raise TableError(name, [("", f"{len(below)} rows are more than any board has pins ({MOST_PINS})")])
    if not below:
        raise TableError(name, [("", "there is no row below its headings")])
    return Table(name, headings, below)


def _decoded(data: bytes, encoding: str, name: str) -> Decoded:
    try:
        return decoded(data, encoding)
    except UnicodeDecodeError as error:
        why = f"is not {ENCODINGS[encoding]} text" if encoding else "is no text"
        raise TableError(name, [(f"byte {error.start}", why)]) from None


def _mirrored(headings: tuple[str, ...]) -> tuple[tuple[int, int], ...]:
    """Halves that the maker says are two sides."""
    half = len(headings) // 2
    return tuple((k, len(headings) - 1 - k) for k in range(half))


def _text(text: str, name: str) -> str:
    if not text.strip():
        raise TableError(name, [("", "it is empty")])
    if "\0" in text:
        raise TableError(name, [("", "is no text: it has zero bytes in it")])
    return text


def _rows(text: str, sign: str, name: str) -> Rows:
    try:
        rows = cells(text, sign)
    except csv.Error as error:
        raise TableError(name, [("", f"is not CSV: {error}")]) from None
    if not rows:
        raise TableError(name, [("", "all its cells are empty")])
    if max(map(len, rows)) > MOST_COLUMNS:
        raise TableError(name, [("", f"{max(map(len, rows))} columns are more than there are names for")])
    return rows


def _even(rows: Rows, taken: Taken, name: str) -> Rows:
    """The rows, those of the table all of one width; titles above it may be narrower. Raises TableError."""
    wide = usual_width(rows)
    above = taken.head - 1 if taken.head else 0
    wrong = [
        (f"row {k}", f"{len(row)} cells where others have {wide}")
        for k, row in enumerate(rows, 1)
        if k > above and len(row) != wide and any(row[wide:]) | (len(row) < wide)
    ]
    if wrong:
        raise TableError(name, wrong)
    return tuple(row[:wide] + ("",) * (wide - len(row)) for row in rows)

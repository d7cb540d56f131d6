"""A table of pins from a spreadsheet, as the beginning of a board: columns are
guessed, and can be told otherwise."""

import csv
import io
import re
from pathlib import Path
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.board.check import LABEL, MOST_PINS
from knotplan.catalog.board.pin import POWER_ON_WORDS
from knotplan.core.draft.board import FIELDS, BoardDraft, DraftPin, add_header, blank, with_rails
from knotplan.core.plan.ids import slug
from knotplan.exchange.files import FileTooLargeError, read_utf8
from knotplan.exchange.problems import FileProblemsError

MOST_BYTES = 2_000_000
MOST_COLUMNS = 60
SKIP = "skip"
"""what a column means that is left out"""
Arrangement = Literal["double", "edges", "single"]
ARRANGEMENTS: dict[Arrangement, str] = {
    "double": "one double row, odd numbers on the left",
    "edges": "two edge rows, down one side and then down the other",
    "single": "one single row",
}
HEADINGS = {
    "position": ("pin", "pos", "position", "pin no", "no", "number", "#", "pad"),
    "functions": ("function", "functions", "does", "capabilities", "alternate", "alt", "features"),
    "kind": ("kind", "type"),
    "power_on": ("power-on", "power on", "reset", "at power-on", "default", "state"),
    "note": ("note", "notes", "comment", "remark", "description"),
    LABEL: ("label",),
    "printed": ("printed", "silk", "name", "board"),
    "rail": ("rail",),
    "driver": ("driver",),
    "reserved": ("reserved",),
}


class TableError(FileProblemsError):
    """The file is no table that can be read."""

    what = "table of pins"


class Table(Struct, frozen=True):
    """A table as read: its headings (made up where it has none) and its rows, all of one width."""

    name: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


def load(path: Path) -> Table:
    """The table in a file. Raises TableError or OSError."""
    try:
        return loads(read_utf8(path, MOST_BYTES), path.stem)
    except FileTooLargeError:
        why = f"it is larger than {MOST_BYTES // 1_000_000} MB, which no table of pins is"
        raise TableError(path.name, [("", why)]) from None
    except UnicodeDecodeError as error:
        raise TableError(path.name, [(f"byte {error.start}", "is not UTF-8 text")]) from None


def loads(text: str, name: str = "table") -> Table:
    """The table in a text, whatever parts its cells: commas, semicolons or tabs. Raises TableError."""
    if not text.strip():
        raise TableError(name, [("", "it is empty")])
    first = text.lstrip().splitlines()[0]
    parting = max("\t;,|", key=first.count)
    try:
        # line ends inside quotes belong to the cell; there they part words
        rows = [
            tuple(" ".join(c.split()) for c in row)
            for row in csv.reader(io.StringIO(text, newline=""), delimiter=parting, strict=True)
        ]
    except csv.Error as error:
        raise TableError(name, [("", f"is not CSV: {error}")]) from None
    rows = [row for row in rows if any(row)]
    if not rows:
        raise TableError(name, [("", "all its cells are empty")])
    wide = max(map(len, rows))
    wrong = [
        (f"row {k}", f"{len(row)} cells where others have {wide}")
        for k, row in enumerate(rows, 1)
        if len(row) != wide and len(row) != len(rows[0])
    ]
    if len(rows) > MOST_PINS + 1:
        wrong = [("", f"{len(rows)} rows are more than any board has pins ({MOST_PINS})")]
    elif wide > MOST_COLUMNS:
        wrong = [("", f"{wide} columns are more than there are names for")]
    if wrong:
        raise TableError(name, wrong)
    rows = [row + ("",) * (wide - len(row)) for row in rows]
    if _has_headings(rows):
        return Table(name, tuple(h or f"column {k}" for k, h in enumerate(rows[0], 1)), tuple(rows[1:]))
    return Table(name, tuple(f"column {k}" for k in range(1, wide + 1)), tuple(rows))


def _has_headings(rows: list[tuple[str, ...]]) -> bool:
    """The first row has no digits where the others do, or a word that is known as a heading."""
    known = {w for words in HEADINGS.values() for w in words}
    if len(rows) < 2:
        return False
    if any(cell.casefold() in known for cell in rows[0]):
        return True
    numbered = [
        k for k in range(len(rows[0])) if sum(bool(re.search(r"\d", r[k])) for r in rows[1:]) > len(rows) / 2
    ]
    return bool(numbered) and not any(re.search(r"\d", rows[0][k]) for k in numbered)


def guessed(table: Table) -> tuple[str, ...]:
    """What each column probably means: one of the grid's columns, "skip", or
    else a name scheme of that heading."""
    meanings: list[str] = []
    for k, heading in enumerate(table.headings):
        cells = [row[k] for row in table.rows if row[k]]
        meant = next((m for m, words in HEADINGS.items() if heading.casefold().strip() in words), "")
        if not meant and cells and cells == [str(n) for n in range(1, len(cells) + 1)]:
            meant = "position"
        if (
            not meant
            and cells
            and all(c.casefold() in (*POWER_ON_WORDS, *POWER_ON_WORDS.values()) for c in cells)
        ):
            meant = "power_on"
        if not meant and cells and sum(":" in c or "," in c for c in cells) > len(cells) / 2:
            meant = "functions"
        if not cells:
            meant = SKIP
        elif meant in meanings:  # two columns cannot mean the same
            meant = ""
        meanings.append(meant or f"scheme:{heading}")
    return tuple(meanings)


def draft(
    table: Table, meanings: tuple[str, ...], arrangement: Arrangement, volts: float = 3.3
) -> BoardDraft:
    """The beginning of a board: `meanings` has for each column one of
    the grid's, "skip" or "scheme:title"."""
    begun = replace(
        blank(table.name.replace("-", " ").replace("_", " ").strip().capitalize() or "My board", volts),
        headers={},
        pins=(),
        schemes={},
    )
    count = len(table.rows)
    half = (count + 1) // 2
    headers = {
        "double": [("main", half, 2)],
        "edges": [("left", half, 1), ("right", count - half, 1)],
        "single": [("main", count, 1)],
    }[arrangement]
    for title, rows, columns in headers:
        if rows:
            begun = add_header(begun, title, rows, columns)
    schemes: dict[str, str] = {}
    keys: list[str] = []
    for meaning in meanings:
        key, title = meaning, meaning.capitalize()
        if meaning.startswith("scheme:"):
            title = meaning.removeprefix("scheme:")
            key = slug(title, {*schemes, LABEL, *FIELDS})
        if key in ("position", "printed") or meaning.startswith("scheme:"):
            schemes[key] = title
        keys.append("" if meaning == SKIP else key)
    pins = tuple(_pin(pin, keys, row) for pin, row in zip(begun.pins, table.rows, strict=False))
    spare = begun.pins[len(pins) :]
    if not schemes:
        schemes["printed"] = "Printed"
    return with_rails(replace(begun, schemes=schemes, pins=(*pins, *spare)))


def _pin(pin: DraftPin, keys: list[str], row: tuple[str, ...]) -> DraftPin:
    cells = dict(zip(keys, row, strict=True))
    cells.pop("", None)
    names = {k: t for k, t in cells.items() if k not in FIELDS and t}
    fields = {k: t for k, t in cells.items() if k in FIELDS}
    return replace(pin, names=names, **fields)

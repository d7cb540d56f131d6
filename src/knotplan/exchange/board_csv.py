"""A table of pins from a spreadsheet, as the beginning of a board: columns are
guessed, and can be told otherwise."""

from pathlib import Path
from typing import Literal

from msgspec.structs import replace

from knotplan.catalog.board.check import LABEL
from knotplan.catalog.board.pin import POWER_ON_WORDS
from knotplan.core.draft.board import FIELDS, BoardDraft, DraftPin, add_header, blank, with_rails
from knotplan.core.plan.ids import slug
from knotplan.exchange.table import read
from knotplan.exchange.table.read import TableError, bytes_of
from knotplan.exchange.table.table import Table, Taken

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


__all__ = ["Table", "TableError", "Taken", "draft", "guessed", "load", "loads", "understood"]
KNOWN = frozenset(word for words in HEADINGS.values() for word in words)


def understood(path: Path) -> tuple[bytes, Taken]:
    """The bytes of a file, and what kind of table they most probably are. Raises TableError or OSError."""
    data = bytes_of(path)
    return data, read.understood(data, path.stem, KNOWN)


def load(path: Path) -> Table:
    """The table in a file, as it is understood. Raises TableError or OSError."""
    data, taken = understood(path)
    return read.table(data, taken, path.stem)


def loads(text: str, name: str = "table") -> Table:
    """The table in a text, as it is understood. Raises TableError."""
    data = text.encode("utf-8")
    return read.table(data, read.understood(data, name, KNOWN), name)


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

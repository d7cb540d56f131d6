"""A board as a file: TOML that people read and write, checked whole, written so that its comments stay."""

import re
import tomllib
from pathlib import Path
from typing import Any

import msgspec
import tomlkit
from tomlkit.items import InlineTable, Item

from knotplan.catalog.board_check import ID, MOST_FAULTS, MOST_PINS, faults
from knotplan.catalog.boards import Board
from knotplan.catalog.load import MOST_BYTES
from knotplan.exchange.files import write_atomically
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.schema_errors import errors_of

SUFFIX = ".toml"
Fault = tuple[str, str]
INTRO = ("{title}. Lengths are millimetres; everything else is in SI units. [least, typical, most] is a range.",
         "Written by Knot Plan; comments that you add stay.")  # fmt: skip


class BoardFileError(FileProblemsError):
    """The file is not a board that can be used."""

    what = "board"


def load(path: Path) -> Board:
    """The board in a file, its id being the file's name. Raises BoardFileError with everything wrong, or OSError."""
    if path.stat().st_size > MOST_BYTES:
        raise BoardFileError(path.name, [("", f"it is larger than {MOST_BYTES // 1000} kB, which no board is")])
    try:
        text = path.read_bytes().decode("utf-8")
    except UnicodeDecodeError as error:
        raise BoardFileError(path.name, [(f"byte {error.start}", "is not UTF-8 text; a board is a text file")]) from None
    return loads(text, path.stem, path.name)


def loads(text: str, board_id: str, name: str = "the file") -> Board:
    """The board in a text. Raises BoardFileError."""
    tree = _tree(text, name)
    wrong: list[Fault] = [] if ID.fullmatch(board_id) else [
        ("", f"{board_id!r} is no id: a board's file is named by small letters, digits and hyphens")]  # fmt: skip
    try:
        board = msgspec.convert({"id": board_id, **tree}, Board)
    except (msgspec.ValidationError, ValueError, RecursionError) as error:
        wrong += list(errors_of(tree, schema())) or [("", str(error))]
    else:
        wrong += faults(board)
    if wrong:
        lines = [line.strip() for line in text.splitlines()]
        raise BoardFileError(name, [(_with_line(place, lines), why) for place, why in wrong[:MOST_FAULTS]])
    return board


def _tree(text: str, name: str) -> dict[str, Any]:
    if not text.strip():
        raise BoardFileError(name, [("", "the file is empty")])
    try:
        tree = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        found = re.fullmatch(r"(.*) \(at (line \d+, column \d+|end of document)\)", str(error))
        place, why = (found[2], found[1]) if found else ("", str(error))
        raise BoardFileError(name, [(place, f"is not TOML: {why}")]) from None
    except RecursionError:
        raise BoardFileError(name, [("", "is nested more deeply than any board")]) from None
    pins = tree.get("pins")
    if isinstance(pins, dict | list) and len(pins) > MOST_PINS:
        raise BoardFileError(name, [("pins", f"{len(pins)} pins are more than any board has ({MOST_PINS})")])
    if "id" in tree:
        raise BoardFileError(name, [("id", "is not written in the file: a board's id is the file's name")])
    return tree


def _with_line(place: str, lines: list[str]) -> str:
    """A place with the number of its line, where that can be told."""
    section, _, rest = place.partition(".")
    key = rest.split(".")[0].split("[")[0]
    head = re.compile(rf"\[{re.escape(section)}\.\"?{re.escape(key)}\"?\]|\"?{re.escape(key)}\"?\s*=" if key else
                      rf"\[?{re.escape(section.split('[')[0])}\]?\s*(=|$)")  # fmt: skip
    number = next((k for k, line in enumerate(lines, 1) if section and head.match(line)), None)
    return f"line {number}, {place}" if number else place


def schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a board file's tree; its id is the file's name."""
    made = msgspec.json.schema(Board)
    fields = made["$defs"]["Board"]
    del fields["properties"]["id"]
    fields["required"].remove("id")
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Knot Plan board", **made}


# --- writing ----------------------------------------------------------------------------------


def dumps(board: Board, old: str = "") -> str:
    """The board as TOML. What `old` says already stays as it is, with its comments."""
    tree = _plain(msgspec.to_builtins(board))
    del tree["id"]
    if old:
        try:
            document = tomlkit.parse(old)
            _laid_over(document, tree)
            text = tomlkit.dumps(document)
            if tomllib.loads(text) == tree:
                return text
        except (tomlkit.exceptions.TOMLKitError, tomllib.TOMLDecodeError, RecursionError):
            pass  # a text that cannot be kept is written anew
    return _fresh(board.title, tree)


def save(board: Board, path: Path, begun_from: str = "") -> str:
    """Writes a board in one step, with the comments of the text that it was begun from; returns what was written.
    Raises OSError."""
    text = dumps(board, begun_from)
    path.parent.mkdir(parents=True, exist_ok=True)
    write_atomically(path, text.encode("utf-8"))
    return text


def _plain(tree: Any) -> Any:
    """Whole numbers without a point, as people write them."""
    if isinstance(tree, dict):
        return {k: _plain(v) for k, v in tree.items()}
    if isinstance(tree, list | tuple):
        return [_plain(v) for v in tree]
    return int(tree) if isinstance(tree, float) and tree.is_integer() and abs(tree) < 1e6 else tree


def _fresh(title: str, tree: dict[str, Any]) -> str:
    document = tomlkit.document()
    for line in INTRO:
        document.add(tomlkit.comment(line.format(title=title)))
    document.add(tomlkit.nl())
    for key, value in sorted(tree.items(), key=lambda pair: isinstance(pair[1], dict)):
        if key == "pins":
            document.add(key, _pins(value))
        elif isinstance(value, dict):
            document.add(key, _table(value))
        else:
            document.add(key, value)
    return tomlkit.dumps(document)


def _table(tree: dict[str, Any]) -> Item:
    nested = all(isinstance(v, dict) for v in tree.values())
    made = tomlkit.table(is_super_table=nested)
    for key, value in tree.items():
        if isinstance(value, dict) and nested:
            made.add(key, _table(value))
        else:
            made.add(key, _inline(value) if isinstance(value, dict) else value)
    return made


def _pins(pins: dict[str, Any]) -> Item:
    """A line for each pin, header by header."""
    made, header = tomlkit.table(), None
    for name, pin in pins.items():
        if pin.get("header", "main") != header:
            header = pin.get("header", "main")
            made.add(tomlkit.comment(f"header {header}"))
        made.add(name, _inline(pin))
    return made


def _inline(tree: dict[str, Any]) -> InlineTable:
    made = tomlkit.inline_table()
    for key, value in tree.items():
        made.add(key, _inline(value) if isinstance(value, dict) else value)
    return made


def _laid_over(old: Any, new: dict[str, Any]) -> None:
    """Changes in a document only what differs."""
    for key in [k for k in old if k not in new]:
        del old[key]
    for key, value in new.items():
        if key not in old:
            old[key] = _inline(value) if isinstance(value, dict) and _lines(old) else value
        elif old[key] != value:
            there = old[key]
            if isinstance(value, dict) and isinstance(there, dict) and not isinstance(there, InlineTable):
                _laid_over(there, value)
            else:
                old[key] = _inline(value) if isinstance(value, dict) else value


def _lines(table: Any) -> bool:
    """The table holds an inline table a line."""
    return any(isinstance(v, InlineTable) for v in table.values())

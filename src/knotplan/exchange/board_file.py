"""A board as a file: TOML that people read and write, checked whole, written so that its comments stay."""

from pathlib import Path
from typing import Any

import msgspec
import tomlkit
from tomlkit.items import Item

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.check import MOST_PINS, faults
from knotplan.catalog.toml_text import parsed
from knotplan.exchange.files import write_atomically
from knotplan.exchange.own_toml import (
    id_faults,
    inline,
    laid_over,
    plain,
    read_with,
    refuse,
    table,
    tree_with,
)
from knotplan.exchange.plain_text import one_line
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.published import of_file
from knotplan.exchange.schema_errors import errors_of

SUFFIX = ".toml"
Fault = tuple[str, str]
INTRO = (
    "{title}. Lengths are millimetres; everything else is in SI units. [least, typical, most] is a range.",
    "Written by Knot Plan; comments that you add stay.",
)


class BoardFileError(FileProblemsError):
    """The file is not a board that can be used."""

    what = "board"


def load(path: Path) -> Board:
    """The board in a file, its id being the file's name. Raises
    BoardFileError with everything wrong, or OSError."""
    return read_with(path, "board", loads, BoardFileError)


def loads(text: str, board_id: str, name: str = "the file") -> Board:
    """The board in a text. Raises BoardFileError."""
    tree = _tree(text, name)
    wrong = id_faults(board_id, "board")
    try:
        board = msgspec.convert({"id": board_id, **tree}, Board)
    except (msgspec.ValidationError, ValueError, RecursionError) as error:
        wrong += list(errors_of(tree, schema())) or [("", str(error))]
    else:
        wrong += faults(board)
    refuse(wrong, text, name, BoardFileError)
    return board


def _tree(text: str, name: str) -> dict[str, Any]:
    tree = tree_with(text, "board", name, BoardFileError)
    pins = tree.get("pins")
    if isinstance(pins, dict | list) and len(pins) > MOST_PINS:
        raise BoardFileError(name, [("pins", f"{len(pins)} pins are more than any board has ({MOST_PINS})")])
    return tree


def schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a board file's tree; its id is the file's name."""
    return of_file("board", "Knot Plan board", Board, apart=("id",))


# --- writing ----------------------------------------------------------------------------------


def dumps(board: Board, old: str = "") -> str:
    """The board as TOML. What `old` says already stays as it is, with its comments."""
    tree = plain(msgspec.to_builtins(board))
    del tree["id"]
    if old:
        try:
            document = tomlkit.parse(old)
            laid_over(document, tree)
            text = tomlkit.dumps(document)
            if parsed(text) == tree:
                return text
        except (tomlkit.exceptions.TOMLKitError, ValueError, RecursionError):
            pass  # a text that cannot be kept is written anew
    return _fresh(board.title, tree)


def save(board: Board, path: Path, begun_from: str = "") -> str:
    """Writes a board in one step, with the comments of the text that it was begun from;
    returns what was written. Raises OSError."""
    text = dumps(board, begun_from)
    path.parent.mkdir(parents=True, exist_ok=True)
    write_atomically(path, text.encode("utf-8"))
    return text


def _fresh(title: str, tree: dict[str, Any]) -> str:
    document = tomlkit.document()
    for line in INTRO:
        document.add(tomlkit.comment(line.format(title=one_line(title))))
    document.add(tomlkit.nl())
    for key, value in sorted(tree.items(), key=lambda pair: isinstance(pair[1], dict)):
        if key == "pins":
            document.add(key, _pins(value))
        elif isinstance(value, dict):
            document.add(key, table(value))
        else:
            document.add(key, value)
    return tomlkit.dumps(document)


def _pins(pins: dict[str, Any]) -> Item:
    """A line for each pin, header by header."""
    made, header = tomlkit.table(), None
    for name, pin in pins.items():
        if pin.get("header", "main") != header:
            header = pin.get("header", "main")
            made.add(tomlkit.comment(f"header {one_line(header)}"))
        made.add(name, inline(pin))
    return made

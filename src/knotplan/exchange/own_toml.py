"""Reading and writing a catalogue file of the maker's own: what every kind of them has in common."""

import re
import tomllib
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import tomlkit
from tomlkit.items import InlineTable, Item

from knotplan.catalog.board.check import ID, MOST_FAULTS
from knotplan.catalog.load import MOST_BYTES
from knotplan.catalog.toml_text import SCHEMA_KEY, HugeNumberError, parsed
from knotplan.exchange.files import FileTooLargeError, read_utf8
from knotplan.exchange.problems import FileProblemsError

T = TypeVar("T")


class TomlFaultError(ValueError):
    """The file cannot even be read as TOML; `fault` says where and why."""

    def __init__(self, place: str, why: str):
        super().__init__(f"{place}: {why}" if place else why)
        self.fault = (place, why)


def read_text(path: Path, what: str) -> str:
    """The text of a file; raises TomlFaultError, or OSError when it cannot be got at."""
    try:
        return read_utf8(path, MOST_BYTES)
    except FileTooLargeError:
        raise TomlFaultError("", f"it is larger than {MOST_BYTES // 1000} kB, which no {what} is") from None
    except UnicodeDecodeError as error:
        raise TomlFaultError(f"byte {error.start}", f"is not UTF-8 text; a {what} is a text file") from None


def read_with(
    path: Path, what: str, loads: Callable[[str, str, str], T], error: type[FileProblemsError]
) -> T:
    """What a file says, its id being the file's name; raises `error` with everything wrong, or OSError."""
    try:
        text = read_text(path, what)
    except TomlFaultError as fault:
        raise error(path.name, [fault.fault]) from None
    return loads(text, path.stem, path.name)


def read_tree(text: str, what: str) -> dict[str, Any]:
    """The tree of a text; raises TomlFaultError."""
    if not text.strip():
        raise TomlFaultError("", "the file is empty")
    try:
        tree = parsed(text)
    except tomllib.TOMLDecodeError as error:
        match = re.fullmatch(r"(.*) \(at (line \d+, column \d+|end of document)\)", str(error))
        place, why = (match[2], match[1]) if match else ("", str(error))
        raise TomlFaultError(place, f"is not TOML: {why}") from None
    except HugeNumberError as error:
        raise TomlFaultError(error.place, error.why) from None
    except ValueError:  # Python reads no whole number of more than 4300 digits
        raise TomlFaultError("", "contains a number of thousands of digits") from None
    except RecursionError:
        raise TomlFaultError("", f"is nested more deeply than any {what}") from None
    if "id" in tree:
        raise TomlFaultError("id", f"is not written in the file: a {what}'s id is the file's name")
    return tree


def tree_with(text: str, what: str, name: str, error: type[FileProblemsError]) -> dict[str, Any]:
    """The tree of a text; raises `error` where it is none."""
    try:
        return read_tree(text, what)
    except TomlFaultError as fault:
        raise error(name, [fault.fault]) from None


def id_faults(own_id: str, what: str) -> list[tuple[str, str]]:
    """What is wrong with an id, which is the file's name."""
    named = f"{own_id!r} is no id: a {what}'s file is named by small letters, digits and hyphens"
    return [] if ID.fullmatch(own_id) else [("", named)]


def refuse(wrong: list[tuple[str, str]], text: str, name: str, error: type[FileProblemsError]) -> None:
    """Raises `error` with everything that is wrong, each with its line; returns where nothing is."""
    if wrong:
        lines = [line.strip() for line in text.split("\n")]
        raise error(name, [(with_line(place, lines), why) for place, why in wrong[:MOST_FAULTS]])


def with_line(place: str, lines: list[str]) -> str:
    """A place with the number of its line, where that can be told."""
    section, _, rest = place.partition(".")
    key = rest.split(".")[0].split("[")[0]
    head = re.compile(
        rf"\[{re.escape(section)}\.\"?{re.escape(key)}\"?\]|\"?{re.escape(key)}\"?\s*="
        if key
        else rf"\[?{re.escape(section.split('[')[0])}\]?\s*(=|$)"
    )
    number = next((k for k, line in enumerate(lines, 1) if section and head.match(line)), None)
    return f"line {number}, {place}" if number else place


# --- writing, so that comments stay ---------------------------------------------------------------


def plain(tree: Any) -> Any:
    """Whole numbers without a point, as people write them."""
    if isinstance(tree, dict):
        return {k: plain(v) for k, v in tree.items()}
    if isinstance(tree, list | tuple):
        return [plain(v) for v in tree]
    return int(tree) if isinstance(tree, float) and tree.is_integer() and abs(tree) < 1e6 else tree


def table(tree: dict[str, Any]) -> Item:
    """A table as TOML; one of mere tables holds a header for each."""
    nested = all(isinstance(v, dict) for v in tree.values())
    made_table = tomlkit.table(is_super_table=nested)
    for key, value in tree.items():
        if isinstance(value, dict) and nested:
            made_table.add(key, table(value))
        else:
            made_table.add(key, inline(value) if isinstance(value, dict) else value)
    return made_table


def inline(tree: dict[str, Any]) -> InlineTable:
    """A table on one line."""
    made_table = tomlkit.inline_table()
    for key, value in tree.items():
        made_table.add(key, inline(value) if isinstance(value, dict) else value)
    return made_table


def laid_over(old: Any, new: dict[str, Any]) -> None:
    """Changes in a document only what differs."""
    for key in [k for k in old if k not in new and k != SCHEMA_KEY]:
        del old[key]
    for key, value in new.items():
        if key not in old:
            old[key] = inline(value) if isinstance(value, dict) and _lines(old) else value
        elif old[key] != value:
            there = old[key]
            if isinstance(value, dict) and isinstance(there, dict) and not isinstance(there, InlineTable):
                laid_over(there, value)
            else:
                old[key] = inline(value) if isinstance(value, dict) else value


def _lines(table: Any) -> bool:
    """The table holds an inline table a line."""
    return any(isinstance(v, InlineTable) for v in table.values())

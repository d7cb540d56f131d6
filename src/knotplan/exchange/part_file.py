"""A part as a file: TOML that people read and write, checked whole, in each of its choices."""

import tomllib
from pathlib import Path
from typing import Any

import msgspec
import tomlkit

from knotplan.catalog.part.check import kind_faults
from knotplan.catalog.part.kind import PartKind, kind_from
from knotplan.catalog.part.part import Part
from knotplan.catalog.toml_text import parsed
from knotplan.exchange.own_toml import (
    TomlFaultError,
    id_faults,
    laid_over,
    plain,
    read_text,
    read_tree,
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


class PartFileError(FileProblemsError):
    """The file is not a part that can be used."""

    what = "part"


def load(path: Path) -> PartKind:
    """The part in a file, its id being the file's name. Raises
    PartFileError with everything wrong, or OSError."""
    return read_with(path, "part", loads, PartFileError)


def looks_like(path: Path) -> bool:
    """A file that is about a part rather than a board: it has leads. Raises OSError."""
    try:
        tree = read_tree(read_text(path, "part"), "part")
    except TomlFaultError:
        return False
    return "pins" not in tree and bool({"leads", "repeat", "summary"} & set(tree)) and "headers" not in tree


def loads(text: str, part_id: str, name: str = "the file") -> PartKind:
    """The part in a text. Raises PartFileError."""
    tree = tree_with(text, "part", name, PartFileError)
    wrong = id_faults(part_id, "part") + [
        (key, "is missing") for key in ("title", "summary", "category") if key not in tree
    ]
    wrong += [] if tree.get("leads") or tree.get("repeat") else [("leads", "there are none")]
    try:
        kind = kind_from(part_id, {"id": part_id, **tree})
    except KeyError:
        kind = None  # what is missing has been said
    except (msgspec.ValidationError, TypeError, ValueError, AttributeError) as error:
        kind, wrong = None, [*wrong, *(_head_errors(tree) or [("", str(error))])]
    if kind is not None and not wrong:
        found = kind_faults(kind)
        wrong += (_departures(kind) or found) if found else []
    refuse(wrong, text, name, PartFileError)
    assert kind is not None
    return kind


def _head_errors(tree: dict[str, Any]) -> list[tuple[str, str]]:
    """What is wrong with what stands before everything else: names and parameters."""
    head = ("title", "summary", "words", "common", "params")
    return [
        fault for fault in errors_of(tree, schema()) if fault[0].partition(".")[0].partition("[")[0] in head
    ]


def _departures(kind: PartKind) -> list[tuple[str, str]]:
    """Everything by which the parts that can be made depart from the schema;
    nothing where they cannot be made at all."""
    faults: dict[tuple[str, str], None] = {}
    try:
        for chosen in kind.choices():
            tree = kind.filled(chosen)
            faults |= dict.fromkeys(errors_of({k: v for k, v in tree.items() if k != "id"}, schema()))
    except (KeyError, ValueError, TypeError, AttributeError, RecursionError):
        return []
    return list(faults)


def schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a definite part: a file's tree once its parameters are filled in."""
    return of_file("definite-part", "Knot Plan part, filled in", Part, apart=("id",))


def dumps(tree: dict[str, Any], old: str = "") -> str:
    """A part's tree as TOML. What `old` says already stays as it is, with its comments."""
    wanted = plain({k: v for k, v in tree.items() if k != "id"})
    if old:
        try:
            document = tomlkit.parse(old)
            laid_over(document, wanted)
            text = tomlkit.dumps(document)
            if parsed(text) == wanted:
                return text
        except (tomlkit.exceptions.TOMLKitError, tomllib.TOMLDecodeError, RecursionError):
            pass  # a text that cannot be kept is written anew
    document = tomlkit.document()
    title = one_line(tree.get("title", "A part"))
    document.add(tomlkit.comment(f"{title}. Everything is in SI units; [least, typical, most] is a range."))
    for key, value in sorted(wanted.items(), key=lambda pair: isinstance(pair[1], dict)):
        document.add(key, table(value) if isinstance(value, dict) else value)
    return tomlkit.dumps(document)

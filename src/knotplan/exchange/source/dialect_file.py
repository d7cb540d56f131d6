"""Dialect files: shipped ones and makers' own (TOML)."""

import tomllib
from contextlib import suppress
from functools import cache
from pathlib import Path

import msgspec
import tomlkit

from knotplan.catalog.load import own_folder as catalog_folder
from knotplan.core.bringup.program.dialect import Dialect
from knotplan.exchange.files import FileTooLargeError, read_utf8
from knotplan.exchange.problems import FileProblemsError

FOLDER = Path(__file__).parent / "dialects"
MOST_BYTES = 200_000


class DialectError(FileProblemsError):
    """A dialect file cannot be read."""

    what = "dialect"


@cache
def shipped() -> tuple[Dialect, ...]:
    """Those of the operating system's own interfaces."""
    return tuple(load(path) for path in sorted(FOLDER.glob("*.toml")))


def everything() -> tuple[Dialect, ...]:
    """Makers' own first, then those that come with the program; a broken file of one's own is left out."""
    own = []
    for path in sorted(own_folder().glob("*.toml")) if own_folder().is_dir() else ():
        with suppress(DialectError, OSError):
            own.append(load(path))
    return (*own, *shipped())


def own_folder() -> Path:
    """Where makers' own dialects are."""
    return catalog_folder().parent / "dialects"


def load(path: Path) -> Dialect:
    """The dialect in a file. Raises DialectError or OSError."""
    try:
        return loads(read_utf8(path, MOST_BYTES), path.stem)
    except FileTooLargeError:
        raise DialectError(path.name, [("", "is larger than any dialect")]) from None
    except UnicodeDecodeError as error:
        raise DialectError(path.name, [(f"byte {error.start}", "is not UTF-8 text")]) from None


def loads(text: str, name: str) -> Dialect:
    """The dialect in a text. Raises DialectError."""
    try:
        tree = tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise DialectError(name, [("", str(error))]) from None
    try:
        dialect = msgspec.convert({"id": name, **tree}, Dialect)
    except msgspec.ValidationError as error:
        what, _, where = str(error).partition(" - at ")
        raise DialectError(name, [(where.strip("`$."), what)]) from None
    return dialect


def dumps(dialect: Dialect) -> str:
    """As a file has it; what is as usual is left out."""
    tree = _plain(msgspec.to_builtins(dialect))
    tree.pop("id", None)
    return tomlkit.dumps(tree)


def _plain(tree: dict) -> dict:  # type: ignore[type-arg]
    kept = {
        k: v for k, v in tree.items() if v not in ("", (), [], {}, False) and not (k == "times" and v == 1.0)
    }
    return {
        k: _plain(v)
        if isinstance(v, dict)
        else [_plain(x) if isinstance(x, dict) else x for x in v]
        if isinstance(v, list | tuple)
        else v
        for k, v in kept.items()
    }

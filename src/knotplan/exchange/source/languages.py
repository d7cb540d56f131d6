"""Which files are source of which language, and their readers."""

from collections.abc import Callable, Iterable
from pathlib import Path

from knotplan.core.bringup.program.code import Source
from knotplan.exchange.files import FileTooLargeError, read_whole
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.source.c_family import CppReader, CReader
from knotplan.exchange.source.devicetree import DevicetreeReader
from knotplan.exchange.source.python import PythonReader

Make = Callable[[str, bytes], "CReader | PythonReader | DevicetreeReader"]
READERS: dict[str, tuple[str, Make]] = {
    ".py": ("python", PythonReader),
    ".c": ("c", CReader),
    ".h": ("c", CReader),
    ".cpp": ("cpp", CppReader),
    ".cc": ("cpp", CppReader),
    ".cxx": ("cpp", CppReader),
    ".hpp": ("cpp", CppReader),
    ".hh": ("cpp", CppReader),
    ".dts": ("devicetree", DevicetreeReader),
    ".dtsi": ("devicetree", DevicetreeReader),
    ".dtso": ("devicetree", DevicetreeReader),
    ".overlay": ("devicetree", DevicetreeReader),
}
MOST_BYTES = 2_000_000
MOST_FILES = 400


class SourceError(FileProblemsError):
    """Some of the source cannot be read."""

    what = "program source"


def files_in(paths: Iterable[Path]) -> list[Path]:
    """The source files among some files and folders; what begins with a dot is left out. Raises
    SourceError."""
    found: list[Path] = []
    wrong: list[tuple[str, str]] = []
    for path in paths:
        if path.is_dir():
            inside = sorted(p for p in path.rglob("*") if p.suffix.lower() in READERS and p.is_file())
            own = [p for p in inside if not any(part.startswith(".") for part in p.relative_to(path).parts)]
            found += own
            if not own:
                wrong.append((str(path), f"holds no source: files that end in {', '.join(READERS)}"))
        elif path.suffix.lower() in READERS:
            found.append(path)
        else:
            wrong.append((str(path), f"is no source: its name should end in {', '.join(READERS)}"))
    if len(found) > MOST_FILES:
        wrong.append(
            ("", f"{len(found)} files are more than a program for a board has; at most {MOST_FILES}")
        )
    if wrong:
        raise SourceError("the program", wrong)
    return list(dict.fromkeys(found))


def texts(paths: Iterable[Path]) -> list[tuple[str, str]]:
    """The source of some files and folders: (name, text). What is no UTF-8 has replacement characters, which
    stand in comments and texts only. Raises SourceError or OSError."""
    found: list[tuple[str, str]] = []
    wrong: list[tuple[str, str]] = []
    for path in files_in(paths):
        try:
            found.append((str(path), read_whole(path, MOST_BYTES).decode("utf-8-sig", "replace")))
        except FileTooLargeError:
            wrong.append((str(path), "is larger than any source"))
    if wrong:
        raise SourceError("the program", wrong)
    return found


def trees(files: Iterable[tuple[str, str]]) -> list[Source]:
    """The trees of some files, by (name, text). C beside C++ counts as C++: headers are shared."""
    every = list(files)
    cpp = any(READERS[Path(name).suffix.lower()][0] == "cpp" for name, _ in every)
    found = []
    for name, text in every:
        language, make = READERS[Path(name).suffix.lower()]
        found.append((CppReader if language == "c" and cpp else make)(name, text.encode()).source())
    return found


def load(paths: Iterable[Path]) -> list[Source]:
    """The trees of some files and folders. Raises SourceError or OSError."""
    return trees(texts(paths))


def read(name: str, text: str) -> Source:
    """The tree of a text under a file's name."""
    return trees([(name, text)])[0]

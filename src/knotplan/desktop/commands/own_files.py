"""Taking in a board or part file that somebody shared: checked, never over one
of ours, never over another unasked."""

from pathlib import Path
from typing import TYPE_CHECKING, Literal

from knotplan.catalog.load import MOST_BYTES
from knotplan.desktop import dialogs

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk


def take_in(desk: "Desk", path: Path, kind: Literal["board", "part"]) -> str:
    """The id of what is among the maker's own now, or nothing."""
    from knotplan.exchange import board_file, part_file
    from knotplan.exchange.files import read_whole, write_atomically
    from knotplan.exchange.problems import FileProblemsError

    session, catalog = desk.session, desk.session.catalog
    try:
        entry = board_file.load(path) if kind == "board" else part_file.load(path)
        data = read_whole(path, MOST_BYTES)
    except (FileProblemsError, OSError) as error:
        desk.documents.refuse(path, error)
        return ""
    if catalog.own is None or entry.id in catalog.shipped_ids(kind):
        session.noticed.emit(
            f"{entry.id!r} is the name of a {kind} that comes with the program: rename the file first."
        )
        return ""
    there = catalog.own / f"{kind}s" / f"{entry.id}.toml"
    if there.exists() and not _same(there, data):
        question = f"There is another {entry.title} among your {kind}s. Replace it?"
        if not dialogs.may(desk.parent, question, "Replace it", "Leave it"):
            return ""
    try:
        there.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(there, data)
    except OSError as error:
        session.noticed.emit(f"{there} was not written: {error.strerror}")
        return ""
    session.noticed.emit(f"{entry.title} is among your {kind}s now")
    return entry.id


def _same(path: Path, data: bytes) -> bool:
    """The file holds these bytes; one that cannot be read holds others."""
    from knotplan.exchange.files import read_whole

    try:
        return read_whole(path, MOST_BYTES) == data
    except OSError:
        return False

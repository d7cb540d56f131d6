"""Files that are dropped onto the window: each is taken for what it is."""

from pathlib import Path

from PySide6.QtCore import QMimeData

from knotplan.catalog.load import MOST_BYTES
from knotplan.desktop.commands import board, bring_up, part
from knotplan.desktop.desk import Desk
from knotplan.exchange.bench.kinds import kind_of

TABLES = (".csv", ".tsv")
KNOWN = (
    "plans (.knot.json), boards and parts (.toml), tables of pins (.csv), and what comes from a bench: "
    "scans, listings, captures (.vcd, .csv), source"
)


def paths(data: QMimeData) -> list[Path]:
    """The files of this machine that are dragged."""
    return [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]


def take(desk: Desk, files: list[Path]) -> None:
    """Boards and parts first, so that a plan finds them; of several plans the first is opened."""
    heard = [f for f in files if _is_from_bench(f)]
    if heard:
        bring_up.take(desk, heard)
    files = [f for f in files if f not in heard]
    plans = [f for f in files if f.suffix.lower() == ".json"]
    for file in files:
        if file not in plans:
            _take_one(desk, file)
    if plans:
        desk.documents.open_path(plans[0])
    if len(plans) > 1:
        desk.session.noticed.emit(f"Opened {plans[0].name}; a window has one plan.")


def _take_one(desk: Desk, file: Path) -> None:
    suffix = file.suffix.lower()
    if suffix == ".toml":
        (board.take_in if _is_board(file) else part.take_in)(desk, file)
    elif suffix in TABLES:
        board.begin_with_table(desk, file)
    else:
        desk.session.noticed.emit(f"{file.name} is none of the files that are understood here: {KNOWN}.")


def _is_from_bench(file: Path) -> bool:
    try:
        return file.suffix.lower() != ".toml" and bool(kind_of(file))
    except OSError:
        return False


def _is_board(file: Path) -> bool:
    """A board has headers, a part has leads; what is neither is told as a part would be."""
    from knotplan.catalog.reading import read_utf8
    from knotplan.catalog.toml_text import parsed

    try:
        tree = parsed(read_utf8(file, MOST_BYTES))
    except (OSError, ValueError, RecursionError):
        return False
    return "headers" in tree or ("pins" in tree and "leads" not in tree)

"""Copies what a list or table shows, or saves it."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QAbstractItemView, QApplication, QFileDialog

from knotplan.core.quantity.written import counted
from knotplan.desktop.lists.rows import heads_of, rows_of
from knotplan.exchange.files import write_atomically
from knotplan.exchange.tables import as_csv, as_tabbed

Tell = Callable[[str], object]


def copy(view: QAbstractItemView, tell: Tell) -> None:
    """The lines that are marked, or all where none is, with tabs between their cells."""
    _put(view, rows_of(view, only_marked=True) or rows_of(view), tell)


def copy_all(view: QAbstractItemView, tell: Tell) -> None:
    """Everything that is shown."""
    _put(view, rows_of(view), tell)


def _put(view: QAbstractItemView, rows: list[list[str]], tell: Tell) -> None:
    """Onto the clipboard; where there is nothing, that keeps what it has."""
    if not rows:
        tell("Nothing was copied: no line is shown here")
        return
    QApplication.clipboard().setText(as_tabbed(heads_of(view), rows))
    tell(f"Copied {counted(len(rows), 'line')}")


def save(view: QAbstractItemView, tell: Tell) -> None:
    """Asks for a file, and writes what is shown as CSV."""
    name = view.accessibleName().lower().replace(" ", "-") or "table"
    start = str(Path.home() / f"{name}.csv")
    chosen, _ = QFileDialog.getSaveFileName(view, "Save the table", start, "Tables (*.csv)")
    if chosen:
        write(view, Path(chosen), tell)


def write(view: QAbstractItemView, path: Path, tell: Tell) -> None:
    """Writes what is shown; what goes wrong is told."""
    try:
        write_atomically(path, as_csv(heads_of(view), rows_of(view)).encode("utf-8"))
    except OSError as error:
        tell(f"{path.name} was not written: {error.strerror}")
    else:
        tell(f"Wrote {path}")

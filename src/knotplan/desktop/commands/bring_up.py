"""What has to do with the bench: opening what it said, practising on a made-up one."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from knotplan.desktop.desk import Desk


def take(desk: Desk, files: list[Path]) -> None:
    """Files from a bench, each to the page of its kind; of source all together."""
    desk.show_view("bringup")
    desk.page("bringup").take_any(files)


def open_files(desk: Desk) -> None:
    """Files that the maker chooses, whatever they are."""
    names, _ = QFileDialog.getOpenFileNames(
        desk.parent, "What the bench or the program says", "", "All files (*)"
    )
    if names:
        take(desk, [Path(name) for name in names])


def practise(desk: Desk) -> None:
    """A made-up bench with hidden faults."""
    desk.show_view("bringup")
    desk.page("bringup").ask_practice()

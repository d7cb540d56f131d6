"""The Help menu."""

from pathlib import Path

from PySide6.QtWidgets import QApplication, QFileDialog

from knotplan import __version__
from knotplan.desktop.commands.command import Command, Menu
from knotplan.desktop.desk import Desk
from knotplan.desktop.dialogs import TextDialog, run
from knotplan.desktop.help import WALK, explanation

ABOUT = (
    f"Version {__version__}, MIT licence\n\nWhich pin, by which of its many names, through what, fed from "
    "where, and will it survive?"
)


def explain(desk: Desk) -> None:
    run(TextDialog(*explanation(QApplication.focusWidget()), desk.parent))


def report_problem(desk: Desk) -> None:
    """Gathers what a report of a problem needs."""
    from knotplan.exchange import log

    folder = QFileDialog.getExistingDirectory(desk.parent, "Folder for the report", str(Path.home()))
    if not folder:
        return
    try:
        files = log.gather(Path(folder), desk.session.plan)
    except OSError as error:
        desk.session.noticed.emit(f"The report was not written: {error.strerror}")
        return
    desk.session.noticed.emit(f"Wrote {files[-1].parent}: {', '.join(p.name for p in files)}")


MENU = Menu(
    "&Help",
    (
        Command("explain", "&Explain this", "F1", "What the thing in focus is for", explain),
        Command(
            "guide",
            "&Guide: the first five minutes",
            "Shift+F1",
            "A sentence at a time, beside the thing it speaks of; again: leaves it",
            lambda desk: desk.guide(),
        ),
        Command(
            "walk",
            "A five-minute &walk",
            "",
            "From an empty window to a wired plan",
            lambda desk: run(TextDialog("A five-minute walk", WALK, desk.parent)),
        ),
        Command(
            "report",
            "&Report a problem …",
            "",
            "Gathers log, plan and versions in a folder of yours; nothing is sent",
            report_problem,
        ),
        Command(
            "about",
            "&About Knot Plan",
            "",
            "Version and licence",
            lambda desk: run(TextDialog("Knot Plan", ABOUT, desk.parent)),
        ),
    ),
)

"""The real window, at work without a pause until somebody kills it: edits,
saves, exports, a board being described.

    python -m tools.torture.victim FOLDER SEED

Each thing done is written into FOLDER/journal with its number and the machine's
clock, before anything else happens.
"""

import os
import random
import sys
import time
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from knotplan.catalog.load import everything
from knotplan.core.draft import board as board_draft
from knotplan.core.plan import edits
from knotplan.desktop.app import application, make_window
from knotplan.desktop.commands import board as board_commands
from knotplan.desktop.settings import Settings
from knotplan.desktop.window import MainWindow
from knotplan.desktop.workshop.workshop import Workshop
from knotplan.exchange.exports import EXPORTS
from knotplan.exchange.exports.export import file_name
from knotplan.exchange.files import write_atomically
from knotplan.exchange.plan_file import load
from knotplan.exchange.recovery import Recovery

PLAN = "plan.knot.json"


class Victim:
    """Works as fast as a hasty maker."""

    def __init__(self, folder: Path, seed: int):
        self.folder, self.r, self.number = folder, random.Random(seed), 0
        self.journal = os.open(folder / "journal", os.O_WRONLY | os.O_CREAT | os.O_APPEND)
        catalog = everything()
        self.path = folder / PLAN
        self.window: MainWindow = make_window(
            load(self.path, catalog),
            self.path,
            Settings(folder / "config"),
            catalog,
            Recovery(folder / "work"),
        )
        self.window.show()
        self.window.complete()
        self.window.session.load_engine(wait=True)
        self.workshop: Workshop | None = None

    def note(self, what: str) -> None:
        self.number += 1
        os.write(self.journal, f"{self.number} {what} {time.monotonic():.6f}\n".encode())

    def step(self) -> None:
        QTimer.singleShot(self.r.choice([0, 5, 20, 60]), self.step)
        self.r.choice([self.edit] * 12 + [self.save, self.export, self.draft, self.draft])()

    def edit(self) -> None:
        """The number of the edit is in the plan, so that what is found later tells how old it is."""
        session = self.window.session
        before = self.number + 1
        session.edit("rename the plan", edits.retitle, f"N{before}")
        if self.r.random() < 0.3 and session.plan.ties:
            session.edit(
                "recolour",
                edits.recolour,
                self.r.choice(session.plan.ties).id,
                self.r.choice(["red", "blue", "green"]),
            )
        self.note("edit")

    def save(self) -> None:
        if self.window.documents.save():
            self.note("saved")

    def export(self) -> None:
        export = self.r.choice(EXPORTS)
        write_atomically(self.folder / file_name("out", export), export.make(self.window.session.report, ""))
        self.note("export")

    def draft(self) -> None:
        """The workshop open beside, as while it runs: each change of the board is kept."""
        if self.workshop is None:
            made = Workshop(
                self.window.session.catalog, board_draft.blank(), self.window.palette_now, self.window
            )
            board_commands.keep_draft(self.window.desk, made)
            made.show()
            self.workshop = made
        number = self.number + 1
        self.workshop.bench.edit(lambda d: replace(d, title=f"B{number}"))
        self.note("draft")


def main() -> None:
    folder, seed = Path(sys.argv[1]), int(sys.argv[2])
    application()
    victim = Victim(folder, seed)
    print("ready", flush=True)
    QTimer.singleShot(0, victim.step)
    QApplication.exec()


if __name__ == "__main__":
    main()

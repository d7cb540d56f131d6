"""`knotplan open`"""

import gc
import os
import time
from pathlib import Path

import click

from knotplan.cli.common import stop


@click.command("open")
@click.argument("plan", required=False, type=click.Path(path_type=Path))
@click.option("--demo", is_flag=True, help="Open the demo plan.")
@click.option(
    "--clock", is_flag=True, hidden=True, help="Print the clock at the first paint, and quit (for the bench)."
)
def command(plan: Path | None, demo: bool, clock: bool) -> None:
    """Open the window, on PLAN if given."""
    # start-up makes a great many lasting objects, and the toolkit's modules most of them: looking through
    # them again and again for garbage would take a third of its time (garbage.settle ends this)
    if not any(os.environ.get(name) for name in ("WAYLAND_DISPLAY", "DISPLAY", "QT_QPA_PLATFORM")):
        stop(
            "knotplan: there is no display to open a window on. Everything else works without one: see "
            "knotplan --help.",
            2,
        )
    gc.disable()
    try:
        from knotplan.desktop.app import run
    except ImportError as error:
        gc.enable()
        stop(
            "knotplan: the window needs PySide6, which is missing or lacks something of the system: "
            f"{error}\nEverything but the window, PDF and PNG works without it.",
            2,
        )

    raise SystemExit(run(plan, demo, (lambda: click.echo(time.monotonic())) if clock else None))

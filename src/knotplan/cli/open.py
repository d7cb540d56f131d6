"""`knotplan open`"""

import gc
import time
from pathlib import Path

import click


@click.command("open")
@click.argument("plan", required=False, type=click.Path(path_type=Path))
@click.option("--demo", is_flag=True, help="Open the demo plan.")
@click.option("--clock", is_flag=True, hidden=True, help="Print the clock at the first paint, and quit (for the bench).")
def command(plan: Path | None, demo: bool, clock: bool) -> None:
    """Open the window, on PLAN if given."""
    # start-up makes a great many lasting objects, and the toolkit's modules most of them: looking through
    # them again and again for garbage would take a third of its time (app.settle_memory ends this)
    gc.disable()
    from knotplan.desktop.app import run

    raise SystemExit(run(plan, demo, (lambda: click.echo(time.monotonic())) if clock else None))

"""`knotplan open`"""

from pathlib import Path

import click


@click.command("open")
@click.argument("plan", required=False, type=click.Path(path_type=Path))
@click.option("--demo", is_flag=True, help="Open the demo plan.")
def open_window(plan: Path | None, demo: bool) -> None:
    """Open the window, on PLAN if given."""
    from knotplan.desktop.app import run

    raise SystemExit(run(plan, demo))

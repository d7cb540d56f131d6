"""`knotplan open`"""

from pathlib import Path

import click

from knotplan.cli.opening import open_window


@click.command("open")
@click.argument("plan", required=False, type=click.Path(path_type=Path))
@click.option("--demo", is_flag=True, help="Open the demo plan.")
@click.option(
    "--clock", is_flag=True, hidden=True, help="Print the clock at the first paint, and quit (for the bench)."
)
def command(plan: Path | None, demo: bool, clock: bool) -> None:
    """Open the window, on PLAN if given."""
    open_window(plan, demo, clock)

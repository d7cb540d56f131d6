"""`knotplan open`"""

from pathlib import Path

import click

from knotplan.cli import manners
from knotplan.cli.opening import open_window
from knotplan.cli.words import PlanFile


@manners.command(
    "open", ("open", "The window, on what was open last."), ("open lamp.knot.json", "The window, on a plan.")
)
@click.argument("plan", required=False, type=PlanFile())
@click.option("--demo", is_flag=True, help="Open the demo plan.")
@click.option(
    "--clock", is_flag=True, hidden=True, help="Print the clock at the first paint, and quit (for the bench)."
)
def command(plan: Path | None, demo: bool, clock: bool) -> None:
    """Open the window, on PLAN if given."""
    open_window(plan, demo, clock)

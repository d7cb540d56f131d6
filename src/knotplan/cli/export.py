"""`knotplan export`"""

from pathlib import Path

import click

from knotplan.cli.common import plan_argument, report_of, stop
from knotplan.exchange.exports import EXPORTS
from knotplan.exchange.exports.export import Export, SchemeError
from knotplan.exchange.files import write_atomically

PAINTED = ("png", "pdf", "chart-pdf", "steps-pdf")
"""kinds that need the interface's painter"""


@click.command("export")
@plan_argument
@click.option(
    "--as",
    "kind",
    required=True,
    type=click.Choice([*(x.id for x in EXPORTS), *PAINTED]),
    help="sheet: HTML to wire from; c, python: pin constants; parts: CSV; svg, png, pdf: pictures; "
    "chart, chart-pdf: the board's pins; steps, steps-pdf: every step with its box.",
)
@click.option(
    "-o", "--output", required=True, type=click.Path(path_type=Path, dir_okay=False), help="File to write."
)
@click.option("--scheme", default="", help="Names to use in the pin constants; the plan's own if not given.")
def command(plan: Path, kind: str, output: Path, scheme: str) -> None:
    """Write one hand-over file of PLAN."""
    report = report_of(plan)
    try:
        data = _export(kind).make(report, scheme)
        write_atomically(output, data)
    except SchemeError as error:
        stop(f"knotplan: {error}", 2)
    except OSError as error:
        stop(f"knotplan: {output}: {error.strerror}", 2)
    click.echo(f"wrote {output}")


def _export(kind: str) -> Export:
    export = next((x for x in EXPORTS if x.id == kind), None)
    if export:
        return export
    try:
        from knotplan.desktop.paper import PAINTED_EXPORTS, offscreen
    except ImportError as error:
        stop(
            f"knotplan: {kind} is painted by PySide6, which is missing or lacks something of the system: "
            f"{error}",
            2,
        )

    offscreen()
    return next(x for x in PAINTED_EXPORTS if x.id == kind)

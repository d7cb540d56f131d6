"""`knotplan export`"""

from pathlib import Path

import click

from knotplan.cli import manners
from knotplan.cli.common import plan_argument, report_of
from knotplan.cli.manners import stop
from knotplan.cli.streams import InFile, output_option, write
from knotplan.cli.words import SCHEME
from knotplan.exchange.exports import EXPORTS
from knotplan.exchange.exports.export import CannotExportError, Export

PAINTED = {
    "pdf": "Wiring sheet (PDF)",
    "steps-pdf": "Step sheet (PDF)",
    "chart-pdf": "Board chart (PDF)",
    "png": "Picture (PNG)",
}
"""kinds that need the interface's painter, which is not asked for their titles"""


@manners.command(
    "export",
    ("export lamp.knot.json --as c -o lamp_pins.h", "Constants for a program in C."),
    ("export lamp.knot.json --as parts -o -", "The parts list on standard output."),
    ("export lamp.knot.json --as sheet -o sheet.html", "The sheet to wire from."),
    ("export lamp.knot.json --template pins.rs.j2 -o pins.rs", "Constants by a template of your own."),
    listing=[*((x.id, x.title) for x in EXPORTS), *PAINTED.items()],
)
@plan_argument
@click.option(
    "--as",
    "kind",
    metavar="KIND",
    type=manners.OneOf([*(x.id for x in EXPORTS), *PAINTED]),
    help="What to write, see below.",
)
@click.option(
    "--template",
    type=InFile(),
    help="Constants by your own template (Jinja2, sandboxed), instead of a kind.",
)
@output_option("File to write", required=True)
@click.option(
    "--scheme",
    default="",
    type=SCHEME,
    help="Names to use in the pin constants; the plan's own if not given.",
)
def command(plan: Path, kind: str | None, template: Path | None, output: Path, scheme: str) -> None:
    """Write one hand-over file of PLAN."""
    if (kind is None) == (template is None):
        raise click.UsageError("Say what to write: --as KIND, or --template FILE.")
    report = report_of(plan)
    try:
        data = (_by(template) if template is not None else _export(kind or "")).make(report, scheme)
    except CannotExportError as error:
        stop(f"knotplan: {error}", 2)
    write(output, data)


def _by(template: Path) -> Export:
    from knotplan.exchange.exports.own_template import export_by

    return export_by(template)


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

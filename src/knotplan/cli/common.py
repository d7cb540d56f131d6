"""What several commands do alike."""

import json
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn

import click

from knotplan.catalog.load import everything
from knotplan.core.check.report import Report
from knotplan.core.plan.document import Plan
from knotplan.exchange.plan_file import PlanFileError, load

if TYPE_CHECKING:
    from knotplan.core.check.analysis import AnalysisCache

plan_argument = click.argument("plan", type=click.Path(path_type=Path))
format_option = click.option(
    "--format",
    "form",
    type=click.Choice(["text", "json"]),
    default="text",
    show_default=True,
    help="For people, or for programs.",
)


def stop(message: str, code: int) -> NoReturn:
    """Ends the command with a message on standard error."""
    click.echo(message, err=True)
    raise SystemExit(code)


class UnreadableError(Exception):
    """A plan file that cannot be read, and why."""


def report_of(path: Path) -> Report:
    """The report of a plan file; ends the command with 2 when it cannot be read."""
    try:
        return read_report(path)
    except UnreadableError as error:
        stop(str(error), 2)


def read_report(path: Path, kept: "AnalysisCache | None" = None) -> Report:
    """The report of a plan file; raises UnreadableError. `kept` is of a plan that was read before: one that
    lies near it is followed as an edit is."""
    from knotplan.exchange import log

    log.begin()
    # brings the numeric engine, which a question about names needs not
    from knotplan.core.check.analysis import analyse

    plan = read_plan(path)
    if kept is not None and not kept.near(plan):
        kept.forget()
    return analyse(plan, everything(), kept=kept)


def plan_of(path: Path) -> Plan:
    """The plan in a file; ends the command with 2 when it cannot be read."""
    try:
        return read_plan(path)
    except UnreadableError as error:
        stop(str(error), 2)


def read_plan(path: Path) -> Plan:
    """The plan in a file; raises UnreadableError."""
    try:
        return load(path, everything())
    except PlanFileError as error:
        raise UnreadableError(f"knotplan: {error}") from None
    except OSError as error:
        raise UnreadableError(f"knotplan: {path}: {error.strerror}") from None


def print_table(rows: list[list[str]]) -> None:
    """Rows of cells, the columns as wide as they need."""
    widths = [max(map(len, column)) for column in zip(*rows, strict=True)]
    for row in rows:
        click.echo("  ".join(f"{cell:{w}}" for cell, w in zip(row, widths, strict=True)).rstrip())


def print_json(tree: Any) -> None:
    click.echo(json.dumps(tree, indent=2, ensure_ascii=False))

"""`knotplan check`"""

from pathlib import Path

import click

from knotplan.cli.common import format_option, plan_argument, print_json, report_of
from knotplan.core.check.finding import SAID, Finding, Severity
from knotplan.core.check.remedy_search import within_budget
from knotplan.core.check.report import Report
from knotplan.core.plan.remedy import Remedy
from knotplan.core.quantity.written import show
from knotplan.exchange.report_json import as_tree

COLOURS: dict[Severity, str] = {"stop": "red", "care": "yellow", "to-do": "cyan", "note": "blue"}


@click.command("check")
@plan_argument
@format_option
@click.option("--complete", is_flag=True, help="What is still to do counts as a stop, as before power.")
def command(plan: Path, form: str, complete: bool) -> None:
    """Findings and budgets of PLAN.

    Exit status: 0 nothing at stop, 1 something at stop, 2 the plan cannot be read.
    """
    report = report_of(plan)
    if form == "json":
        print_json(as_tree(report))
    else:
        _print(report)
    counted = ("stop", "to-do") if complete else ("stop",)
    raise SystemExit(1 if any(map(report.count, counted)) else 0)


def _print(report: Report) -> None:
    left = 0
    for f, remedies in within_budget(report.findings):
        left += remedies is None
        _print_finding(f, remedies)
    if left:
        click.echo(
            f"The remedies of {left} findings were not searched for: these are too many at once. Mend some "
            "first."
        )
    for f in report.accepted:
        click.echo(f"accepted  {f.title}: {f.message}\n          because: {f.accepted}")
    click.echo(f"{'':28}{'usually':>10}{'at worst':>10}{'limit':>10}")
    for b in report.budgets:
        over = click.style("  over", fg="red") if b.worst_a > b.limit_a else ""
        click.echo(
            f"{b.title:28}{show(b.usual_a, 'A'):>10}{show(b.worst_a, 'A'):>10}"
            f"{show(b.limit_a, 'A'):>10}{over}"
        )
    click.echo(report.counted)


def _print_finding(f: Finding, remedies: tuple[Remedy, ...] | None) -> None:
    click.echo(
        f"{click.style(f'{SAID[f.severity]:8}', fg=COLOURS[f.severity], bold=True)}  {f.title}: {f.message}"
    )
    click.echo(f"          {f.reason} [{f.rule}]")
    if f.with_it:
        click.echo(f"          {f.with_it_words}")
    for r in remedies or ():
        click.echo(f"          remedy: {r.title}")
    if remedies is None:
        click.echo("          remedy: not searched for")

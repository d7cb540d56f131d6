"""`knotplan check`"""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

import click

from knotplan.cli.common import UnreadableError, format_option, print_json, read_report, stop
from knotplan.core.check.analysis import AnalysisCache
from knotplan.core.check.finding import SAID, Finding, Severity
from knotplan.core.check.remedy_search import within_budget
from knotplan.core.check.report import Report
from knotplan.core.plan.remedy import Remedy
from knotplan.core.quantity.written import show
from knotplan.exchange.report_json import as_tree

COLOURS: dict[Severity, str] = {"stop": "red", "care": "yellow", "to-do": "cyan", "note": "blue"}
FEW = 8
"""so many plans are checked sooner one after another than in processes that have to begin first"""


@click.command("check")
@click.argument("plans", metavar="PLAN...", nargs=-1, required=True, type=click.Path(path_type=Path))
@format_option
@click.option("--complete", is_flag=True, help="What is still to do counts as a stop, as before power.")
@click.option(
    "--jobs",
    type=click.IntRange(min=1),
    help="So many plans at a time; without it as many as there are processors.",
)
def command(plans: tuple[Path, ...], form: str, complete: bool, jobs: int | None) -> None:
    """Findings and budgets of plans.

    Exit status: 0 nothing at stop, 1 something at stop, 2 a plan cannot be read.
    """
    counted = ("stop", "to-do") if complete else ("stop",)
    asked = [(path, form, counted) for path in plans]
    if len(plans) == 1:
        code, said = _checked(*asked[0])
        if code == 2:
            stop(str(said), 2)
        click.echo(said) if form == "text" else print_json(said)
        raise SystemExit(code)
    _last.cache_clear()  # of another call in this process, with another catalogue perhaps
    trees, worst = [], 0
    with _workers(jobs or os.cpu_count() or 1, len(plans)) as each:
        for path, (code, said) in zip(plans, each(_packed, asked), strict=True):
            worst = max(worst, code)
            if form == "json":
                trees.append({"file": str(path), "error": said} if code == 2 else {"file": str(path), **said})
            elif code == 2:
                click.echo(said, err=True)
            else:
                click.echo(f"{click.style(str(path), bold=True)}\n{said}\n")
    if form == "json":
        print_json({"plans": trees})
    raise SystemExit(worst)


@contextmanager
def _workers(jobs: int, count: int) -> Iterator[Any]:
    """A `map` over processes where that is worth while; its results come in their order."""
    if jobs == 1 or count < FEW:
        yield map
        return
    from concurrent.futures import ProcessPoolExecutor
    from multiprocessing import get_context

    # forked: what is imported here need not be imported there
    with ProcessPoolExecutor(min(jobs, count), get_context("fork")) as pool:
        yield lambda do, asked: pool.map(do, asked, chunksize=max(1, min(16, count // (4 * jobs))))


@cache
def _last() -> AnalysisCache:
    """What this process knows of the plan that it checked last."""
    return AnalysisCache()


def _packed(asked: tuple[Path, str, tuple[str, ...]]) -> tuple[int, Any]:
    return _checked(*asked, _last())


def _checked(
    path: Path, form: str, counted: tuple[str, ...], kept: AnalysisCache | None = None
) -> tuple[int, Any]:
    """(exit status, what is to be said): text, or the tree of a report."""
    try:
        report = read_report(path, kept)
    except UnreadableError as error:
        return 2, str(error)
    code = 1 if any(map(report.count, counted)) else 0
    return code, as_tree(report) if form == "json" else "\n".join(_lines(report))


def _lines(report: Report) -> Iterator[str]:
    left = 0
    for f, remedies in within_budget(report.findings):
        left += remedies is None
        yield from _about(f, remedies)
    if left:
        yield (
            f"The remedies of {left} findings were not searched for: these are too many at once. Mend some "
            "first."
        )
    for f in report.accepted:
        yield f"accepted  {f.title}: {f.message}\n          because: {f.accepted}"
    yield f"{'':28}{'usually':>10}{'at worst':>10}{'limit':>10}"
    for b in report.budgets:
        over = click.style("  over", fg="red") if b.worst_a > b.limit_a else ""
        yield (
            f"{b.title:28}{show(b.usual_a, 'A'):>10}{show(b.worst_a, 'A'):>10}"
            f"{show(b.limit_a, 'A'):>10}{over}"
        )
    yield report.counted


def _about(f: Finding, remedies: tuple[Remedy, ...] | None) -> Iterator[str]:
    severity = click.style(f"{SAID[f.severity]:8}", fg=COLOURS[f.severity], bold=True)
    yield f"{severity}  {f.title}: {f.message}"
    yield f"          {f.reason} [{f.rule}]"
    if f.with_it:
        yield f"          {f.with_it_words}"
    for r in remedies or ():
        yield f"          remedy: {r.title}"
    if remedies is None:
        yield "          remedy: not searched for"

"""What several commands do alike."""

import json
import logging
import time
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click
import msgspec

from knotplan.catalog.load import everything
from knotplan.cli import manners
from knotplan.cli.manners import stop
from knotplan.cli.streams import shown
from knotplan.cli.words import PlanFile
from knotplan.core.check.report import Report
from knotplan.core.plan.document import Plan
from knotplan.exchange.plan_file import PlanFileError, load

if TYPE_CHECKING:
    from knotplan.core.check.analysis import AnalysisCache

log = logging.getLogger("knotplan.cli")
plan_argument = click.argument("plan", type=PlanFile())
format_option = click.option(
    "--format",
    "form",
    type=manners.OneOf(["text", "json"]),
    default="text",
    show_default=True,
    help="For people, or for programs.",
)


class UnreadableError(Exception):
    """A plan file that cannot be read, and why; `wrong` are (place, words) of what makes it no plan."""

    def __init__(self, said: str, wrong: tuple[tuple[str, str], ...] = ()):
        super().__init__(f"knotplan: {said}")
        self.said, self.wrong = said, wrong


def report_of(path: Path) -> Report:
    """The report of a plan file; ends the command with 2 when it cannot be read."""
    try:
        return read_report(path)
    except UnreadableError as error:
        stop(str(error), 2)


def read_report(path: Path, kept: "AnalysisCache | None" = None) -> Report:
    """The report of a plan file; raises UnreadableError. `kept` is of a plan that was read before: one that
    lies near it is followed as an edit is."""
    from knotplan.exchange.log import begin

    begin()
    # brings the numeric engine, which a question about names needs not
    from knotplan.core.check.analysis import analyse

    plan = read_plan(path)
    begun = time.perf_counter()
    if kept is not None and not kept.near(plan):
        kept.forget()
    report = analyse(plan, everything(), kept=kept)
    log.info("%s: worked out in %.0f ms", shown(path), 1e3 * (time.perf_counter() - begun))
    return report


def plan_of(path: Path) -> Plan:
    """The plan in a file; ends the command with 2 when it cannot be read."""
    try:
        return read_plan(path)
    except UnreadableError as error:
        stop(str(error), 2)


def read_plan(path: Path) -> Plan:
    """The plan in a file; raises UnreadableError."""
    begun = time.perf_counter()
    try:
        plan = load(path, everything())
    except PlanFileError as error:
        raise UnreadableError(str(error), error.errors) from None
    except OSError as error:
        raise UnreadableError(f"{shown(path)}: {error.strerror}") from None
    log.info("%s: read in %.0f ms", shown(path), 1e3 * (time.perf_counter() - begun))
    return plan


def json_text(answer: Any) -> str:
    """An answer for programs: a struct whose schema is published, or a list of such."""
    return json.dumps(msgspec.to_builtins(answer), indent=2, ensure_ascii=False)


def print_json(answer: Any) -> None:
    click.echo(json_text(answer))

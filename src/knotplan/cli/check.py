"""`knotplan check`"""

import sys
from collections.abc import Iterable, Iterator, Sequence
from contextlib import AbstractContextManager, nullcontext
from pathlib import Path

import click

from knotplan.cli import manners
from knotplan.cli.check_forms import FORMS, Form, Piece
from knotplan.cli.manners import stop
from knotplan.cli.many import each, plans_in
from knotplan.cli.streams import STANDARD_OUTPUT, output_option, write
from knotplan.cli.words import PlanFile


@manners.command(
    "check",
    ("check lamp.knot.json", "One plan: findings, remedies, budgets."),
    ("check plans/ --complete", "Every plan in a folder, before power: what is to do counts as a stop."),
    ("check plans/ --format sarif -o knotplan.sarif", "For a code host, with lines of the plan files."),
    ("check -q *.knot.json", "Only what is at stop, for a hook before a commit."),
)
@click.argument("plans", metavar="PLAN...", nargs=-1, required=True, type=PlanFile())
@click.option(
    "--format",
    "form",
    type=manners.OneOf(list(FORMS)),
    default="text",
    show_default=True,
    help="For people; for programs; for code hosts and editors (SARIF 2.1.0); for build servers (JUnit XML).",
)
@output_option("File to write; standard output if not given")
@click.option("--complete", is_flag=True, help="What is still to do counts as a stop, as before power.")
@click.option(
    "--jobs",
    type=click.IntRange(min=1),
    help="So many plans at a time; without it as many as there are processors.",
)
def command(
    plans: tuple[Path, ...], form: str, output: Path | None, complete: bool, jobs: int | None
) -> None:
    """Findings and budgets of plans: files, or folders with all plans in them.

    Exit status: 0 nothing at stop, 1 something at stop, 2 a plan cannot be read.
    """
    paths, wrong = _expanded(plans)
    if wrong:
        stop("\n".join(wrong), 2)
    output = None if output == STANDARD_OUTPUT else output
    single = len(plans) == len(paths) == 1 and paths[0] == plans[0]
    chosen = FORMS[form](
        complete=complete, single=single, quiet=manners.quiet(), loud=manners.loud(), streamed=output is None
    )
    worst = _checked(chosen, paths, jobs, output)
    raise SystemExit(worst)


def _expanded(given: Sequence[Path]) -> tuple[list[Path], list[str]]:
    """The files, a folder being those in it; and what is wrong with folders."""
    paths, wrong = [], []
    for path in given:
        if not path.is_dir():
            paths.append(path)
        elif found := plans_in(path):
            paths += found
        else:
            wrong.append(f"knotplan: {path}: there is no plan (*.knot.json) in this folder")
    return paths, wrong


def _checked(form: Form, paths: Sequence[Path], jobs: int | None, output: Path | None) -> int:
    """Checks all, says what there is to say, and returns the gravest exit status."""
    pieces: list[Piece] = []
    with each(form.one, paths, jobs) as results, _progress(form, results, len(paths)) as shown:
        for piece in shown:
            pieces.append(piece)
            if piece.error:
                click.echo(f"knotplan: {piece.error}", err=True)
            if form.streams:
                click.echo(piece.said, nl=False)
    whole = form.whole(pieces)
    if form.streams:
        click.echo(whole, nl=False)
    else:
        coloured = click.get_current_context().color is True
        text = whole if coloured else click.unstyle(whole)
        write(output or STANDARD_OUTPUT, text.encode("utf-8", "backslashreplace"))
    return max(p.status for p in pieces)


def _progress(form: Form, results: Iterator[Piece], count: int) -> AbstractContextManager[Iterable[Piece]]:
    """A bar on the terminal while nothing else is written there."""
    if count < 2 or manners.quiet() or form.streams or not sys.stderr.isatty():
        return nullcontext(results)
    return click.progressbar(results, length=count, label="checking plans", file=sys.stderr)

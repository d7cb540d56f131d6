"""`knotplan measure`"""

from collections.abc import Collection, Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import click

from knotplan.catalog.load import everything
from knotplan.cli import manners
from knotplan.cli.common import format_option, plan_argument, plan_of, print_json
from knotplan.cli.manners import stop
from knotplan.cli.words import PLACED

if TYPE_CHECKING:
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.meter.points import Point
    from knotplan.core.meter.ranking import Answer
    from knotplan.core.meter.table import Table
    from knotplan.core.plan.wired import Reading

MOST_SHOWN = 8


@manners.command(
    "measure",
    ("measure lamp.knot.json", "What to measure, and what the meter should read."),
    (
        "measure lamp.knot.json --not-working lamp --at ohms:lamp.anode:L22=open",
        "Which single faults agree with a reading, and what to measure next.",
    ),
)
@plan_argument
@format_option
@click.option(
    "--at",
    "readings",
    multiple=True,
    metavar="POINT=VALUE",
    help="What the meter shows at a point: a number, or ok, no, open.",
)
@click.option(
    "--not-working",
    "parts",
    multiple=True,
    metavar="PART",
    type=PLACED,
    help="A part that does not do as it should.",
)
@click.option("--all", "whole", is_flag=True, help="Every point, not only those that are worth it.")
def command(plan: Path, form: str, readings: tuple[str, ...], parts: tuple[str, ...], whole: bool) -> None:
    """What a meter should read on the bench; with readings, which single faults agree and what to measure
    next."""
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.meter.checks import checks
    from knotplan.core.meter.table import Meter
    from knotplan.exchange.answers import measure as answers

    c = Circuit(plan_of(plan), everything())
    meter = Meter(c)
    table = meter.table() if whole or readings or parts else meter.unasked()
    if not table.whole:
        left = (
            "knotplan: only what is read between the supplies; --all works out everything, which takes long"
        )
        click.echo(left, err=True)
    if readings or parts:
        _answer(c, table, readings, parts, form)
        return
    wanted = [] if whole else checks(table)
    points = list(table.points) if whole else [check.point for check in wanted]
    found = {check.point: len(check.finds) for check in wanted}
    needed = {check.point for check in wanted if check.needed}
    if form == "json":
        print_json(answers.points(c, table, points, found, needed))
    else:
        _print(c, table, points, needed)


def _print(c: "Circuit", table: "Table", points: "Iterable[Point]", needed: "Collection[Point]") -> None:
    from knotplan.core.meter.points import told
    from knotplan.core.meter.told import reads

    heads: dict[str, None] = {}
    for p in points:
        head = _head(c, p, p in needed)
        if head not in heads:
            heads[head] = None
            click.echo(head)
        click.echo(f"  {p.id}")
        click.echo(f"    {told(c, p)}: {reads(p, table.planned[p])}")


def _head(c: "Circuit", point: "Point", needed: bool) -> str:
    if point.range == "volts":
        return f"With {c.titles.part(point.stage)} on: volts to ground"
    if needed:
        return "Before anything is switched on: between the supplies"
    return "Before anything is switched on"


def _answer(c: "Circuit", table: "Table", readings: Sequence[str], parts: Sequence[str], form: str) -> None:
    from knotplan.core.meter.ranking import Ranking

    taken, wrong = _taken(c, table, readings)
    ids = {p.name.lower(): p.id for p in c.plan.parts} | {p.id: p.id for p in c.plan.parts}
    unknown = [p for p in parts if p.lower() not in ids]
    if unknown:
        from knotplan.catalog.board.check import hint

        wrong += [f"there is no part {p!r} in the plan{hint(p, ids)}" for p in unknown]
    if wrong:
        stop("\n".join(f"knotplan: {w}" for w in wrong), 2)
    answer = Ranking(table).answer(taken, [ids[p.lower()] for p in parts])
    if form == "json":
        from knotplan.exchange.answers import measure as answers

        print_json(answers.answer(c, table, answer))
    else:
        _print_answer(c, answer, measured=bool(taken))


def _taken(c: "Circuit", table: "Table", readings: Sequence[str]) -> "tuple[list[Reading], list[str]]":
    """The readings, and what is wrong with the others."""
    from knotplan.core.meter.told import ReadingError, point_of, typed

    taken, wrong = [], []
    for text in readings:
        where, equals, value = text.rpartition("=")
        try:
            if not equals:
                raise ReadingError(f"{text!r} is no POINT=VALUE, such as ohms:lamp.anode:L22=180")
            point = point_of(c, table.points, where)
            taken.append(typed(point, value, table.planned[point]))
        except ReadingError as error:
            wrong.append(str(error))
    return taken, wrong


def _print_answer(c: "Circuit", answer: "Answer", *, measured: bool) -> None:
    from knotplan.core.meter.points import told
    from knotplan.core.meter.told import reads

    if answer.nothing_explains:
        click.echo("Nothing single explains this: look for two faults, or measure again.")
    elif measured and answer.as_planned:
        click.echo("All of this reads as planned.")
    for r in answer.ranked[:MOST_SHOWN]:
        titles = "; or ".join(f.title for f in r.faults)
        click.echo(f"{r.share:5.0%}  {titles}")
    if len(answer.ranked) > MOST_SHOWN:
        click.echo(f"       and {len(answer.ranked) - MOST_SHOWN} more that agree")
    if answer.next is not None:
        point = answer.next.point
        click.echo(f"Measure next: {point.id}")
        where = f"{_head(c, point, False)}: {told(c, point)}"
        click.echo(f"  {where}; as planned {reads(point, answer.next.expected)}")

"""`knotplan timing`"""

from pathlib import Path
from typing import Any

import click

from knotplan.cli import manners
from knotplan.cli.columns import print_table
from knotplan.cli.common import format_option, plan_argument, print_json, report_of
from knotplan.cli.manners import stop
from knotplan.cli.streams import output_option, write
from knotplan.cli.words import PLACED
from knotplan.core.plan.document import MOST_S
from knotplan.core.quantity.written import QuantityError, parse, show
from knotplan.core.text.timing import describe
from knotplan.core.timing.lanes import lanes
from knotplan.exchange.answers import timing as answers
from knotplan.exchange.vcd import DumpError, dump


class Seconds(click.ParamType[float]):
    """A time with or without SI prefix and unit: 0.1, 100m, 20 ms."""

    name = "time"

    def __init__(self, least: float):
        self.least = least

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> float:
        try:
            seconds = value if isinstance(value, float) else parse(str(value), "s")
        except QuantityError as error:
            self.fail(str(error), param, ctx)
        if not self.least <= seconds <= MOST_S:
            self.fail(f"{value} is not between {show(self.least, 's')} and a year", param, ctx)
        return seconds


@manners.command(
    "timing",
    ("timing lamp.knot.json", "A line for each lane."),
    ("timing lamp.knot.json --part lens", "One part, with the tables for its program."),
    ("timing lamp.knot.json --dump waves.vcd --for 20ms", "The waves, for a viewer of value change dumps."),
)
@plan_argument
@format_option
@click.option("--part", "part_id", type=PLACED, help="What there is to say of one part, with its tables.")
@output_option("Write the waves as a value change dump", names=("--dump",))
@click.option(
    "--from", "start_s", type=Seconds(0.0), default=0.0, show_default=True, help="Where the dump begins, s."
)
@click.option(
    "--for", "span_s", type=Seconds(1e-9), default=0.1, show_default=True, help="How much of it, s."
)
def command(
    plan: Path, form: str, part_id: str | None, output: Path | None, start_s: float, span_s: float
) -> None:
    """What each pin does, and when: pulses, steps, frames; tables for the program; waves as a dump."""
    report = report_of(plan)
    c = report.circuit
    all_lanes = lanes(c)
    if part_id is not None:
        if part_id not in c.placed:
            stop(f"knotplan: {part_id!r} is no part of this plan; it has {', '.join(c.placed)}", 2)
        description = describe(report, part_id)
        if form == "json":
            print_json(answers.of_part(part_id, description))
            return
        for text, _ in description.lines:
            click.echo(text)
        for table in description.tables:
            click.echo(f"\n{table.title}")
            print_table([list(table.heads), *map(list, table.rows)])
    elif output is not None:
        try:
            data = dump(all_lanes, start_s, start_s + span_s, c.plan.title)
        except DumpError as error:
            stop(f"knotplan: {output}: {error}", 2)
        write(output, data, f"{len(all_lanes)} lanes, {show(span_s, 's')}")
    elif form == "json":
        print_json(answers.answer(all_lanes))
    else:
        print_table([["lane", "where", "does"], *([x.title, x.where, x.about] for x in all_lanes)])

"""`knotplan timing`"""

from pathlib import Path
from typing import Any

import click

from knotplan.cli.common import format_option, plan_argument, print_json, print_table, report_of, stop
from knotplan.core.plan.document import MOST_S
from knotplan.core.quantity.written import QuantityError, parse, show
from knotplan.core.text.timing import describe
from knotplan.core.timing.lanes import lanes
from knotplan.exchange.files import write_atomically
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


@click.command("timing")
@plan_argument
@format_option
@click.option("--part", "part_id", help="What there is to say of one part, with its tables.")
@click.option(
    "--dump", "path", type=click.Path(path_type=Path), help="Write the waves as a value change dump."
)
@click.option(
    "--from", "start_s", type=Seconds(0.0), default=0.0, show_default=True, help="Where the dump begins, s."
)
@click.option(
    "--for", "span_s", type=Seconds(1e-9), default=0.1, show_default=True, help="How much of it, s."
)
def command(
    plan: Path, form: str, part_id: str | None, path: Path | None, start_s: float, span_s: float
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
            print_json(
                {
                    "part": part_id,
                    "lines": [text for text, _ in description.lines],
                    "tables": [
                        {"title": t.title, "heads": t.heads, "rows": t.rows} for t in description.tables
                    ],
                }
            )
            return
        for text, _ in description.lines:
            click.echo(text)
        for table in description.tables:
            click.echo(f"\n{table.title}")
            print_table([list(table.heads), *map(list, table.rows)])
    elif path is not None:
        try:
            write_atomically(path, dump(all_lanes, start_s, start_s + span_s, c.plan.title))
        except (DumpError, OSError) as error:
            stop(f"knotplan: {path}: {error}", 2)
        click.echo(f"Wrote {path}: {len(all_lanes)} lanes, {show(span_s, 's')}.")
    elif form == "json":
        print_json(
            [
                {
                    "id": x.id,
                    "part": x.part,
                    "title": x.title,
                    "where": x.where,
                    "kind": x.kind,
                    "about": x.about,
                    "period_s": x.wave.period_s,
                }
                for x in all_lanes
            ]
        )
    else:
        print_table([["lane", "where", "does"], *([x.title, x.where, x.about] for x in all_lanes)])

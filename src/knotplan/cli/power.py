"""`knotplan power`"""

from pathlib import Path

import click

from knotplan.cli import manners
from knotplan.cli.columns import print_table
from knotplan.cli.common import format_option, plan_argument, print_json, report_of
from knotplan.core.power.battery import life
from knotplan.core.power.node import Node
from knotplan.core.quantity.written import show
from knotplan.exchange.answers.power import answer

HEADS = ["what", "arrives", "usually", "worst", "all peaks", "limit", "heat"]


@manners.command(
    "power",
    ("power lamp.knot.json", "What hangs on what, and what arrives there."),
    ("power lamp.knot.json --format json", "The same tree for a program, in amperes, volts and watts."),
)
@plan_argument
@format_option
def command(plan: Path, form: str) -> None:
    """The tree of supplies: what hangs on what, usual and worst currents, what
    arrives, and how long a battery lasts."""
    report = report_of(plan)
    if form == "json":
        print_json(answer(report))
        return
    rows = [HEADS]
    for root in report.power:
        rows += _rows(root, 0)
    print_table(rows)
    for root in report.power:
        lasting = life(report.circuit, root)
        lasts = (
            f"; the battery lasts {lasting.hours:.3g} h, {lasting.hours_flat_out:.3g} h with everything on"
            if lasting.hours and lasting.hours_flat_out
            else ""
        )
        click.echo(
            f"{root.title}: on average {show(lasting.average_a, 'A')}, {show(lasting.average_w, 'W')}{lasts}"
        )


def _rows(node: Node, depth: int) -> list[list[str]]:
    least = f", least {node.least_v:.3g} V" if abs(node.volts - node.least_v) >= 5e-3 else ""
    arrives = f"{node.volts:.3g} V{least}"
    row = [
        "  " * depth + node.title,
        arrives,
        show(node.total.usual_a, "A"),
        show(node.total.worst_a, "A"),
        show(node.total.peaks_a, "A"),
        show(node.limit_a, "A") if node.limit_a is not None else "",
        show(node.heat_w, "W", 2) if node.heat_w >= 5e-3 else "",
    ]
    return [row, *(r for child in node.children for r in _rows(child, depth + 1))]

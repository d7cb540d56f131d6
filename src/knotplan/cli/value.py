"""`knotplan value`: one command for each finder, made from its inputs."""

from functools import partial
from typing import Any

import click

from knotplan.cli import manners
from knotplan.cli.common import format_option, print_json
from knotplan.core.finders import FINDERS
from knotplan.core.finders.finder import Finder, FinderError, Input
from knotplan.core.finders.words import lines
from knotplan.core.quantity.written import QuantityError, parse, show
from knotplan.exchange.answers.value import answer as for_programs


class Quantity(click.ParamType[float]):
    """A number with or without SI prefix and unit: 12m, 0.012, 4K7."""

    name = "quantity"

    def __init__(self, asked: Input):
        self.asked = asked

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> float:
        if isinstance(value, float):
            return value
        try:
            return parse(str(value), self.asked.unit)
        except QuantityError as error:
            self.fail(str(error), param, ctx)


def _option(asked: Input) -> click.Option:
    kind: click.ParamType[Any] = manners.OneOf(asked.choices) if asked.choices else Quantity(asked)
    shown = asked.default if isinstance(asked.default, str) else show(asked.default or 0.0, asked.unit)
    known = asked.default is not None
    return click.Option(
        [f"--{asked.name.replace('_', '-')}", asked.name],
        type=kind,
        default=asked.default,
        required=not known,
        help=asked.help,
        show_default=shown if known else False,
    )


def _run(finder: Finder, form: str, **given: float | str) -> None:
    try:
        answer = finder(given)
    except FinderError as error:
        raise click.UsageError(str(error)) from None
    if form == "json":
        print_json(for_programs(finder, answer, given))
    else:
        click.echo("\n".join(lines(answer)))


USUAL = {
    "supply": "5",
    "forward": "2",
    "current": "10m",
    "load": "100m",
    "volts": "5",
    "least": "1k",
    "most": "100k",
    "ohm": "69",
    "length": "2",
}
"""what examples give for inputs without a usual value"""


def _example(finder: Finder) -> manners.Example:
    given = [f"--{i.name.replace('_', '-')} {USUAL[i.name]}" for i in finder.inputs if i.default is None]
    return " ".join(["value", finder.id, *given]), "With what has no usual value; all else as usual."


def _command(finder: Finder) -> click.Command:
    subcommand = manners.Command(
        finder.id,
        callback=partial(_run, finder),
        params=[_option(i) for i in finder.inputs],
        help=finder.question,
        short_help=finder.question,
        examples=[_example(finder)],
    )
    return format_option(subcommand)


@click.group(
    "value",
    cls=manners.Group,
    examples=[("value led --supply 3.3 --forward 2 --current 5m", "The resistor of an LED, from E12.")],
)
def command() -> None:
    """Find a component value, with its neighbours in the series and how it is computed.

    Numbers take SI prefixes, units and the letter code: 12m, 4K7, 100n, 5 %.
    """


for _finder in FINDERS:
    command.add_command(_command(_finder))

"""`knotplan value`"""

from typing import Any

import click
import msgspec

from knotplan.catalog.quantities import Range
from knotplan.cli.common import format_option, print_json
from knotplan.core.led import from_forward
from knotplan.core.quantity import QuantityError, code, parse, show
from knotplan.core.series import SERIES, TOLERANCE, bands_words


class Quantity(click.ParamType[float]):
    """A positive number with or without SI prefix and unit: 12m, 0.012, 4K7."""

    name = "quantity"

    def __init__(self, unit: str, zero: bool = False):
        self.unit, self.zero = unit, zero

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> float:
        if isinstance(value, float):
            return value
        try:
            number = parse(str(value), self.unit)
        except QuantityError as error:
            self.fail(str(error), param, ctx)
        if number < 0 or (number == 0 and not self.zero):
            self.fail(f"{value} {self.unit} has to be above zero", param, ctx)
        return number


@click.group("value")
def command() -> None:
    """Find a component value."""


@command.command()
@click.option("--supply", type=Quantity("V"), required=True, help="Voltage of the supply or the pin when high.")
@click.option("--forward", type=Quantity("V"), required=True, help="Forward voltage of the LED.")
@click.option("--current", type=Quantity("A"), required=True, help="Wished current, e.g. 5m.")
@click.option("--series", type=click.Choice(list(SERIES)), default="E12", show_default=True, help="Preferred values.")
@click.option("--source-ohm", type=Quantity("Ω", zero=True), default=0.0, show_default=True,
              help="Resistance of the pin or supply.")  # fmt: skip
@click.option("--supply-tolerance", type=click.FloatRange(0, 0.5), default=0.05, show_default=True,
              help="Relative, both ways.")  # fmt: skip
@click.option("--forward-spread", type=Quantity("V", zero=True), default=0.1, show_default=True,
              help="Volts, both ways.")  # fmt: skip
@format_option
def led(supply: float, forward: float, current: float, series: str, source_ohm: float, supply_tolerance: float,
        forward_spread: float, form: str) -> None:  # fmt: skip
    """The resistor of an LED: the next preferred value at or above the one for the wished current."""
    volts = Range.around(supply, supply_tolerance)
    try:
        drop = Range(max(0.0, forward - forward_spread), forward, forward + forward_spread)
        found, working = from_forward(volts, drop, current, series, Range.exactly(source_ohm))
    except ValueError as error:
        raise click.UsageError(str(error)) from None
    if form == "json":
        print_json({
            "resistor_ohm": found.ohm,
            "current_a": {"min": found.current.min, "typical": found.current.typical, "max": found.current.max},
            "power_w": found.power_w, "exact_ohm": working.results[0].value, "series": series,
            "inputs": {"supply_v": list(msgspec.to_builtins(volts)), "forward_v": list(msgspec.to_builtins(drop)),
                       "current_a": current, "source_ohm": source_ohm, "tolerance": TOLERANCE[series]},
            "formula": working.formula, "source": working.source,
        })  # fmt: skip
        return
    exact = working.results[0].value
    mark = f"{code(found.ohm)}, {bands_words(found.ohm, TOLERANCE[series])}"
    click.echo(f"{show(found.ohm, 'Ω')}  ({mark}; exactly {show(exact, 'Ω')})")
    now = found.current
    click.echo(f"current  {show(now.min, 'A')} at the least, {show(now.typical, 'A')} typically, "
               f"{show(now.max, 'A')} at the most")  # fmt: skip
    click.echo(f"power    {show(found.power_w, 'W')} at the most")
    click.echo(f"from     supply {_spread(volts, 'V')}, forward {_spread(drop, 'V')}, wished {show(current, 'A')}, "
               f"source {show(source_ohm, 'Ω')}, resistor ±{TOLERANCE[series] * 100:g} %")  # fmt: skip
    click.echo(f"{working.formula}\n{working.source}")


def _spread(r: Range, unit: str) -> str:
    return f"{show(r.min, unit)} to {show(r.max, unit)}"

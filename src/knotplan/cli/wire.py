"""`knotplan wire`"""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import click

from knotplan.catalog.load import everything
from knotplan.cli import manners
from knotplan.cli.common import format_option, plan_argument, plan_of, print_json
from knotplan.cli.words import PlanFile

if TYPE_CHECKING:
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.wiring.slips import Slip
    from knotplan.core.wiring.state import State
    from knotplan.core.wiring.steps import Step


@manners.command(
    "wire",
    ("wire lamp.knot.json", "Every step, with its hole."),
    ("wire lamp.knot.json --since lamp-as-wired.knot.json", "Only what is to be plugged otherwise."),
)
@plan_argument
@format_option
@click.option(
    "--since",
    type=PlanFile(),
    help="An earlier version of the plan that is wired: what has to be unplugged and plugged since.",
)
@click.option("--slips", is_flag=True, help="Say where a slip by one hole would do harm (takes a while).")
def command(plan: Path, form: str, since: Path | None, slips: bool) -> None:
    """The steps from the plan to the bench: every cord in its order, with its hole found by counting."""
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.wiring.state import compared, state_of, tasks_of
    from knotplan.core.wiring.steps import steps_of
    from knotplan.core.wiring.told import to_replug
    from knotplan.exchange.answers.wire import answer

    catalog = everything()
    c = Circuit(plan_of(plan), catalog)
    state = state_of(c)
    if since is not None:
        wired = tasks_of(Circuit(plan_of(since), catalog))
        state = compared(tasks_of(c), tuple(wired.values()))
    steps = steps_of(c)
    harm = _harm(c, steps) if slips else {}
    replug = to_replug(c, state, steps)
    if form == "json":
        print_json(answer(c, steps, state, replug, harm))
        return
    if replug:
        click.echo("Changed since it was wired")
        for line in replug:
            click.echo(f"  {line.do}")
        click.echo("")
    waiting = [s for s in steps if s.task not in state.held] if since is not None else steps
    _print_steps(c, waiting, state, harm)
    if since is not None and not waiting and not replug:
        click.echo("Nothing has to be plugged otherwise.")


def _harm(c: "Circuit", steps: "Sequence[Step]") -> "dict[str, tuple[Slip, ...]]":
    """By task: the slips that do harm."""
    from knotplan.core.wiring.slips import Slips

    looks = Slips(c, everything())
    return {s.task: looks.of(s.tie, s.neighbours) for s in steps if s.tie}


def _print_steps(
    c: "Circuit", steps: "Sequence[Step]", state: "State", harm: "Mapping[str, Sequence[Slip]]"
) -> None:
    from knotplan.core.wiring.words import between
    from knotplan.exchange.exports.steps import BOXES

    group = ""
    for step in steps:
        if step.group != group:
            group = step.group
            click.echo(group)
        click.echo(f"  [{BOXES[state.mark(step.task)]}] {step.do}")
        if step.where is not None:
            beside = between(c, step.where)
            click.echo(f"        {step.where.words}{f', {beside}' if beside else ''}")
        for slip in harm.get(step.task, ()):
            click.echo(f"        not into {c.titles.full(slip.contact)}: {slip.why}")

"""`knotplan suggest`"""

from pathlib import Path
from typing import TYPE_CHECKING

import click

from knotplan.catalog.board.check import hint
from knotplan.catalog.load import everything
from knotplan.cli import manners
from knotplan.cli.columns import print_table
from knotplan.cli.common import format_option, plan_argument, plan_of, print_json
from knotplan.cli.manners import stop
from knotplan.cli.streams import STANDARD_OUTPUT, output_option, write
from knotplan.cli.words import LEAD

if TYPE_CHECKING:
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.suggest.suggestion import Suggestion


@manners.command(
    "suggest",
    ("suggest lamp.knot.json", "A pin for each lead that has none, and why that one."),
    ("suggest lamp.knot.json --lead lamp.anode --quick", "One lead, without proof that nothing is better."),
    ("suggest lamp.knot.json -o tied.knot.json", "The plan with all of it tied."),
)
@plan_argument
@click.option(
    "--lead",
    "leads",
    multiple=True,
    type=LEAD,
    help="Only this lead, e.g. lamp.anode; may be given several times.",
)
@click.option("--anew", is_flag=True, help="Ask also about signal ties that are there and not fixed.")
@click.option("--quick", is_flag=True, help="A first good answer, without proof that nothing costs less.")
@output_option("Write the plan with all of it tied")
@format_option
def command(
    plan: Path, leads: tuple[str, ...], anew: bool, quick: bool, output: Path | None, form: str
) -> None:
    """Suggest ties for the leads of PLAN that are not tied, each with its reason and the next best.

    Exit status: 0 there is a suggestion, 1 not everything can be tied (and why), 2
    the file or a lead's name is wrong.
    """
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.suggest.asked import loosened
    from knotplan.core.suggest.exact import best_answer
    from knotplan.core.suggest.suggestion import first_answer, prepare
    from knotplan.exchange.plan_file import dumps

    given = plan_of(plan)
    known = Circuit(given, everything()).contacts.leads()
    wrong = [f"knotplan: {x!r} is no lead of this plan{hint(x, known)}" for x in leads if x not in known]
    if wrong:
        stop("\n".join(wrong), 2)
    asked = loosened(given, everything()) if anew else given
    ready = prepare(asked, everything(), leads or None)
    suggestion = first_answer(ready, everything()) if quick else best_answer(ready, everything())
    if output == STANDARD_OUTPUT and suggestion.conflict is None:
        pass  # standard output is for the plan
    elif form == "json":
        from knotplan.exchange.answers.suggest import answer

        print_json(answer(suggestion))
    else:
        _print(suggestion, Circuit(suggestion.remedy().apply(asked), everything()))
    if suggestion.conflict is not None:
        raise SystemExit(1)
    if output is not None:
        write(output, dumps(suggestion.remedy().apply(asked)))


def _print(suggestion: "Suggestion", after: "Circuit") -> None:
    if suggestion.conflict is not None:
        click.echo(suggestion.conflict.words)
        for text in suggestion.conflict.frees:
            click.echo(f"  it would help to {text}")
        return
    if not suggestion.ties:
        click.echo(
            "Nothing to tie: what was asked about is tied, or need not be. (--anew asks about ties too.)"
        )
        return
    rows = []
    for t in suggestion.ties:
        following = f"{after.titles.full(t.next_contact)} +{t.next_costs:.2f}" if t.next_contact else ""
        rows.append([t.lead, t.contact, after.titles.full(t.contact), t.reason, following])
    print_table([["lead", "contact", "which is", "because", "next best"], *rows])
    click.echo("Nothing costs less." if suggestion.proven else "A good answer, not proven to be the best.")

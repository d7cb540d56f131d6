"""`knotplan suggest`"""

from pathlib import Path

import click

from knotplan.catalog.load import everything
from knotplan.cli.common import format_option, plan_argument, plan_of, print_json, print_table, stop


@click.command("suggest")
@plan_argument
@click.option("--lead", "leads", multiple=True, help="Only this lead, e.g. lamp.anode; may be given several times.")
@click.option("--anew", is_flag=True, help="Ask also about signal ties that are there and not fixed.")
@click.option("--quick", is_flag=True, help="A first good answer, without proof that nothing costs less.")
@click.option("-o", "--output", type=click.Path(path_type=Path, dir_okay=False), help="Write the plan with all of it tied.")
@format_option
def command(plan: Path, leads: tuple[str, ...], anew: bool, quick: bool, output: Path | None, form: str) -> None:
    """Suggest ties for the leads of PLAN that are not tied, each with its reason and the next best.

    Exit status: 0 there is a suggestion, 1 not everything can be tied (and why), 2 the file is wrong.
    """
    from knotplan.core.suggest.asked import loosened
    from knotplan.core.suggest.exact import best_answer
    from knotplan.core.suggest.suggestion import first_answer, prepare
    from knotplan.exchange.plan_file import save

    given = plan_of(plan)
    asked = loosened(given, everything()) if anew else given
    ready = prepare(asked, everything(), leads or None)
    found = first_answer(ready, everything())
    if not quick and found.conflict is None:
        found = best_answer(ready, everything())
    if found.conflict is not None:
        if form == "json":
            conflict = found.conflict
            print_json({"conflict": conflict.words, "leads": list(conflict.leads), "frees": list(conflict.frees)})
        else:
            click.echo(found.conflict.words)
            for text in found.conflict.frees:
                click.echo(f"  it would help to {text}")
        raise SystemExit(1)
    rows = [{"lead": t.lead, "contact": t.contact, "reason": t.reason, "cost": round(t.cost, 2), "next": t.next_contact,
             "next_costs": round(t.next_costs, 2), "next_reason": t.next_reason} for t in found.ties]  # fmt: skip
    if form == "json":
        print_json({"proven": found.proven, "ties": rows})
    else:
        lines = [[str(r["lead"]), str(r["contact"]), str(r["reason"]), f"{r['next']} +{r['next_costs']}" if r["next"] else ""]
                 for r in rows]  # fmt: skip
        print_table([["lead", "contact", "because", "next best"], *lines])
    if output is not None:
        try:
            save(found.remedy().apply(asked), output)
        except OSError as error:
            stop(f"knotplan: {output}: {error.strerror}", 2)

"""`knotplan schema`"""

from collections.abc import Callable
from typing import Any

import click

from knotplan.cli import manners
from knotplan.cli.common import print_json
from knotplan.exchange.answers.published import ANSWERS
from knotplan.exchange.answers.published import schema as answer_schema


def _files() -> dict[str, Callable[[], dict[str, Any]]]:
    """Schemas of files, by what is in them."""
    from knotplan.exchange import board_file, part_schema, plan_file
    from knotplan.exchange.exports import netlist

    return {
        "plan": plan_file.schema,
        "board": board_file.schema,
        "part": part_schema.schema,
        "netlist": netlist.schema,
    }


FILES = ("plan", "board", "part", "netlist")


def schemas() -> dict[str, dict[str, Any]]:
    """Everything that is published."""
    return {name: made() for name, made in _files().items()} | {a: answer_schema(a) for a in ANSWERS}


@manners.command(
    "schema",
    ("schema plan", "What a plan file may have."),
    ("schema check", "What `knotplan check --format json` prints."),
)
@click.argument("what", metavar="[WHAT]", type=manners.OneOf([*FILES, *ANSWERS]), default="plan")
def command(what: str) -> None:
    """Print the JSON Schema (2020-12) of a kind of file, or of what a command prints with --format json.

    WHAT is plan, board, part, netlist, or a command; without it plan.
    """
    print_json(_files()[what]() if what in FILES else answer_schema(what))

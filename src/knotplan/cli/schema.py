"""`knotplan schema`"""

import click

from knotplan.cli.common import print_json


@click.command("schema")
@click.argument("what", type=click.Choice(["plan", "board", "part"]), default="plan")
def command(what: str) -> None:
    """Print the JSON Schema of plan files, of board files, or of a part's definite form."""
    if what == "plan":
        from knotplan.exchange.plan_file import schema
    elif what == "part":
        from knotplan.exchange.part_file import schema
    else:
        from knotplan.exchange.board_file import schema
    print_json(schema())

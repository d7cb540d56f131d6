"""`knotplan schema`"""

import json

import click

from knotplan.exchange.plan_file import schema as published


@click.command("schema")
def command() -> None:
    """Print the JSON Schema of plan files."""
    click.echo(json.dumps(published(), indent=2, ensure_ascii=False))

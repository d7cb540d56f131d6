"""`knotplan`: the command and its parts."""

import sys

import click

from knotplan import __version__
from knotplan.cli.catalog import catalog
from knotplan.cli.check import check
from knotplan.cli.export import export
from knotplan.cli.names import names
from knotplan.cli.open import open_window
from knotplan.cli.value import value


@click.group(context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100})
@click.version_option(__version__, prog_name="knotplan")
def cli() -> None:
    """Plan how actuators, lights, relays and sensors attach to a board, before switching on."""


@click.command()
def schema() -> None:
    """Print the JSON Schema of plan files."""
    import json

    from knotplan.exchange.plan_file import schema as published

    click.echo(json.dumps(published(), indent=2, ensure_ascii=False))


for command in (check, names, value, export, catalog, schema, open_window):
    cli.add_command(command)


def main() -> None:
    """The entry point; text is UTF-8 whatever the terminal's locale says."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8")
    cli()

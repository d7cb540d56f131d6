"""`knotplan`: the command and its parts.

Each part is imported when it is asked for: opening the window must not wait for what a check needs.
"""

import sys
from importlib import import_module

import click

from knotplan import __version__

COMMANDS = ("check", "names", "value", "power", "buses", "timing", "export", "suggest", "catalog", "schema", "open")
"""each is a module beside this one, and its `command`"""


class Parts(click.Group):
    """A group whose commands are imported one by one."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name not in COMMANDS:
            return None
        found: click.Command = import_module(f"knotplan.cli.{name}").command
        return found


@click.group(cls=Parts, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100})
@click.version_option(__version__, prog_name="knotplan")
def cli() -> None:
    """Plan how actuators, lights, relays and sensors attach to a board, before switching on."""


def main() -> None:
    """The entry point; text is UTF-8 whatever the terminal's locale says."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8")
    cli()

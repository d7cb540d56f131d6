"""`knotplan`: the command and its parts.

Each part is imported when it is asked for: opening the window must not wait for what a check needs.
"""

import os
import sys
from importlib import import_module

import click

from knotplan import __version__

COMMANDS = (
    "check",
    "names",
    "value",
    "power",
    "buses",
    "timing",
    "wire",
    "measure",
    "compare",
    "practice",
    "read-bench",
    "export",
    "suggest",
    "catalog",
    "schema",
    "open",
)
"""each is a module beside this one, and its `command`"""
FAILED = 70
"""exit status when the program itself fails (EX_SOFTWARE of
sysexits.h): 1 means findings, and nothing else"""


class Parts(click.Group):
    """A group whose commands are imported one by one."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name not in COMMANDS:
            return None
        command: click.Command = import_module(f"knotplan.cli.{name.replace('-', '_')}").command
        return command


@click.group(cls=Parts, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100})
@click.version_option(__version__, prog_name="knotplan")
def cli() -> None:
    """Plan how actuators, lights, relays and sensors attach to a board, before switching on."""


def main() -> None:
    """The entry point; text is UTF-8 whatever the terminal's locale says."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8", errors="backslashreplace")
    try:
        cli(standalone_mode=False)
    except click.exceptions.Exit as done:
        sys.exit(done.exit_code)
    except click.ClickException as error:
        error.show()
        sys.exit(error.exit_code)
    except (click.Abort, KeyboardInterrupt):
        sys.exit(130)
    except BrokenPipeError:  # whoever read has had enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        sys.exit(141)
    except Exception as error:
        _failed(error)


def _failed(error: Exception) -> None:
    """What nobody foresaw: traces for repair, one plain line, and a status that is none of ours."""
    import logging

    from knotplan.exchange import log

    log.begin()
    logging.getLogger("knotplan.cli").critical("failed: %s", " ".join(sys.argv[1:]), exc_info=True)
    click.echo(
        f"knotplan: the program failed: {type(error).__name__}: {error}\nTraces are in {log.path()}; please "
        "report them together with the plan.",
        err=True,
    )
    sys.exit(FAILED)

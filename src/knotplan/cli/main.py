"""`knotplan`: the command and its parts.

Each part is imported when it is asked for: opening the window must not wait for what a check needs.
"""

import os
import sys
from importlib import import_module

import click
from click.shell_completion import CompletionItem

from knotplan import __version__

COMMANDS = {
    "check": "Findings and budgets of plans.",
    "names": "Every pin of a board that a name can mean, with all its names.",
    "value": "Find a component value, with its neighbours in the series.",
    "power": "What hangs on what, with its currents; how long a battery lasts.",
    "buses": "Who answers where: addresses, selects, clocks, pull-ups, edges.",
    "timing": "What each pin does, and when; waves as a dump.",
    "wire": "The steps from the plan to the bench, each hole by counting.",
    "measure": "What a meter should read; which single faults agree with it.",
    "compare": "Hold what the bench and the program say against a plan.",
    "practice": "A made-up bench of a plan with something wrong, to practise on.",
    "read-bench": "Read this Linux board into a file, for another machine.",
    "export": "Write one hand-over file of a plan.",
    "suggest": "Suggest ties for leads that are not tied, with their reasons.",
    "catalog": "Boards and parts that the program knows.",
    "schema": "Print the JSON Schema of plans, boards or parts.",
    "open": "Open the window, on a plan if given.",
}
"""what the list of commands says of each, so that nothing is imported for it; each is a module
beside this one, and its `command`"""
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

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(COMMANDS.items()))

    def shell_complete(self, ctx: click.Context, incomplete: str) -> list[CompletionItem]:
        names = [CompletionItem(n, help=text) for n, text in COMMANDS.items() if n.startswith(incomplete)]
        return names + click.Command.shell_complete(self, ctx, incomplete)


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

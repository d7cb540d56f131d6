"""The command `knotplan` and its parts, each of which is imported when it is asked for."""

import os
from importlib import import_module

import click
from click.shell_completion import CompletionItem

from knotplan import __version__
from knotplan.cli import manners

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
    "completion": "Completion of words for bash, zsh or fish.",
    "catalog": "Boards and parts that the program knows.",
    "schema": "Print the JSON Schema of plans, boards or parts.",
    "desktop": "Menu, icon, kind of file, manual pages and completion; or away with them.",
    "open": "Open the window, on a plan if given.",
}
"""what the list of commands says of each, so that nothing is imported for it; each is a module
beside this one, and its `command`"""


class Parts(manners.Group):
    """A group whose commands are imported one by one."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:
        if name not in COMMANDS:
            return None
        command: click.Command = import_module(f"knotplan.cli.{name.replace('-', '_')}").command
        return command

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        """As the library does it; a word that is no command is told with the nearest that is one."""
        if args[0] not in COMMANDS and not args[0].startswith("-"):
            from knotplan.catalog.board.check import hint

            ctx.fail(f"{args[0]!r} is no command{hint(args[0], COMMANDS)}")
        return super().resolve_command(ctx, args)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(COMMANDS.items()))

    def shell_complete(self, ctx: click.Context, incomplete: str) -> list[CompletionItem]:
        names = [CompletionItem(n, help=text) for n, text in COMMANDS.items() if n.startswith(incomplete)]
        return names + click.Command.shell_complete(self, ctx, incomplete)


@click.group(
    cls=Parts,
    context_settings={"help_option_names": ["-h", "--help"], "max_content_width": manners.WIDEST},
    params=manners.manners(),
    examples=[
        ("check lamp.knot.json", "What is wrong with a plan, and what would settle it."),
        ("names bowline-40 L22", "Every name of a pin."),
        ("open", "The window."),
    ],
)
@click.version_option(__version__, prog_name="knotplan")
def cli() -> None:
    """Plan how actuators, lights, relays and sensors attach to a board, before switching on."""


NAME = "knotplan"
COMPLETING = "_KNOTPLAN_COMPLETE"
"""the variable by which a shell asks for completions"""


def run(words: list[str]) -> int:
    """Runs the command that the words say; returns its exit status.

    The library's own entry point would take an interrupt for a wrong call, and a reader that has had enough
    for a failure.
    """
    if asked := os.environ.get(COMPLETING):
        from click.shell_completion import shell_complete

        return shell_complete(cli, {}, NAME, COMPLETING, asked)
    try:
        with cli.make_context(NAME, words) as ctx:
            cli.invoke(ctx)
    except click.exceptions.Exit as done:
        return done.exit_code
    except click.ClickException as error:
        error.show()
        return error.exit_code
    return 0

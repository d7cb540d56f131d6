"""`knotplan completion`"""

import click

from knotplan.cli import manners


@manners.command(
    "completion",
    ("completion bash", "Put it into ~/.local/share/bash-completion/completions/knotplan"),
    ("completion fish", "Put it into ~/.config/fish/completions/knotplan.fish"),
)
@click.argument("shell", metavar="SHELL", type=manners.OneOf(["bash", "zsh", "fish"]))
def command(shell: str) -> None:
    """Print what makes a shell complete commands, options, boards, parts, pins, plans and what is in them.

    SHELL is bash, zsh or fish.
    """
    click.echo(script(shell), nl=False)


def script(shell: str) -> str:
    """The script for a shell, as packages install it."""
    from click.shell_completion import ShellComplete, get_completion_class

    from knotplan.cli.commands import COMPLETING, NAME, cli

    kind = get_completion_class(shell)
    assert kind is not None
    # not its own `source`, which starts a shell to ask for its version
    return ShellComplete.source(kind(cli, {}, NAME, COMPLETING))

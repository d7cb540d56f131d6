"""What every command does alike: how much it says, in which colours, with which examples."""

import logging
import os
import sys
from collections.abc import Callable, Sequence
from typing import Any, Literal, NoReturn, get_args

import click

Colour = Literal["auto", "always", "never"]
Example = tuple[str, str]
"""(the words behind `knotplan`, what they are for)"""
QUIET, LOUD = "knotplan.quiet", "knotplan.loud"
"""where a command's context keeps how much is to be said"""
WIDEST = 100
"""letters of a line of help"""


class OneOf(click.Choice[str]):
    """One of some words; another one is told with the nearest."""

    def __init__(self, words: Sequence[str]):
        super().__init__(list(words))

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> str:
        if value in self.choices:
            return str(value)
        from knotplan.catalog.board.check import hint

        self.fail(
            f"{value!r} is none of {', '.join(self.choices)}{hint(str(value), self.choices)}", param, ctx
        )


class Command(click.Command):
    """A command with the options that all have; below its help a list of what can be asked for, and
    examples."""

    def __init__(
        self,
        *args: Any,
        examples: Sequence[Example] = (),
        listing: Sequence[tuple[str, str]] = (),
        **more: Any,
    ):
        super().__init__(*args, **more)
        self.examples, self.listing = tuple(examples), tuple(listing)
        self.params += manners()

    def format_epilog(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        super().format_epilog(ctx, formatter)
        if self.listing:
            with formatter.section("Kinds"):
                formatter.write_dl(list(self.listing))
        write_examples(self.examples, formatter)


class Group(click.Group):
    """A command of several commands."""

    command_class = Command

    def __init__(self, *args: Any, examples: Sequence[Example] = (), **more: Any):
        super().__init__(*args, **more)
        self.examples = tuple(examples)

    def format_epilog(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        super().format_epilog(ctx, formatter)
        write_examples(self.examples, formatter)


def command(
    name: str, *examples: Example, listing: Sequence[tuple[str, str]] = ()
) -> Callable[[Callable[..., Any]], Command]:
    """Makes a function a command."""
    return click.command(name, cls=Command, examples=examples, listing=listing)


def write_examples(examples: Sequence[Example], formatter: click.HelpFormatter) -> None:
    """Each command on a line of its own, as it is typed, with what it is for below."""
    if not examples:
        return
    with formatter.section("Examples"):
        for words, why in examples:
            formatter.write(f"{'':{formatter.current_indent}}knotplan {words}\n")
            formatter.indent()
            formatter.write_text(why)
            formatter.dedent()


def manners() -> list[click.Parameter]:
    """The options that all commands have."""
    return [
        click.Option(["-q", "--quiet"], is_flag=True, expose_value=False, callback=_quiet, help="Say less."),
        click.Option(
            ["-v", "--verbose"], is_flag=True, expose_value=False, callback=_verbose, help="Say more."
        ),
        click.Option(
            ["--color"],
            type=OneOf(get_args(Colour)),
            expose_value=False,
            callback=_coloured,
            is_eager=True,
            help="Colours: on a terminal (auto, as usual), always or never. With NO_COLOR in the environment "
            "there are none.",
        ),
    ]


def _quiet(ctx: click.Context, param: click.Parameter, value: bool) -> None:
    ctx.meta[QUIET] = value or ctx.meta.get(QUIET, False)


def _verbose(ctx: click.Context, param: click.Parameter, value: bool) -> None:
    ctx.meta[LOUD] = value or ctx.meta.get(LOUD, False)
    if value:
        handler = logging.StreamHandler(sys.stderr)
        handler.setFormatter(logging.Formatter("knotplan: %(message)s"))
        logger = logging.getLogger("knotplan")
        logger.addHandler(handler)
        logger.setLevel(logging.INFO)
        ctx.find_root().call_on_close(lambda: logger.removeHandler(handler))


def _coloured(ctx: click.Context, param: click.Parameter, value: Colour | None) -> None:
    """What is asked for; else none where the environment wants none (no-color.org), or a terminal has
    none."""
    if value in ("always", "never"):
        ctx.color = value == "always"
    elif ctx.color is None and (os.environ.get("NO_COLOR") or os.environ.get("TERM") == "dumb"):
        ctx.color = False


def quiet() -> bool:
    """The running command was asked to say less."""
    ctx = click.get_current_context(silent=True)
    return bool(ctx is not None and ctx.meta.get(QUIET))


def loud() -> bool:
    """The running command was asked to say more."""
    ctx = click.get_current_context(silent=True)
    return bool(ctx is not None and ctx.meta.get(LOUD))


def note(text: str) -> None:
    """Something beside the result, for whoever watches."""
    if not quiet():
        click.echo(text, err=True)


def stop(message: str, code: int) -> NoReturn:
    """Ends the command with a message on standard error."""
    click.echo(message, err=True)
    raise SystemExit(code)

"""The manual pages (man(7)), made from the commands themselves."""

import os
import re
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime

import click

from knotplan import __version__
from knotplan.cli.commands import COMMANDS, NAME, cli
from knotplan.cli.manners import Example

STATUS = "Exit status:"
"""begins the paragraph of a command's help that has a heading of its own here"""
ALL_STATUS = (
    "0 success, 2 something cannot be read or written, or a wrong call, 70 a failure of the program "
    "itself. 1 is "
    "what the command says of it, and nothing else."
)
FILES = (
    ("~/.local/share/knotplan/", "Boards, parts and dialects of your own."),
    ("~/.local/state/knotplan/", "Work that is kept aside, and what went wrong inside."),
    ("~/.cache/knotplan/", "The catalogue, as it was read last; may be deleted."),
)


def pages() -> dict[str, str]:
    """Every page by its file's name: knotplan.1, and one for each command."""
    with click.Context(cli, info_name=NAME, **cli.context_settings) as root:
        made = {f"{NAME}.1": "\n".join(_main_page(root)) + "\n"}
        for name in COMMANDS:
            command = cli.get_command(root, name)
            assert command is not None
            with click.Context(command, info_name=name, parent=root) as ctx:
                made[f"{NAME}-{name}.1"] = "\n".join(_page(ctx, command, COMMANDS[name])) + "\n"
    return made


def _main_page(ctx: click.Context) -> Iterator[str]:
    yield from _head(NAME, "plan how parts attach to a board, before switching on")
    yield from _synopsis(ctx, cli)
    yield from _section("DESCRIPTION", *_paragraphs(cli.help or ""))
    yield ".SH COMMANDS"
    for name, text in COMMANDS.items():
        yield from _item(rf"\fB{NAME}\-{_plain(name)}\fP(1)", text)
    yield from _options(cli, ctx)
    yield from _examples(cli.examples)
    yield from _section("EXIT STATUS", ALL_STATUS)
    yield from _files()
    yield from _section("SEE ALSO", "The handbook: Help in the window.")


def _page(ctx: click.Context, command: click.Command, short: str) -> Iterator[str]:
    yield from _head(f"{NAME}-{ctx.info_name}", short.rstrip("."))
    yield from _synopsis(ctx, command)
    yield from _description(command)
    yield from _options(command, ctx)
    if isinstance(command, click.Group):
        yield ".SH COMMANDS"
        for name in command.list_commands(ctx):
            below = command.get_command(ctx, name)
            assert below is not None
            with click.Context(below, info_name=name, parent=ctx) as inner:
                yield from _below(inner, below)
    if listing := getattr(command, "listing", ()):
        yield ".SH KINDS"
        for name, text in listing:
            yield from _item(_plain(name), text)
    yield from _examples(getattr(command, "examples", ()))
    status = [p for p in _paragraphs(command.help or "") if p.startswith(STATUS)]
    yield from _section("EXIT STATUS", *(p.removeprefix(STATUS).strip() for p in status), ALL_STATUS)
    yield from _section("SEE ALSO", f"{NAME}(1)")


def _below(ctx: click.Context, command: click.Command) -> Iterator[str]:
    """A command of a group, as a part of the group's page."""
    usage = " ".join([ctx.command_path, *command.collect_usage_pieces(ctx)])
    yield f'.SS "{_plain(usage)}"'
    yield from _text(_paragraphs(command.help or ""))
    for names, text in _records(command, ctx):
        yield from _item(_plain(names), text)


def _head(name: str, short: str) -> Iterator[str]:
    moment = os.environ.get("SOURCE_DATE_EPOCH")
    day = datetime.fromtimestamp(int(moment), UTC) if moment else datetime.now(UTC)
    yield f'.TH {_plain(name.upper())} 1 {day:%Y-%m-%d} "Knot Plan {__version__}" "User Commands"'
    yield ".SH NAME"
    yield rf"{_plain(name)} \- {_plain(short[0].lower() + short[1:])}"


def _synopsis(ctx: click.Context, command: click.Command) -> Iterator[str]:
    yield ".SH SYNOPSIS"
    pieces = " ".join(command.collect_usage_pieces(ctx))
    yield rf"\fB{_plain(ctx.command_path)}\fP {_plain(pieces)}"


def _description(command: click.Command) -> Iterator[str]:
    told = [p for p in _paragraphs(command.help or "") if not p.startswith(STATUS)]
    yield from _section("DESCRIPTION", *told)


def _options(command: click.Command, ctx: click.Context) -> Iterator[str]:
    records = list(_records(command, ctx))
    if records:
        yield ".SH OPTIONS"
        for names, text in records:
            yield from _item(_plain(names), text)


def _records(command: click.Command, ctx: click.Context) -> Iterator[tuple[str, str]]:
    """(names, what it is for) of each option, as the help has them."""
    for param in command.get_params(ctx):
        record = param.get_help_record(ctx)
        if record is not None and isinstance(param, click.Option):
            yield record


def _examples(examples: tuple[Example, ...]) -> Iterator[str]:
    if examples:
        yield ".SH EXAMPLES"
        for words, why in examples:
            yield from _item(rf"\fB{NAME} {_plain(words)}\fP", why)


def _files() -> Iterator[str]:
    yield ".SH FILES"
    for path, text in FILES:
        yield from _item(_plain(path), text)


def _section(title: str, *paragraphs: str) -> Iterator[str]:
    yield f".SH {title}"
    yield from _text(paragraphs)


def _text(paragraphs: Sequence[str]) -> Iterator[str]:
    for k, paragraph in enumerate(paragraphs):
        if k:
            yield ".PP"
        yield _plain(paragraph)


def _item(head: str, text: str) -> Iterator[str]:
    yield from (".TP", head, _plain(text))


def _paragraphs(text: str) -> list[str]:
    return [" ".join(p.split()) for p in re.split(r"\n\s*\n", text.strip()) if p.strip()]


def _plain(text: str) -> str:
    """Text that roff takes as it is: no escape, no request at the beginning of a line (groff_char(7)).
    Choices may be broken behind their strokes."""
    escaped = text.replace("\\", r"\e").replace("-", r"\-").replace('"', r"\(dq").replace("|", r"|\:")
    return rf"\&{escaped}" if escaped.startswith((".", "'")) else escaped

"""What can stand in a command's place for a word, so that a shell completes it: boards, parts, pins, plans
and what is in them."""

from collections.abc import Callable, Iterable, Iterator
from itertools import islice
from pathlib import Path
from typing import Any

import click
from click.shell_completion import CompletionItem

from knotplan.cli.streams import InFile

PLAN = ".knot.json"
MOST_OFFERED = 400
DEEPEST = 2
"""folders below the one that is named, in which plans are looked for"""
Offered = Iterable[tuple[str, str]]
"""(word, what it is)"""


class Word(click.ParamType[str]):
    """A word as it is given; `offered` says which there are. Whether it is one says the command: it knows
    more."""

    def __init__(self, name: str, offered: Callable[[click.Context], Offered]):
        self.name, self._offered = name, offered

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> str:
        return str(value)

    def shell_complete(
        self, ctx: click.Context, param: click.Parameter, incomplete: str
    ) -> list[CompletionItem]:
        begun = ((w, h) for w, h in self._offered(ctx) if w.lower().startswith(incomplete.lower()))
        return [CompletionItem(w, help=h) for w, h in islice(begun, MOST_OFFERED)]


class PlanFile(InFile):
    """A plan, or a folder of plans."""

    def shell_complete(
        self, ctx: click.Context, param: click.Parameter, incomplete: str
    ) -> list[CompletionItem]:
        found = [CompletionItem(text) for text in islice(_plans(incomplete), MOST_OFFERED)]
        return found or super().shell_complete(ctx, param, incomplete)


def _plans(incomplete: str) -> Iterator[str]:
    """Plans whose path begins so, as it is written there."""
    folder, _, begun = incomplete.rpartition("/")
    written = f"{folder}/" if "/" in incomplete else ""
    try:
        beside = sorted(Path(written or ".").iterdir())
    except OSError:
        return
    for path in beside:
        if path.name.startswith(begun) and (begun or not path.name.startswith(".")):
            if path.name.endswith(PLAN):
                yield f"{written}{path.name}"
            elif path.is_dir():
                yield from (f"{written}{found}" for found in _below(path, path.name, DEEPEST))


def _below(folder: Path, written: str, levels: int) -> Iterator[str]:
    try:
        inside = sorted(folder.iterdir())
    except OSError:
        return
    for path in inside:
        if path.name.endswith(PLAN):
            yield f"{written}/{path.name}"
        elif levels > 1 and path.is_dir() and not path.name.startswith("."):
            yield from _below(path, f"{written}/{path.name}", levels - 1)


def _titled(ids: Iterable[str], title: Callable[[str], str]) -> Iterator[tuple[str, str]]:
    from knotplan.catalog.load import BrokenEntryError

    for entry in ids:
        try:
            yield entry, title(entry)
        except BrokenEntryError as error:
            yield entry, str(error)


def boards(ctx: click.Context) -> Offered:
    from knotplan.catalog.load import everything

    store = everything()
    return _titled(store.board_ids(), lambda entry: store.board(entry).title)


def parts(ctx: click.Context) -> Offered:
    from knotplan.catalog.load import everything

    store = everything()
    return _titled(store.part_ids(), lambda entry: store.kind(entry).title)


def entries(ctx: click.Context) -> Offered:
    return (*boards(ctx), *parts(ctx))


def _given(ctx: click.Context, name: str) -> str:
    """An argument that the command line has so far; behind an option without its value the library has not
    sorted them."""
    if found := ctx.params.get(name):
        return str(found)
    arguments = [p.name for p in ctx.command.params if isinstance(p, click.Argument)]
    words = [word for word in ctx.args if not word.startswith("-")]
    place = arguments.index(name) if name in arguments else len(words)
    return words[place] if place < len(words) else ""


def _board(ctx: click.Context) -> Any:
    """The board that the command line names so far; raises LookupError."""
    from knotplan.catalog.load import everything

    return everything().board(_given(ctx, "board"))


def pins(ctx: click.Context) -> Offered:
    """Every name of the board that is named before."""
    from knotplan.core.names.book import NameBook

    try:
        book = NameBook(_board(ctx))
    except LookupError:
        return
    for pin in book.board.pins:
        for scheme, name in book.all_names(pin).items():
            yield name, f"{pin}, {scheme}"


def schemes(ctx: click.Context) -> Offered:
    """The schemes of the board, or of the plan's board."""
    try:
        board = _board(ctx) if _given(ctx, "board") else _circuit(ctx).board
    except (LookupError, ValueError):
        return ()
    return ((key, scheme.title) for key, scheme in board.schemes.items())


def _circuit(ctx: click.Context) -> Any:
    """The circuit of the plan that is named before; raises ValueError."""
    from knotplan.catalog.load import everything
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.exchange.plan_file import PlanFileError, load

    try:
        return Circuit(load(Path(_given(ctx, "plan")), everything()), everything())
    except (OSError, PlanFileError) as error:
        raise ValueError(str(error)) from None


def placed(ctx: click.Context) -> Offered:
    """The parts of the plan."""
    try:
        return [(p.id, p.name) for p in _circuit(ctx).plan.parts]
    except ValueError:
        return ()


def leads(ctx: click.Context) -> Offered:
    """The leads of the plan's parts."""
    try:
        circuit = _circuit(ctx)
    except ValueError:
        return ()
    return [(lead, circuit.titles.full(lead)) for lead in circuit.contacts.leads()]


BOARD = Word("board", boards)
ENTRY = Word("id", entries)
PIN = Word("name", pins)
SCHEME = Word("scheme", schemes)
PLACED = Word("part", placed)
LEAD = Word("lead", leads)

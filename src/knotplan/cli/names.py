"""`knotplan names`"""

from pathlib import Path

import click

from knotplan.catalog.load import UnknownEntryError, everything
from knotplan.cli import manners
from knotplan.cli.columns import print_table
from knotplan.cli.common import format_option, print_json
from knotplan.cli.manners import stop
from knotplan.cli.streams import InFile, shown
from knotplan.cli.words import BOARD, PIN, SCHEME
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.names.book import LABEL, NameBook
from knotplan.core.names.lists import fitting_schemes, resolved
from knotplan.core.plan.document import Plan
from knotplan.core.text.pin_table import headings, pin_rows
from knotplan.exchange.answers import names as answers
from knotplan.exchange.decoding import read_any

MOST_TEXT = 1_000_000


@manners.command(
    "names",
    ("names bowline-40 L22", "Every name of one pin."),
    ("names bowline-40 12 --scheme chip", "A number that several schemes have, by one of them."),
    ("names bowline-40 --list pins.txt", "Every name in a file, in all the other schemes."),
    ("names bowline-40", "Every pin of the board."),
)
@click.argument("board", type=BOARD)
@click.argument("name", required=False, type=PIN)
@click.option(
    "--list",
    "listed",
    type=InFile(),
    help="Translate every name in this file (- for standard input).",
)
@click.option("--scheme", type=SCHEME, help="Take NAME by this scheme only.")
@format_option
def command(board: str, name: str | None, listed: Path | None, scheme: str | None, form: str) -> None:
    """Every pin of BOARD that NAME can mean, with all its names; or with --list every name in a file, in all
    the other schemes. Without either, every pin of the board.

    Exit status: 3 when a name is ambiguous and no scheme was given, 4 when one means nothing.
    """
    try:
        book = NameBook(everything().board(board))
    except UnknownEntryError as error:
        stop(f"knotplan: {error}", 2)
    if scheme is not None and scheme not in (*book.board.schemes, LABEL):
        stop(
            f"knotplan: {book.board.title} has no scheme {scheme!r}; it has {', '.join(book.board.schemes)}",
            2,
        )
    if name is None or listed is not None:
        _translate(book, name, listed, scheme, form)
        return
    matches = book.find(name, scheme)
    ambiguous = scheme is None and len({m.pin for m in matches}) > 1
    if form == "json":
        print_json(answers.answer(book, name, matches, ambiguous=ambiguous))
    elif matches:
        _table(book, [(m.scheme, m.pin) for m in matches])
    if not matches:
        near = ", ".join(book.near(name)) or "none"
        stop(f"knotplan: no pin of {book.board.title} is called {name!r}; nearest: {near}", 4)
    if ambiguous:
        stop(f"knotplan: {name!r} is ambiguous on {book.board.title}; say which scheme with --scheme", 3)


def _translate(book: NameBook, name: str | None, listed: Path | None, scheme: str | None, form: str) -> None:
    """A list of names, or the whole board, as a table."""
    try:
        text = read_any(listed, MOST_TEXT) if listed else None
    except UnicodeDecodeError as error:
        stop(f"knotplan: the list is no text (byte {error.start})", 2)
    except OSError as error:
        stop(f"knotplan: {shown(listed)}: {error.strerror}" if listed else str(error), 2)
    found = resolved("\n".join(filter(None, [name, text])), book, scheme) if text is not None else None
    circuit = Circuit(Plan(book.board.id, carried=book.board), everything())
    rows, heads = pin_rows(circuit, found), headings(circuit, found is not None)
    if form == "json":
        print_json(answers.rows(rows, heads))
    else:
        print_table([list(heads), *(list(r.cells) for r in rows)])
    states = {n.state for n in found or ()}
    if "unknown" in states:
        stop("knotplan: some names mean no pin", 4)
    if "ambiguous" in states:
        fits = ", ".join(fitting_schemes(text or "", book))
        stop(
            "knotplan: some names are ambiguous; say which scheme with --scheme"
            + (f" (all fit: {fits})" if fits else ""),
            3,
        )


def _table(book: NameBook, matches: list[tuple[str, str]]) -> None:
    columns = [*book.board.schemes]
    titles = [book.board.schemes[s].title for s in columns]
    rows = [
        [book.board.schemes[s].title if s in book.board.schemes else "Label", *_names(book, pin, columns)]
        for s, pin in matches
    ]
    print_table([["as", *titles], *rows])


def _names(book: NameBook, pin: str, columns: list[str]) -> list[str]:
    names = book.all_names(pin)
    return [names.get(s, names.get(LABEL, "-")) for s in columns]

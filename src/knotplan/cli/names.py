"""`knotplan names`"""

import click

from knotplan.catalog.load import UnknownEntryError, shipped
from knotplan.cli.common import format_option, print_json, stop
from knotplan.core.names import LABEL, NameBook


@click.command("names")
@click.argument("board")
@click.argument("name")
@click.option("--scheme", help="Take NAME by this scheme only.")
@format_option
def command(board: str, name: str, scheme: str | None, form: str) -> None:
    """Every pin of BOARD that NAME can mean, with all its names.

    Exit status: 3 when NAME is ambiguous and no scheme was given, 4 when nothing matches.
    """
    try:
        book = NameBook(shipped().board(board))
    except UnknownEntryError as error:
        stop(f"knotplan: {error}", 2)
    if scheme is not None and scheme not in (*book.board.schemes, LABEL):
        stop(f"knotplan: {book.board.title} has no scheme {scheme!r}; it has {', '.join(book.board.schemes)}", 2)
    found = book.find(name, scheme)
    ambiguous = scheme is None and len({m.pin for m in found}) > 1
    if form == "json":
        print_json({
            "board": board, "name": name, "ambiguous": ambiguous,
            "matches": [{"scheme": m.scheme, "pin": m.pin, "names": book.all_names(m.pin)} for m in found],
            "nearest": [] if found else list(book.near(name)),
        })  # fmt: skip
    elif found:
        _table(book, [(m.scheme, m.pin) for m in found])
    if not found:
        near = ", ".join(book.near(name)) or "none"
        stop(f"knotplan: no pin of {book.board.title} is called {name!r}; nearest: {near}", 4)
    if ambiguous:
        stop(f"knotplan: {name!r} is ambiguous on {book.board.title}; say which scheme with --scheme", 3)


def _table(book: NameBook, found: list[tuple[str, str]]) -> None:
    columns = [*book.board.schemes]
    titles = [book.board.schemes[s].title for s in columns]
    rows = [[book.board.schemes[s].title if s in book.board.schemes else "Label", *_names(book, pin, columns)]
            for s, pin in found]  # fmt: skip
    widths = [max(map(len, column)) for column in zip(["as", *titles], *rows, strict=True)]
    for row in [["as", *titles], *rows]:
        click.echo("  ".join(f"{cell:{w}}" for cell, w in zip(row, widths, strict=True)).rstrip())


def _names(book: NameBook, pin: str, columns: list[str]) -> list[str]:
    names = book.all_names(pin)
    return [names.get(s, names.get(LABEL, "-")) for s in columns]

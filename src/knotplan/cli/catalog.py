"""`knotplan catalog`"""

from pathlib import Path
from typing import TYPE_CHECKING

import click
import msgspec

from knotplan.catalog.load import BrokenEntryError, UnknownEntryError, everything
from knotplan.catalog.part.needs import words
from knotplan.cli import manners
from knotplan.cli.columns import print_table
from knotplan.cli.common import format_option, print_json
from knotplan.cli.manners import stop
from knotplan.cli.streams import STANDARD_OUTPUT, InFile, output_option, shown, write
from knotplan.cli.words import BOARD, ENTRY
from knotplan.core.quantity.written import show
from knotplan.exchange.answers.catalog import CatalogAnswer, EntryAnswer

if TYPE_CHECKING:
    from knotplan.core.circuit.circuit import Circuit

CHARTS = (".svg", ".pdf", ".png")


@click.group(
    "catalog",
    cls=manners.Group,
    examples=[("catalog list", "All of them."), ("catalog show led", "One part, whole.")],
)
def command() -> None:
    """Boards and parts that the program knows."""


@command.command("list", examples=[("catalog list", "A line for each board and part.")])
@format_option
def listing(form: str) -> None:
    """Every board and part."""
    store = everything()
    boards = [_board_line(b) for b in store.board_ids()]
    parts = [_part_line(p) for p in store.part_ids()]
    if form == "json":
        print_json(CatalogAnswer(boards, parts))
        return
    rows = [
        [kind, entry.id, entry.title, entry.summary]
        for kind, found in (("board", boards), ("part", parts))
        for entry in found
    ]
    print_table([["", "id", "title", "what it is"], *rows])


def _board_line(board_id: str) -> EntryAnswer:
    """What is listed of a board; one of the maker's own that cannot be used says so."""
    try:
        board = everything().board(board_id)
    except BrokenEntryError as error:
        return EntryAnswer(board_id, "–", str(error))
    return EntryAnswer(board_id, board.title, board.summary)


def _part_line(part_id: str) -> EntryAnswer:
    try:
        kind = everything().kind(part_id)
    except BrokenEntryError as error:
        return EntryAnswer(part_id, "–", str(error))
    return EntryAnswer(part_id, kind.title, kind.summary)


@command.command("check", examples=[("catalog check mine.toml", "Before it is taken into the catalogue.")])
@click.argument("file", type=InFile())
def check(file: Path) -> None:
    """Everything that is wrong with a board or part FILE, each with its place and the nearest valid word.

    Exit status: 0 nothing, 2 something.
    """
    from knotplan.exchange import part_file
    from knotplan.exchange.board_file import BoardFileError, load

    try:
        if part_file.looks_like(file):
            kind = part_file.load(file)
            click.echo(f"{shown(file)}: {kind.title}, {len(kind.make({}).leads)} leads; nothing is wrong")
            return
        board = load(file)
    except (BoardFileError, part_file.PartFileError) as error:
        stop(f"knotplan: {error}", 2)
    except OSError as error:
        stop(f"knotplan: {shown(file)}: {error.strerror}", 2)
    count = sum(pin.kind == "io" for pin in board.pins.values())
    click.echo(
        f"{shown(file)}: {board.title}, {len(board.pins)} contacts, {count} of them signal pins; "
        "nothing is wrong"
    )


@command.command(
    "chart",
    examples=[
        ("catalog chart bowline-40 -o chart.svg", "All names of each pin."),
        ("catalog chart bowline-40 --schemes position,chip -o chart.pdf", "Two names of each, for paper."),
    ],
)
@click.argument("board", type=BOARD)
@output_option("File to write: .svg, .pdf or .png", required=True)
@click.option("--schemes", default="", help="Names to show, with commas; all if not given.")
def chart(board: str, output: Path, schemes: str) -> None:
    """Write the chart of BOARD: every pin by its names, to keep beside the bench."""
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.plan.document import Plan

    try:
        circuit = Circuit(Plan(board), everything())
    except UnknownEntryError as error:
        stop(f"knotplan: {error}", 2)
    wanted = tuple(filter(None, (s.strip() for s in schemes.split(","))))
    if unknown := [s for s in wanted if s not in circuit.board.schemes]:
        stop(
            f"knotplan: {circuit.board.title} has no scheme {unknown[0]!r}; it has "
            f"{', '.join(circuit.board.schemes)}",
            2,
        )
    suffix = CHARTS[0] if output == STANDARD_OUTPUT else output.suffix
    if suffix not in CHARTS:
        stop(f"knotplan: {output}: a chart is written as {', '.join(CHARTS)}", 2)
    write(output, _chart(circuit, wanted, suffix))


def _chart(circuit: "Circuit", schemes: tuple[str, ...], suffix: str) -> bytes:
    from knotplan.exchange.exports.chart import chart_svg

    if suffix == ".svg":
        return chart_svg(circuit, schemes).encode("utf-8")
    from knotplan.core.drawing.chart import chart as drawn
    from knotplan.core.drawing.palette import LIGHT
    from knotplan.desktop.paper import PNG_SCALE, image_of, offscreen, picture_pdf, png_bytes

    offscreen()
    picture = drawn(circuit, schemes or tuple(circuit.board.schemes), False, LIGHT)
    title = f"{circuit.board.title}: pins"
    return picture_pdf(picture, title) if suffix == ".pdf" else png_bytes(image_of(picture, PNG_SCALE))


@command.command("show", examples=[("catalog show bowline-40", "A board, every pin of it.")])
@click.argument("id", type=ENTRY)
@format_option
def show_entry(id: str, form: str) -> None:
    """One board or part, whole."""
    store = everything()
    try:
        board = store.board(id) if id in store.board_ids() else store.part(id, {})
    except BrokenEntryError as error:
        stop(f"knotplan: {error}", 2)
    except UnknownEntryError:
        near = UnknownEntryError("board or part", id, [*store.board_ids(), *store.part_ids()])
        stop(f"knotplan: {near}", 4)
    if form == "json":
        print_json(msgspec.to_builtins(board))
        return
    click.echo(f"{board.title}: {board.summary}")
    if id in store.board_ids():
        _board(id)
    else:
        _part(id)


def _board(id: str) -> None:
    """Every pin as a table, then rails, straps and settings."""
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.plan.document import Plan
    from knotplan.core.text.pin_table import headings, pin_rows

    circuit = Circuit(Plan(id), everything())
    board = circuit.board
    print_table([list(headings(circuit, False)), *(list(row.cells) for row in pin_rows(circuit))])
    for rail in board.rails.values():
        click.echo(
            f"{rail.title}: {rail.volts.min:g} to {rail.volts.max:g} V, {show(rail.limit_a, 'A')} for parts"
        )
    for strap in board.straps.values():
        click.echo(f"{strap.title}: {strap.level} at start, otherwise {strap.otherwise}")
    for setting in board.settings.values():
        click.echo(f"{setting.title}: {setting.starts} at first; to change it: {setting.how}")


def _part(id: str) -> None:
    part = everything().part(id, {})
    rows = []
    for lead in part.leads.values():
        rows.append([lead.title, " or ".join(words(n) for n in lead.needs)])
    print_table([["lead", "needs"], *rows])
    for name, param in part.params.items():
        options = ", ".join(param.choices) or f"{param.least:g} to {param.most:g} {param.unit}"
        click.echo(f"  {name}: {options} (usually {param.default})")

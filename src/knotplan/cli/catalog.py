"""`knotplan catalog`"""

from pathlib import Path
from typing import TYPE_CHECKING

import click
import msgspec

from knotplan.catalog.load import BrokenEntryError, UnknownEntryError, everything
from knotplan.catalog.part.needs import words
from knotplan.cli.common import format_option, print_json, print_table, stop
from knotplan.core.quantity.written import show

if TYPE_CHECKING:
    from knotplan.core.circuit.circuit import Circuit

CHARTS = (".svg", ".pdf", ".png")


@click.group("catalog")
def command() -> None:
    """Boards and parts that the program knows."""


@command.command("list")
@format_option
def listing(form: str) -> None:
    """Every board and part."""
    store = everything()
    boards = [_board_line(b) for b in store.board_ids()]
    parts = [_part_line(p) for p in store.part_ids()]
    if form == "json":
        print_json({"boards": boards, "parts": parts})
        return
    for heading, rows in (("boards", boards), ("parts", parts)):
        click.echo(heading)
        for row in rows:
            click.echo(f"  {row['id']:18}{row['title']:16}{row['summary']}")


def _board_line(board_id: str) -> dict[str, str]:
    """What is listed of a board; one of the maker's own that cannot be used says so."""
    try:
        board = everything().board(board_id)
    except BrokenEntryError as error:
        return {"id": board_id, "title": "–", "summary": str(error)}
    return {"id": board_id, "title": board.title, "summary": board.summary}


def _part_line(part_id: str) -> dict[str, str]:
    try:
        kind = everything().kind(part_id)
    except BrokenEntryError as error:
        return {"id": part_id, "title": "–", "summary": str(error)}
    return {"id": part_id, "title": kind.title, "summary": kind.summary}


@command.command("check")
@click.argument("file", type=click.Path(path_type=Path))
def check(file: Path) -> None:
    """Everything that is wrong with a board or part FILE, each with its place and the nearest valid word.

    Exit status: 0 nothing, 2 something.
    """
    from knotplan.exchange import part_file
    from knotplan.exchange.board_file import BoardFileError, load

    try:
        if part_file.looks_like(file):
            kind = part_file.load(file)
            click.echo(f"{file}: {kind.title}, {len(kind.make({}).leads)} leads; nothing is wrong")
            return
        board = load(file)
    except (BoardFileError, part_file.PartFileError) as error:
        stop(f"knotplan: {error}", 2)
    except OSError as error:
        stop(f"knotplan: {file}: {error.strerror}", 2)
    count = sum(pin.kind == "io" for pin in board.pins.values())
    click.echo(
        f"{file}: {board.title}, {len(board.pins)} contacts, {count} of them signal pins; nothing is wrong"
    )


@command.command("chart")
@click.argument("board")
@click.option(
    "-o",
    "--output",
    required=True,
    type=click.Path(path_type=Path, dir_okay=False),
    help="File to write: .svg, .pdf or .png.",
)
@click.option("--schemes", default="", help="Names to show, with commas; all if not given.")
def chart(board: str, output: Path, schemes: str) -> None:
    """Write the chart of BOARD: every pin by its names, to keep beside the bench."""
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.plan.document import Plan
    from knotplan.exchange.files import write_atomically

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
    if output.suffix not in CHARTS:
        stop(f"knotplan: {output}: a chart is written as {', '.join(CHARTS)}", 2)
    try:
        write_atomically(output, _chart(circuit, wanted, output.suffix))
    except OSError as error:
        stop(f"knotplan: {output}: {error.strerror}", 2)
    click.echo(f"wrote {output}")


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


@command.command("show")
@click.argument("id")
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
    for lead in part.leads.values():
        click.echo(f"  {lead.title:10} {' or '.join(words(n) for n in lead.needs)}")
    for name, param in part.params.items():
        options = ", ".join(param.choices) or f"{param.least:g} to {param.most:g} {param.unit}"
        click.echo(f"  {name}: {options} (usually {param.default})")

"""Tables on a terminal: columns as wide as they need, and lines that fit."""

import shutil
import sys
import textwrap
from collections.abc import Iterator, Sequence

import click

BETWEEN = "  "
NARROWEST = 8
"""letters of a column that is wrapped; with less, a table is no help"""


def print_table(rows: Sequence[Sequence[str]]) -> None:
    """Rows of cells, the first of them the heads. What goes elsewhere than to a terminal is never wrapped."""
    for line in table(rows, terminal_width()):
        click.echo(line)


def terminal_width() -> int | None:
    """Letters in a line of the terminal; nothing where the result goes elsewhere."""
    return shutil.get_terminal_size().columns if sys.stdout.isatty() else None


def table(rows: Sequence[Sequence[str]], width: int | None) -> Iterator[str]:
    """The lines of a table.

    Columns that are too wide for the line are wrapped. Where that is not enough, each row is a paragraph with
    a line for each of its cells.

    >>> print(*table([["lead", "which is"], ["anode", "the longer leg"]], 17), sep="|")
    lead   which is|anode  the longer|       leg
    """
    widths = [max(map(len, column)) for column in zip(*rows, strict=True)]
    fitting = widths if width is None else _fitting(widths, width)
    if fitting is None:
        yield from _paragraphs(rows, width or 0)
        return
    for row in rows:
        cells = [(textwrap.wrap(c, w) if c else [""]) for c, w in zip(_kept(row), fitting, strict=True)]
        for k in range(max(map(len, cells))):
            line = (cell[k] if k < len(cell) else "" for cell in cells)
            yield BETWEEN.join(f"{_shown(c):{w}}" for c, w in zip(line, fitting, strict=True)).rstrip()


HARD = "\u00a0"
"""stands for the blanks that a cell begins with: they are an indent, and stay"""


def _kept(row: Sequence[str]) -> list[str]:
    return [HARD * (len(c) - len(c.lstrip(" "))) + c.lstrip(" ") for c in row]


def _shown(text: str) -> str:
    return text.replace(HARD, " ")


def _fitting(widths: list[int], width: int) -> list[int] | None:
    """Widths whose sum fits: the widest give way first. Nothing where they cannot."""
    room = width - len(BETWEEN) * (len(widths) - 1)
    if sum(widths) <= room:
        return widths
    most = max(widths)
    while most > NARROWEST and sum(min(w, most) for w in widths) > room:
        most -= 1
    fitting = [min(w, most) for w in widths]
    return fitting if sum(fitting) <= room else None


def _paragraphs(rows: Sequence[Sequence[str]], width: int) -> Iterator[str]:
    heads, *below = rows
    for row in below:
        for head, cell in zip(heads, row, strict=True):
            if cell.strip():
                text = f"{head}: {cell.strip()}" if head else cell.strip()
                yield from textwrap.wrap(text, max(width, NARROWEST), subsequent_indent=BETWEEN)
        yield ""

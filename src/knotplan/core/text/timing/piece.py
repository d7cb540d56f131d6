"""What is told: sentences and tables."""

from collections.abc import Iterator

from msgspec import Struct

Sentence = tuple[str, str]
"""(text, tone)"""


class Table(Struct, frozen=True):
    """Rows for a program, or for whoever sets something up."""

    title: str
    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    shades: tuple[int, ...] = ()
    """counts of brightness to be shown as what they look like"""


class Description(Struct, frozen=True):
    """Everything about one part."""

    lines: tuple[Sentence, ...]
    tables: tuple[Table, ...]


Pieces = Iterator[Sentence | Table]

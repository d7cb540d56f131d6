"""What is told: sentences and tables."""

from collections.abc import Iterator

from msgspec import Struct

Said = tuple[str, str]
"""(text, tone)"""


class Table(Struct, frozen=True):
    """Rows for a program, or for whoever sets something up."""

    title: str
    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    shades: tuple[int, ...] = ()
    """counts of brightness to be shown as what they look like"""


class Told(Struct, frozen=True):
    """Everything about one part."""

    lines: tuple[Said, ...]
    tables: tuple[Table, ...]


Pieces = Iterator[Said | Table]

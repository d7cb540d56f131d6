"""A table as it was understood."""

from msgspec import Struct


class Table(Struct, frozen=True):
    """Headings (made up where there are none) and rows, all of one width."""

    name: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


class Taken(Struct, frozen=True):
    """What a table is taken for; whoever reads it may say otherwise."""

    encoding: str
    sign: str
    """what stands between two cells"""
    head: int
    """the row in which the headings stand, from 1; 0 where there are none"""
    deep: int = 1
    """rows of headings: with two, the upper one is about several columns each"""
    two_sided: bool = False
    """the left half is one side of the board, the right half the other"""


Rows = tuple[tuple[str, ...], ...]

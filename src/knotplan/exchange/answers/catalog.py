"""What `knotplan catalog list` and `catalog show` print with --format json: of the second the board or part
itself, with its id."""

from msgspec import Struct

from knotplan.catalog.board.board import Board
from knotplan.catalog.part.part import Part

__all__ = ["Board", "CatalogAnswer", "EntryAnswer", "Part"]


class EntryAnswer(Struct, frozen=True):
    """A board or a part."""

    id: str
    """as plans name it"""
    title: str
    """what it is called"""
    summary: str
    """what it is; of one that cannot be used, why"""


class CatalogAnswer(Struct, frozen=True):
    """What the catalogue has."""

    boards: list[EntryAnswer]
    """boards, your own behind those that come with the program"""
    parts: list[EntryAnswer]
    """parts"""

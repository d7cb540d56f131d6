"""What `knotplan catalog list --format json` prints."""

from msgspec import Struct


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

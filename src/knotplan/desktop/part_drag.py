"""A part of the catalogue on its way from a list onto the bench."""

import msgspec
from PySide6.QtCore import QMimeData

from knotplan.catalog.search import MOST_AT_ONCE

PART_MIME = "application/x-knotplan-part"


class Dragged(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is dragged."""

    part: str
    name: str
    params: dict[str, str | float]
    count: int = 1


def as_bytes(what: Dragged) -> bytes:
    """As the other end reads it."""
    return msgspec.json.encode(what)


def dragged(data: QMimeData) -> Dragged | None:
    """The part that is dragged; nothing where something else is, or what is no part at all."""
    if not data.hasFormat(PART_MIME):
        return None
    try:
        what = msgspec.json.decode(bytes(data.data(PART_MIME).data()), type=Dragged)
    except (msgspec.DecodeError, ValueError):
        return None
    return what if 1 <= what.count <= MOST_AT_ONCE else None

"""Catalogue files in a form that is read at once: people write TOML, and
parsing it takes longer than all the rest.

Beside each file's tree its whole text is kept, and compared: what is kept is never out of date. Before both
stands their checksum: what is damaged is made anew. A folder that cannot be written only costs time.
"""

import os
import zlib
from pathlib import Path
from typing import Any

import msgspec

from knotplan.catalog.reading import read_utf8, read_whole
from knotplan.catalog.toml_text import parsed

MOST_BYTES = 4_000_000
"""of a file of the catalogue, and of what is kept of it"""


class _Kept(msgspec.Struct):
    text: str
    tree: dict[str, Any]


def tree_of(path: Path, folder: Path | None, most: int = MOST_BYTES) -> dict[str, Any]:
    """The tree of a TOML file of at most `most` bytes; raises OSError, ValueError or RecursionError."""
    text = read_utf8(path, most)
    kept = folder / f"{path.parent.name}-{path.stem}.json" if folder else None
    if kept is not None:
        try:
            checksum, _, data = read_whole(kept, MOST_BYTES).partition(b"\n")
            if checksum == _checksum(data):
                stored = msgspec.json.decode(data, type=_Kept)
                if stored.text == text:
                    return stored.tree
        except (OSError, msgspec.DecodeError, RecursionError):
            pass
    tree = parsed(text)
    if kept is not None:
        _keep(kept, text, tree)
    return tree


def _checksum(data: bytes) -> bytes:
    return b"%08x" % zlib.crc32(data)


def _keep(path: Path, text: str, tree: dict[str, Any]) -> None:
    """Writes the tree beside its text, unless JSON cannot hold it (dates, infinities)."""
    try:
        data = msgspec.json.encode(_Kept(text, tree))
        if msgspec.json.decode(data, type=_Kept).tree != tree:
            return
        path.parent.mkdir(parents=True, exist_ok=True)
        part = path.with_suffix(f".{os.getpid()}")
        part.write_bytes(_checksum(data) + b"\n" + data)
        part.replace(path)
    except (OSError, TypeError, UnicodeEncodeError, RecursionError):
        pass

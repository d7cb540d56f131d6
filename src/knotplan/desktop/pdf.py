"""A PDF file: all of it vectors and text, and the same to the byte for the same pages.

The toolkit writes the moment and a random number into each. Here the number follows from the title, and the
moment is that of SOURCE_DATE_EPOCH (reproducible-builds.org) where it is set. It writes no structure tags.
"""

import os
import re
import uuid
from collections.abc import Callable
from datetime import UTC, datetime

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QUuid
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter

from knotplan import HOME

POINT_DOTS = 72
INFO_DATE = re.compile(rb"\(D:\d{14}Z\)")
XMP_DATE = re.compile(rb"(?<=Date=\")\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:Z|\+00:00)(?=\")")


def pdf_bytes(
    title: str, paint: Callable[[QPainter, Callable[[], bool]], None], *, across: bool, fine: int = 1
) -> bytes:
    """A PDF of A4 pages, across or upright. `paint` is given a painter in points and what begins a new page;
    `fine` is how many dots a point has."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(title)
    writer.setCreator("Knot Plan")
    writer.setDocumentId(QUuid(str(uuid.uuid5(uuid.NAMESPACE_URL, f"{HOME}/{title}"))))
    way = QPageLayout.Orientation.Landscape if across else QPageLayout.Orientation.Portrait
    writer.setPageLayout(QPageLayout(QPageSize(QPageSize.PageSizeId.A4), way, QMarginsF(0, 0, 0, 0)))
    writer.setResolution(POINT_DOTS * fine)
    with QPainter(writer) as painter:
        painter.scale(fine, fine)
        paint(painter, writer.newPage)
    buffer.close()
    return _dated(bytes(data.data()))


def _dated(data: bytes) -> bytes:
    """The file with the moment that is asked for; each date stays as long as it is, so that no place
    moves."""
    moment = os.environ.get("SOURCE_DATE_EPOCH", "")
    if not moment.isdecimal():
        return data
    day = datetime.fromtimestamp(int(moment), UTC)
    data = INFO_DATE.sub(f"(D:{day:%Y%m%d%H%M%S}Z)".encode(), data)
    return XMP_DATE.sub(lambda found: _as_long(f"{day:%Y-%m-%dT%H:%M:%S}", found[0]), data)


def _as_long(text: str, was: bytes) -> bytes:
    return text.encode() + was[len(text) :]

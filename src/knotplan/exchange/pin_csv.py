"""Tables of pins as CSV (RFC 4180)."""

import csv
import io
from collections.abc import Iterable

from knotplan.core.text.pin_table import PinRow
from knotplan.exchange.exports.parts_list import tame


def pins_csv(headings: Iterable[str], rows: Iterable[PinRow]) -> str:
    """The table with its headings; no cell is taken for a formula."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([tame(h) for h in headings])
    writer.writerows([tame(c) for c in row.cells] for row in rows)
    return out.getvalue()

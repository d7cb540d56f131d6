"""Tables of pins as CSV (RFC 4180)."""

from collections.abc import Iterable

from knotplan.core.text.pin_table import PinRow
from knotplan.exchange.tables import as_csv


def pins_csv(headings: Iterable[str], rows: Iterable[PinRow]) -> str:
    """The table with its headings; no cell is taken for a formula."""
    return as_csv(headings, (row.cells for row in rows))

"""Tables as CSV (RFC 4180) and as text with tabs."""

import csv
import io
from collections.abc import Iterable, Sequence

from knotplan.exchange.exports.parts_list import tame
from knotplan.exchange.plain_text import one_line


def as_csv(heads: Iterable[str], rows: Iterable[Iterable[str]]) -> str:
    """A table with its headings; no cell is taken for a formula."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([tame(h) for h in heads])
    writer.writerows([tame(cell) for cell in row] for row in rows)
    return out.getvalue()


def as_tabbed(heads: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A table to paste into a spreadsheet; one column goes without its heading."""
    lines = [heads, *rows] if len(heads) > 1 else list(rows)
    return "\n".join("\t".join(one_line(tame(cell)) for cell in line) for line in lines) + "\n"

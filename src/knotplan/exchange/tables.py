"""Tables as CSV (RFC 4180) and as text with tabs."""

import csv
import io
import re
from collections.abc import Iterable, Sequence

from knotplan.exchange.plain_text import one_line, tame

SIGNED = re.compile(r"[-+]\d+(\.\d+)?( – [-+]?\d+(\.\d+)?)? [a-zA-ZΩ°µ%²]+")
"""a quantity with a sign, or a range of it: nothing in it can be reckoned"""


def tamed(cell: str) -> str:
    """A cell that no spreadsheet takes for a formula; quantities stay as they are.

    >>> tamed("-0.3 – 3.6 V"), tamed("-1+A1"), tamed("-5")
    ('-0.3 – 3.6 V', "'-1+A1", "'-5")
    """
    return cell if SIGNED.fullmatch(cell) else tame(cell)


def as_csv(heads: Iterable[str], rows: Iterable[Iterable[str]]) -> str:
    """A table with its headings; no cell is taken for a formula."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([tamed(h) for h in heads])
    writer.writerows([tamed(cell) for cell in row] for row in rows)
    return out.getvalue()


def as_tabbed(heads: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A table to paste into a spreadsheet; one column goes without its heading."""
    lines = [heads, *rows] if len(heads) > 1 else list(rows)
    return "\n".join("\t".join(one_line(tamed(cell)) for cell in line) for line in lines) + "\n"

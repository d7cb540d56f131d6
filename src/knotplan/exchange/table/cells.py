"""The cells of a text (RFC 4180, and what spreadsheets make of it)."""

import csv
import io

from knotplan.exchange.table.table import Rows

SIGNS = {",": "comma", ";": "semicolon", "\t": "tabulator", "|": "upright stroke"}
DIRECTIVE = "sep="
"""a first line by which spreadsheets say what parts the cells"""
LOOKED_AT = 60


def directed(text: str) -> tuple[str, str]:
    """(what a first line says that parts the cells, the text without that line); nothing where none does."""
    first, _, rest = text.lstrip("\ufeff").partition("\n")
    said = first.strip().strip('"')
    if said.lower().startswith(DIRECTIVE) and len(said.expandtabs(1)) <= len(DIRECTIVE) + 1:
        return first.strip().strip('"')[len(DIRECTIVE) :] or "\t", rest
    return "", text


def cells(text: str, sign: str) -> Rows:
    """Rows that have something in them. A line end inside quotes belongs to its cell, and parts words there.
    Raises csv.Error."""
    _, plain = directed(text)
    rows = (
        tuple(" ".join(c.split()) for c in row)
        for row in csv.reader(io.StringIO(plain, newline=""), delimiter=sign, strict=True)
    )
    kept = tuple(row for row in rows if any(row))
    if sign == "|":  # a table of a text page: strokes at both ends, and a line of dashes
        kept = _of_page(kept)
    return kept


def _of_page(rows: Rows) -> Rows:
    plain = tuple(row for row in rows if not all(set(c) <= set("-:+= ") for c in row))
    if plain and all(not row[0] and not row[-1] for row in plain if len(row) > 1):
        return tuple(row[1:-1] for row in plain)
    return plain


def parting(text: str) -> str:
    """The sign that parts the cells: the one that is said, or by which most rows are equally wide."""
    said, plain = directed(text)
    if said in SIGNS:
        return said

    def fits(sign: str) -> tuple[int, int]:
        try:
            rows = cells(plain, sign)[:LOOKED_AT]
        except csv.Error:
            return (0, 0)
        widths = [len(row) for row in rows if len(row) > 1]
        usual = max(set(widths), key=widths.count) if widths else 0
        return (widths.count(usual), usual)

    return max(SIGNS, key=fits)

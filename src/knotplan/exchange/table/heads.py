"""Where the headings of a table stand: below titles, in one row or in two of which the upper one is
merged."""

import re

from knotplan.exchange.table.table import Rows, Taken

MOST_HEADS = 12
"""rows in which a heading is looked for"""
DIGIT = re.compile(r"\d")


def usual_width(rows: Rows) -> int:
    """So many cells most rows have that have several; 1 for a list."""
    widths = [len(row) for row in rows if sum(map(bool, row)) > 1]
    return max(set(widths), key=lambda w: (widths.count(w), w)) if widths else 1


def guess(rows: Rows, known: frozenset[str]) -> tuple[int, int]:
    """(row of the headings from 1, how many rows they are): 0 where there are none. `known` are words that
    headings have."""
    wide = usual_width(rows)
    at = next((k for k, row in enumerate(rows[:MOST_HEADS]) if _is_row(row, wide)), 0)
    if not _is_heading(rows[at], rows[at + 1 :], known):
        return (at, 1) if at and _is_heading(rows[at - 1], rows[at:], known) else (0, 1)
    while at + 1 < min(len(rows) - 1, MOST_HEADS) and _goes_on(rows[at], rows[at + 1], rows[at + 2 :], known):
        at += 1
    several = at and _is_merged(rows[at - 1]) and sum(map(bool, rows[at - 1])) > 1
    return (at, 2) if several else (at + 1, 1)


def _goes_on(row: tuple[str, ...], following: tuple[str, ...], below: Rows, known: frozenset[str]) -> bool:
    """The row below is a better heading: this one is merged, or a title."""
    named = any(cell.casefold() in known for cell in following)
    return _is_heading(following, below, known) and (named or _is_merged(row))


def _is_row(row: tuple[str, ...], wide: int) -> bool:
    """As wide as others, and no title over all of it."""
    return len(row) == wide and sum(map(bool, row)) > (1 if wide > 1 else 0)


def _is_heading(row: tuple[str, ...], below: Rows, known: frozenset[str]) -> bool:
    """A known word, or no digits where those below have some."""
    if not below:
        return False
    if any(cell.casefold() in known for cell in row):
        return True
    width = min(len(row), *(len(r) for r in below))
    numbered = [k for k in range(width) if sum(bool(DIGIT.search(r[k])) for r in below) > len(below) / 2]
    return bool(numbered) and not any(DIGIT.search(row[k]) for k in numbered)


def _is_merged(row: tuple[str, ...]) -> bool:
    """Some of its cells are empty, as spreadsheets write those that are covered by a merged one."""
    return any(row) and any(not cell for cell in row)


def joined(rows: Rows, taken: Taken) -> tuple[tuple[str, ...], Rows]:
    """(headings, the rows below them), each as wide as the widest row."""
    wide = max(map(len, rows), default=0)
    padded = tuple(row + ("",) * (wide - len(row)) for row in rows)
    if not taken.head:
        return tuple(f"column {k}" for k in range(1, wide + 1)), padded
    upper, lower = padded[taken.head - 1], padded[taken.head : taken.head + taken.deep - 1]
    names = list(upper)
    if lower:
        names = [" ".join(filter(None, pair)) for pair in zip(_spread(upper), lower[0], strict=True)]
    below = padded[taken.head - 1 + taken.deep :]
    return tuple(n or f"column {k}" for k, n in enumerate(names, 1)), below


def _spread(row: tuple[str, ...]) -> list[str]:
    """A merged cell stands for all that it covers: those to its right that are empty."""
    filled: list[str] = []
    for cell in row:
        filled.append(cell or (filled[-1] if filled else ""))
    return filled

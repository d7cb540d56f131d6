"""Tables with both sides of a board beside each other, as pin-outs are printed: the right half has the
columns of the left one, in the same order or mirrored."""

from knotplan.exchange.table.table import Rows

Pairs = tuple[tuple[int, int], ...]
"""(column of the left half, its column of the right half)"""


def pairs(headings: tuple[str, ...], rows: Rows) -> Pairs:
    """Which columns belong together; empty where the table has one side."""
    wide = len(headings)
    half = wide // 2
    if half < 1 or wide % 2:
        # a gap in the middle parts the halves
        middle = wide // 2
        if wide < 3 or any(row[middle] for row in rows):
            return ()
    left = list(range(half))
    right = list(range(wide - half, wide))
    plain = [h.casefold().strip() for h in headings]
    for other in (right[::-1], right):
        if all(_alike(plain[a], plain[b]) for a, b in zip(left, other, strict=True)) and _parted(
            rows, left, other
        ):
            return tuple(zip(left, other, strict=True))
    return ()


def _alike(a: str, b: str) -> bool:
    """The same heading, or one with a number or a side behind it; made-up ones are alike."""
    strip = " .0123456789"
    one, other = (x.replace("left", "").replace("right", "").strip(strip) for x in (a, b))
    return one == other


def _parted(rows: Rows, left: list[int], right: list[int]) -> bool:
    """Some pair of columns counts the pins: together they have every number once."""
    for a, b in zip(left, right, strict=True):
        numbers = [row[k] for row in rows for k in (a, b) if row[k]]
        counted = len(numbers) > len(rows) and all(n.isdecimal() for n in numbers)
        if counted and sorted(map(int, numbers)) == list(range(1, len(numbers) + 1)):
            return True
    return False


def unfolded(headings: tuple[str, ...], rows: Rows, paired: Pairs) -> tuple[tuple[str, ...], Rows]:
    """One row for each pin, in the order of the numbers that count them."""
    heads = tuple(headings[a] for a, _ in paired)
    halves = [tuple(row[a] for a, _ in paired) for row in rows] + [
        tuple(row[b] for _, b in paired) for row in rows
    ]
    kept = [row for row in halves if any(row)]
    counted = next(
        (
            k
            for k in range(len(heads))
            if all(row[k].isdecimal() for row in kept) and len({r[k] for r in kept}) == len(kept)
        ),
        None,
    )
    if counted is not None:
        kept.sort(key=lambda row: int(row[counted]))
    return heads, tuple(kept)

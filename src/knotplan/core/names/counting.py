"""How to find a hole by counting, told so that two people count to the same one.

Directions are those of the board as it lies on the bench (turned clockwise, seen from below where flipped);
the end that carries the mark is called by the mark. In a row one counts from the nearer end: never more than
half of it.
"""

from collections.abc import Iterable
from typing import Literal

from msgspec import Struct

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.header import Header
from knotplan.catalog.derived import derived

Turn = Literal[0, 90, 180, 270]
LEAST_APART_MM = 0.8
"""headers whose middles are nearer to each other lie on one line"""
HOLES = {"post": "pin", "pad": "pad", "clip": "clip pad"}
SIDES = {(-1, 0): "left", (1, 0): "right", (0, -1): "upper", (0, 1): "lower"}
ENDS = {(-1, 0): "left", (1, 0): "right", (0, -1): "top", (0, 1): "bottom"}
MARKED: dict[Turn, tuple[int, int]] = {0: (0, -1), 90: (1, 0), 180: (0, 1), 270: (-1, 0)}
"""towards the marked end, as the board lies"""


class Lies(Struct, frozen=True):
    """How the board lies: turned clockwise, seen from below."""

    turned: Turn = 0
    flipped: bool = False


class Place(Struct, frozen=True):
    """A hole as hands find it."""

    header: str
    """which header, where the board has several: "left header" """
    row: str
    """which row of it, where it has several: "right row" """
    count: str
    """"4th pin from the notch end" """
    before: str
    """the pins beside it in its row, by their ids: on the side of the end that is counted from, and beyond;
    empty where the row ends"""
    after: str
    beside: tuple[str, ...] = ()
    """those of the rows next to it"""
    counted: tuple[str, ...] = ()
    """the pins that are counted, from the end to this one"""

    @property
    def words(self) -> str:
        """Where it is: "left header, right row, 4th pin from the notch end"."""
        return ", ".join(filter(None, (self.header, self.row, self.count)))

    @property
    def neighbours(self) -> tuple[str, ...]:
        """The pins that a slip by one hole hits."""
        return tuple(filter(None, (self.before, self.after, *self.beside)))


def ordinal(number: int) -> str:
    """A number in a row.

    >>> [ordinal(n) for n in (1, 2, 3, 4, 11, 12, 13, 21, 102)]
    ['1st', '2nd', '3rd', '4th', '11th', '12th', '13th', '21st', '102nd']
    """
    tens = number // 10 % 10
    return f"{number}{'th' if tens == 1 else {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10, 'th')}"


def place_of(board: Board, pin_id: str, lies: Lies) -> Place:
    """Where a pin of the board is, in words and by its neighbours. Raises KeyError for what is no pin."""
    return _places(board, lies)[pin_id]


@derived
def _places(board: Board, lies: Lies) -> dict[str, Place]:
    named = _headers(board, lies)
    places: dict[str, Place] = {}
    for name, header in board.headers.items():
        places |= _in_header(board, name, header, named[name], lies)
    return places


def _seen(x: float, y: float, lies: Lies) -> tuple[float, float]:
    """A place of the board as it lies, to the right and down."""
    x = -x if lies.flipped else x
    return {0: (x, y), 90: (-y, x), 180: (-x, -y), 270: (y, -x)}[lies.turned]


def _mm(board: Board, pin_id: str, lies: Lies) -> tuple[float, float]:
    return _seen(*board.spot(pin_id), lies)


# --- which header -----------------------------------------------------------------------------------


def _headers(board: Board, lies: Lies) -> dict[str, str]:
    """What each header is called by where it lies; nothing where there is one alone."""
    middles = {}
    for name in board.headers:
        spots = [_mm(board, p, lies) for p, pin in board.pins.items() if pin.header == name]
        if spots:
            xs, ys = zip(*spots, strict=True)
            middles[name] = ((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2)
    if len(middles) == 1:
        return dict.fromkeys(board.headers, "")
    called = {name: _with_print(board.headers[name].title, _which(name, middles)) for name in middles}
    return {name: called.get(name, "") for name in board.headers}


def _which(name: str, middles: dict[str, tuple[float, float]]) -> str:
    """A header by its place among the others: the outermost on a side, else by its number along a line."""
    others = [m for n, m in middles.items() if n != name]
    x, y = middles[name]
    for axis, ways in ((0, ((-1, 0), (1, 0))), (1, ((0, -1), (0, 1)))):
        for way in ways:
            here = middles[name][axis] * way[axis]
            if all(here > m[axis] * way[axis] + LEAST_APART_MM for m in others):
                return f"{SIDES[way]} header"
    columns = _ranks(m[0] for m in middles.values())
    column = [m for m in middles.values() if columns[m[0]] == columns[x]]
    rows = _ranks(m[1] for m in column)
    across = f"{ordinal(columns[x] + 1)} from the left"
    down = f"{ordinal(rows[y] + 1)} from the top"
    if len(column) == 1:
        return f"header {across}"
    return f"header {across} and {down}" if len(set(columns.values())) > 1 else f"header {down}"


def _ranks(values: Iterable[float]) -> dict[float, int]:
    """The number of the line that each value lies on; values that are nearly the same lie on one."""
    ranks: dict[float, int] = {}
    last, rank = None, -1
    for value in sorted(values):
        if last is None or value > last + LEAST_APART_MM:
            rank += 1
            last = value
        ranks[value] = rank
    return ranks


def _with_print(title: str, which: str) -> str:
    """With the header's own name where that is printed beside it, as names with a figure are."""
    own = title.removeprefix("header ").strip()
    return f"{which} ({own})" if any(letter.isdigit() for letter in own) else which


# --- which row, and which hole in it ------------------------------------------------------------------


def _in_header(board: Board, name: str, header: Header, called: str, lies: Lies) -> dict[str, Place]:
    mine = [p for p, pin in board.pins.items() if pin.header == name]
    if not mine:
        return {}
    long = "col" if header.across else "row"
    short = "row" if header.across else "col"
    lines: dict[int, list[str]] = {}
    for pin_id in mine:
        lines.setdefault(getattr(board.pins[pin_id], short), []).append(pin_id)
    spots = {p: _mm(board, p, lies) for p in mine}
    upright = (lies.turned in (0, 180)) != header.across
    along = 1 if upright else 0
    rows = sorted(lines.values(), key=lambda line: spots[line[0]][1 - along])
    for line in rows:
        line.sort(key=lambda p: spots[p][along])
    by_number = {(getattr(board.pins[p], long), k): p for k, line in enumerate(rows) for p in line}
    places = {}
    for k, line in enumerate(rows):
        for at, pin_id in enumerate(line):
            number = getattr(board.pins[pin_id], long)
            beside = tuple(q for side in (-1, 1) if (q := by_number.get((number, k + side))) is not None)
            first, way = _counted(at, len(line), along)
            count = f"{ordinal(first)} {HOLES[header.contact]} from the {_end(board, header, way, lies)}"
            up, down = (line[at - 1] if at else ""), (line[at + 1] if at + 1 < len(line) else "")
            before, after = (up, down) if sum(way) < 0 else (down, up)
            counted = line[: at + 1] if sum(way) < 0 else line[at:][::-1]
            row = _row(k, len(rows), along)
            places[pin_id] = Place(called, row, count, before, after, beside, tuple(counted))
    return places


def _row(k: int, rows: int, along: int) -> str:
    """Which row it is, across the way in which the header runs."""
    low, high = ("left", "right") if along else ("upper", "lower")
    if rows == 1:
        return ""
    if k in (0, rows - 1):
        return f"{low if k == 0 else high} row"
    from_low = k + 1 <= rows - k
    end = {"left": "left", "right": "right", "upper": "top", "lower": "bottom"}[low if from_low else high]
    return f"{ordinal(min(k + 1, rows - k))} row from the {end}"


def _counted(at: int, holes: int, along: int) -> tuple[int, tuple[int, int]]:
    """(number, towards the end that is counted from): from the nearer end."""
    from_low = at + 1 <= holes - at
    way = -1 if from_low else 1
    return min(at + 1, holes - at), ((0, way) if along else (way, 0))


def _end(board: Board, header: Header, way: tuple[int, int], lies: Lies) -> str:
    """What an end of a row is called: by the mark where the row runs towards it."""
    if header.across:
        return ENDS[way]
    marked = MARKED[lies.turned]
    return board.outline.mark if way == marked else f"end away from the {_bare(board.outline.mark)}"


def _bare(mark: str) -> str:
    """ "notch" of "notch end"."""
    return mark.removesuffix(" end")

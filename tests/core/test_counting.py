"""Whoever follows the words on the drawn board comes to the pin, and to no other.

The follower below reads nothing but the words and the picture: where the contacts are drawn, which header
each belongs to, and where the mark is.
"""

import random
import re

import pytest
from msgspec.structs import replace

from knotplan.catalog.board.board import Board
from knotplan.catalog.load import shipped
from knotplan.core.draft import board as board_draft
from knotplan.core.draft.board_compiled import compiled
from knotplan.core.drawing.loom.board_place import PITCHES, board_place
from knotplan.core.names.counting import Lies, place_of
from knotplan.core.plan.document import BOARD

CATALOG = shipped()
LIES = [Lies(t, f) for t in (0, 90, 180, 270) for f in (False, True)]
TOWARDS = {
    "left": (-1, 0),
    "right": (1, 0),
    "top": (0, -1),
    "bottom": (0, 1),
    "upper": (0, -1),
    "lower": (0, 1),
}
Spots = dict[str, tuple[float, float]]


def follow(words: str, board: Board, drawn: Spots, marked: tuple[int, int]) -> list[str]:
    """The pins that somebody comes to who does what the words say."""
    pins = list(drawn)
    for piece in words.split(", "):
        if "header" in piece:
            pins = _header(piece, board, drawn)
        elif re.search(r"\brow\b", piece):
            pins = _row(piece, pins, drawn)
        else:
            pins = _count(piece, board, pins, drawn, marked)
    return pins


def _groups(board: Board, drawn: Spots) -> dict[str, list[str]]:
    groups: dict[str, list[str]] = {}
    for pin in drawn:
        groups.setdefault(board.pins[pin].header, []).append(pin)
    return groups


def _middle(pins: list[str], drawn: Spots) -> tuple[float, float]:
    xs, ys = [drawn[p][0] for p in pins], [drawn[p][1] for p in pins]
    return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2


def _header(piece: str, board: Board, drawn: Spots) -> list[str]:
    groups = list(_groups(board, drawn).values())
    piece = re.sub(r" \(.*\)$", "", piece)
    if found := re.fullmatch(r"(left|right|upper|lower) header", piece):
        dx, dy = TOWARDS[found[1]]
        return max(groups, key=lambda g: dx * _middle(g, drawn)[0] + dy * _middle(g, drawn)[1])
    for number, end in re.findall(r"(\d+)\w\w from the (left|top)", piece):
        axis = 0 if end == "left" else 1
        lines: list[list[list[str]]] = []
        for group in sorted(groups, key=lambda g: _middle(g, drawn)[axis]):
            if lines and _middle(group, drawn)[axis] - _middle(lines[-1][0], drawn)[axis] < 6:
                lines[-1].append(group)
            else:
                lines.append([group])
        groups = lines[int(number) - 1]
    (only,) = groups
    return only


def _lines(pins: list[str], drawn: Spots, axis: int) -> list[list[str]]:
    """Pins in lines across an axis of the page, in its direction."""
    lines: list[list[str]] = []
    for pin in sorted(pins, key=lambda p: drawn[p][axis]):
        if lines and abs(drawn[pin][axis] - drawn[lines[-1][0]][axis]) < 4:
            lines[-1].append(pin)
        else:
            lines.append([pin])
    return lines


def _row(piece: str, pins: list[str], drawn: Spots) -> list[str]:
    number, end = 1, piece.split(maxsplit=1)[0]
    if found := re.fullmatch(r"(\d+)\w\w row from the (\w+)", piece):
        number, end = int(found[1]), found[2]
    dx, dy = TOWARDS[end]
    lines = _lines(pins, drawn, 0 if dx else 1)
    return lines[number - 1] if dx + dy < 0 else lines[-number]


def _count(piece: str, board: Board, pins: list[str], drawn: Spots, marked: tuple[int, int]) -> list[str]:
    found = re.fullmatch(r"(\d+)\w\w (?:pin|pad|clip pad) from the (.+)", piece)
    assert found, piece
    if found[2] == board.outline.mark:
        way = marked
    elif found[2].startswith("end away from the "):
        assert board.outline.mark.startswith(found[2].removeprefix("end away from the "))
        way = (-marked[0], -marked[1])
    else:
        way = TOWARDS[found[2]]
    in_order = sorted(pins, key=lambda p: way[0] * drawn[p][0] + way[1] * drawn[p][1], reverse=True)
    return [in_order[int(found[1]) - 1]]


def picture(board: Board, lies: Lies, shortened: bool) -> tuple[Spots, tuple[int, int]]:
    place = board_place(board, board.spoken, lies.turned, lies.flipped, PITCHES[0], shortened)
    spots = {c.removeprefix(f"{BOARD}."): (s.x, s.y) for c, s in place.pins.items() if not s.socket}
    return spots, {0: (0, -1), 90: (1, 0), 180: (0, 1), 270: (-1, 0)}[lies.turned]


def holds(board: Board) -> None:
    for lies in LIES:
        for shortened in (False, True):
            drawn, marked = picture(board, lies, shortened)
            for pin in board.pins:
                where = place_of(board, pin, lies)
                assert follow(where.words, board, drawn, marked) == [pin], (board.id, lies, pin, where.words)


@pytest.mark.parametrize("name", CATALOG.board_ids())
def test_words_lead_to_the_pin_on_every_board(name: str) -> None:
    holds(CATALOG.board(name))


@pytest.mark.parametrize("name", CATALOG.board_ids())
def test_nobody_counts_more_than_half_a_row(name: str) -> None:
    board = CATALOG.board(name)
    for pin, spec in board.pins.items():
        header = board.headers[spec.header]
        found = re.match(r"\d+", place_of(board, pin, Lies()).count)
        assert found and int(found[0]) <= (max(header.rows, header.columns) + 1) // 2


@pytest.mark.parametrize("name", CATALOG.board_ids())
def test_neighbours_are_the_nearest_holes(name: str) -> None:
    """On the board's own millimetres: nothing in the header lies nearer than a neighbour does."""
    board = CATALOG.board(name)
    headers = board.headers
    drawn = {
        p: (x.col * headers[x.header].column_gap_mm, x.row * headers[x.header].pitch_mm)
        for p, x in board.pins.items()
    }
    for pin in board.pins:
        around = place_of(board, pin, Lies()).neighbours
        assert around and pin not in around and len(set(around)) == len(around)
        assert all(board.pins[n].header == board.pins[pin].header for n in around)
        for other in around:
            assert pin in place_of(board, other, Lies()).neighbours
        mine = [p for p in board.pins if board.pins[p].header == board.pins[pin].header and p != pin]

        def far(p: str, pin: str = pin) -> float:
            return (drawn[p][0] - drawn[pin][0]) ** 2 + (drawn[p][1] - drawn[pin][1]) ** 2

        assert far(min(mine, key=far)) == min(far(n) for n in around)


def own_board(rng: random.Random) -> Board | None:
    """A board of the maker's own: some headers of some size, anywhere, lying or upright, some cells empty."""
    draft = board_draft.from_board(CATALOG.board(rng.choice(CATALOG.board_ids())), "Own")
    for name in list(draft.headers):
        draft = board_draft.resize_header(
            draft, name, rng.randint(1, 9), rng.choice([1, 1, 2, 2, 3, 12]), 2.54
        )
    board, wrong = compiled(draft)
    if wrong or board is None:
        return None
    headers = {
        n: replace(h, x_mm=5.0 + 31 * (k % 2), y_mm=5.0 + 60.0 * (k // 2))
        for k, (n, h) in enumerate(board.headers.items())
    }
    outline = replace(
        board.outline, width_mm=80.0, height_mm=130.0, mark=rng.choice(["notch end", "red corner"])
    )
    return replace(board, headers=headers, outline=outline)


def test_words_lead_to_the_pin_on_boards_of_the_makers_own() -> None:
    rng, tried = random.Random(11), 0
    while tried < 40:
        board = own_board(rng)
        if board is not None:
            holds(board)
            tried += 1

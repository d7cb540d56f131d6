"""Every board, turned and seen from below, in every scheme: true to its
headers, and every name can be read."""

from itertools import combinations

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.drawing.loom.board_place import LABEL, PIN_R, PITCHES, BoardPlace, PinSpot, board_place
from knotplan.core.drawing.shapes import text_width

BOARDS = shipped().shipped_ids("board")
Box = tuple[float, float, float, float]


def label_box(spot: PinSpot, text: str) -> Box:
    """Left, top, right, bottom of a name as it is drawn; capitals are 0.73 of the size high."""
    w, h = text_width(text, LABEL), LABEL * 0.73
    x = spot.label_x - {"start": 0.0, "middle": w / 2, "end": w}[spot.label_anchor]
    if not spot.label_angle:
        return x, spot.label_y - h, x + w, spot.label_y
    along = {"start": (-w, 0.0), "middle": (-w / 2, w / 2), "end": (0.0, w)}[spot.label_anchor]
    return spot.label_x - h, spot.label_y + along[0], spot.label_x, spot.label_y + along[1]


def pins(place: BoardPlace, board) -> dict[str, PinSpot]:
    return {i: place.pins[f"board.{i}"] for i in board.pins}


@pytest.mark.parametrize("flipped", [False, True])
@pytest.mark.parametrize("turned", [0, 90, 180, 270])
@pytest.mark.parametrize("name", BOARDS)
def test_every_name_can_be_read(name: str, turned: int, flipped: bool) -> None:
    board = shipped().board(name)
    for scheme in board.schemes:
        place = board_place(board, scheme, turned, flipped)
        x, y, w, h = place.box
        boxes = {i: label_box(s, board.name(i, scheme)) for i, s in pins(place, board).items()}
        for i, (left, top, right, bottom) in boxes.items():
            assert x <= left and right <= x + w and y <= top and bottom <= y + h, (scheme, i)
            for j, s in pins(place, board).items():
                near_x, near_y = max(left, min(s.x, right)), max(top, min(s.y, bottom))
                assert (near_x - s.x) ** 2 + (near_y - s.y) ** 2 > (PIN_R - 1) ** 2, (scheme, i, j)
        for (i, a), (j, b) in combinations(boxes.items(), 2):
            assert a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] or b[3] <= a[1], (scheme, i, j)


@pytest.mark.parametrize("name", BOARDS)
def test_pins_lie_as_on_the_headers(name: str) -> None:
    """Neighbours along a header are one pitch apart, whichever way the board is turned."""
    board = shipped().board(name)
    for turned in (0, 90, 180, 270):
        place = pins(board_place(board, board.spoken, turned, False), board)
        for (i, p), (j, q) in combinations(board.pins.items(), 2):
            far = ((place[i].x - place[j].x) ** 2 + (place[i].y - place[j].y) ** 2) ** 0.5
            header = board.headers[p.header]
            if p.header == q.header and p.col == q.col and abs(p.row - q.row) == 1:
                assert far == pytest.approx(header.pitch_mm * PITCHES[0] / 2.54)
            assert far > 2 * PIN_R - 3, (i, j)


@pytest.mark.parametrize("name", BOARDS)
def test_turning_and_flipping_are_what_they_say(name: str) -> None:
    board = shipped().board(name)
    straight = pins(board_place(board, board.spoken, 0, False), board)
    for i, s in pins(board_place(board, board.spoken, 90, False), board).items():
        assert (s.x, s.y) == pytest.approx((-straight[i].y, straight[i].x))
    for i, s in pins(board_place(board, board.spoken, 180, False), board).items():
        assert (s.x, s.y) == pytest.approx((-straight[i].x, -straight[i].y))
    for i, s in pins(board_place(board, board.spoken, 0, True), board).items():
        assert (s.x, s.y) == pytest.approx((-straight[i].x, straight[i].y))


@pytest.mark.parametrize("name", BOARDS)
def test_cords_leave_over_an_edge_of_the_board(name: str) -> None:
    board = shipped().board(name)
    for turned in (0, 90, 180, 270):
        place = board_place(board, board.spoken, turned, False)
        x, y, w, h = place.box
        for s in pins(place, board).values():
            there, edge = {
                (-1.0, 0.0): (s.exit_x, x),
                (1.0, 0.0): (s.exit_x, x + w),
                (0.0, -1.0): (s.exit_y, y),
                (0.0, 1.0): (s.exit_y, y + h),
            }[s.out]
            assert there == pytest.approx(edge)

"""Cords on every board in every direction: from their lead to their pin,
inside the picture, round the board."""

from itertools import pairwise

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import BESIDE_EMPTY, Bench, Card
from knotplan.core.drawing.loom.card import card_shapes
from knotplan.core.drawing.loom.cords import Cord, cords
from knotplan.core.drawing.loom.room import lay_out
from knotplan.core.drawing.palette import LIGHT
from knotplan.core.drawing.shapes import Text, text_width
from knotplan.core.plan.document import Plan
from knotplan.core.plan.edits.parts import add_part
from knotplan.core.plan.edits.ties import tie
from knotplan.examples import example

EVERY = 4
"""of the signal pins of a board, each fourth has a button on it"""


def buttons(board: str, turned: int, flipped: bool = False) -> tuple[Circuit, Bench, tuple[Cord, ...]]:
    plan = Plan(board, turned=turned, flipped=flipped)
    pins = [i for i, p in shipped().board(board).pins.items() if p.kind == "io"]
    for k, pin in enumerate(pins[::EVERY]):
        plan = tie(add_part(plan, "push-button", f"Key {k}"), f"key-{k}.contact", f"board.{pin}")
    circuit = Circuit(plan, shipped())
    bench = lay_out(circuit)
    return circuit, bench, cords(circuit, bench)


def points(cord: Cord) -> list[tuple[float, float]]:
    made, (x0, y0) = [cord.start], cord.start
    for x1, y1, x2, y2, x3, y3 in cord.pieces:
        for k in range(1, 9):
            t, u = k / 8, 1 - k / 8
            made.append(
                (
                    u**3 * x0 + 3 * u * u * t * x1 + 3 * u * t * t * x2 + t**3 * x3,
                    u**3 * y0 + 3 * u * u * t * y1 + 3 * u * t * t * y2 + t**3 * y3,
                )
            )
        x0, y0 = x3, y3
    return made


@pytest.mark.parametrize("flipped", [False, True])
@pytest.mark.parametrize("turned", [0, 90, 180, 270])
@pytest.mark.parametrize("board", shipped().shipped_ids("board"))
def test_cords_run_from_their_lead_to_their_pin_inside_the_picture(
    board: str, turned: int, flipped: bool
) -> None:
    circuit, bench, made = buttons(board, turned, flipped)
    x, y, w, h = bench.bounds()
    for cord in made:
        lead, pin = bench.leads[cord.tie], bench.pins[circuit.plan.tie(cord.tie).to]
        way = points(cord)
        assert way[0] == (lead.x, lead.y)
        end = way[-1]
        # an outer pin's cord ends at the board's edge beside it, one behind it at the pin itself
        assert (
            min(
                (end[0] - pin.exit_x) ** 2 + (end[1] - pin.exit_y) ** 2,
                (end[0] - pin.x) ** 2 + (end[1] - pin.y) ** 2,
            )
            < 10**2
        )
        assert all(x - 24 <= px <= x + w + 24 and y - 24 <= py <= y + h + 24 for px, py in way), cord.tie
        assert all(abs(b[0] - a[0]) + abs(b[1] - a[1]) < 500 for a, b in pairwise(way))


@pytest.mark.parametrize("board", shipped().shipped_ids("board"))
def test_an_empty_bench_has_room_for_what_to_do_next_beside_the_board(board: str) -> None:
    bench = lay_out(Circuit(Plan(board), shipped()))
    assert bench.board[0] - bench.bounds()[0] >= BESIDE_EMPTY


@pytest.mark.parametrize("turned", [0, 90, 180, 270])
@pytest.mark.parametrize("board", ["carrick-72", "clove-60", "toggle", "bowline-40"])
def test_the_room_beside_a_board_is_on_the_side_where_its_parts_are(board: str, turned: int) -> None:
    pin = {"carrick-72": "x1-9", "clove-60": "w9", "toggle": "p2", "bowline-40": "p7"}[board]
    plan = Plan(board, turned=turned)
    plan = tie(add_part(plan, "push-button", "Key"), "key.contact", f"board.{pin}")
    bench = lay_out(Circuit(plan, shipped()))
    card = bench.card("key")
    x, y, w, h = bench.bounds()
    bx, by, bw, bh = bench.board
    rooms = {"left": bx - x, "above": by - y, "right": x + w - bx - bw, "below": y + h - by - bh}
    assert max(rooms, key=lambda side: rooms[side]) == card.side
    assert rooms[card.side] > 100


def word_boxes(card: Card) -> list[tuple[str, float, float, float, float]]:
    """(text, left, top, right, bottom) of what is written on a card, without the room of tall letters."""
    boxes = []
    for s in card_shapes(card.form, LIGHT):
        if isinstance(s, Text) and not s.angle:
            wide = text_width(s.text, s.size, s.bold)
            left = card.x + s.x - {"start": 0.0, "middle": wide / 2, "end": wide}[s.anchor]
            boxes.append(
                (s.text, left, card.y + s.y - 0.5 * s.size, left + wide, card.y + s.y - 0.05 * s.size)
            )
    return boxes


@pytest.mark.parametrize("turned", [0, 90, 180, 270])
@pytest.mark.parametrize(
    "scene", ["harbour-light-draft", "badge-wall", "kite-winder", "mist-bench", "seed-drawers"]
)
def test_a_tag_s_cord_covers_no_word_of_its_card(scene: str, turned: int) -> None:
    """The path of a supply or a ground of a selected part leaves the card beside what it says."""
    plan = replace(example(scene, shipped()), turned=turned)
    circuit = Circuit(plan, shipped())
    for room in (None, (880.0, 620.0)):
        bench = lay_out(circuit, None, room)
        tagged = {
            t.id: t for t in plan.ties if (s := bench.leads.get(t.lead)) and s.tag and t.to in bench.pins
        }
        for cord in cords(circuit, bench, frozenset(tagged)):
            if cord.tie not in tagged:
                continue
            card = bench.card(tagged[cord.tie].lead.partition(".")[0])
            for x, y in points(cord):
                covered = [t for t, a, b, c, d in word_boxes(card) if a < x < c and b < y < d]
                assert not covered, (cord.tie, card.side, covered)

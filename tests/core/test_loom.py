from importlib.resources import files
from itertools import combinations, pairwise, permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.cords import cords
from knotplan.core.drawing.loom.lanes import GAP_LEAST, spread
from knotplan.core.drawing.loom.order import crossings, ordered
from knotplan.core.drawing.loom.picture import picture
from knotplan.core.drawing.loom.room import lay_out
from knotplan.core.drawing.loom.view import Selection, look
from knotplan.core.drawing.palette import DARK, DARK_STRONG, LIGHT, LIGHT_STRONG, Palette
from knotplan.core.drawing.shapes import Text, shortened, text_width
from knotplan.core.plan import edits
from knotplan.examples import example
from tests.conftest import lay, look_at


@pytest.mark.parametrize("turns", range(4))
@pytest.mark.parametrize("flipped", [False, True])
@pytest.mark.parametrize("board", ["bowline-40", "clove-22"])
def test_pins_keep_their_pitch_however_the_board_lies(board: str, turns: int, flipped: bool) -> None:
    plan = lay(board, {}, {})
    for _ in range(turns):
        plan = edits.turn(plan)
    plan = edits.flip(plan) if flipped else plan
    bench = lay_out(Circuit(plan, shipped()))
    first, second = ("p1", "p3") if board == "bowline-40" else ("w1", "w2")
    a, b = bench.pins[f"board.{first}"], bench.pins[f"board.{second}"]
    assert (a.x - b.x) ** 2 + (a.y - b.y) ** 2 == pytest.approx(29**2)
    x, y, w, h = bench.board
    assert all(x <= s.x <= x + w and y <= s.y <= y + h for s in bench.pins.values())
    places = [(round(s.x), round(s.y)) for s in bench.pins.values()]
    assert len(set(places)) == len(places)


def test_position_one_lies_at_the_marked_end() -> None:
    """Seen from above with the mark up, position 1 is left and up; flipped it is
    right; turned by 90 it is right and up."""
    plan = lay("bowline-40", {}, {})

    def place(plan):
        spot = lay_out(Circuit(plan, shipped())).pins["board.p1"]
        return spot.x < 0, spot.y < 0

    assert place(plan) == (True, True)
    assert place(edits.flip(plan)) == (False, True)
    assert place(edits.turn(plan)) == (False, True)
    assert place(edits.turn(edits.turn(plan))) == (False, False)


@pytest.mark.parametrize("name", ["harbour-light", "harbour-light-draft"])
def test_cards_do_not_overlap_each_other_or_the_board(name: str) -> None:
    plan = example(name, shipped())
    for _ in range(4):
        bench = lay_out(Circuit(plan, shipped()))
        boxes = [(c.x, c.y, c.w, c.h) for c in bench.cards] + [bench.board]
        for (ax, ay, aw, ah), (bx, by, bw, bh) in combinations(boxes, 2):
            assert ax + aw <= bx or bx + bw <= ax or ay + ah <= by or by + bh <= ay
        plan = edits.turn(plan)


@given(st.lists(st.tuples(st.floats(-400, 400), st.floats(40, 200)), min_size=1, max_size=8))
def test_spreading_keeps_order_and_leaves_gaps(parts: list[tuple[float, float]]) -> None:
    heights = [h for _, h in parts]
    tops = spread([c for c, _ in parts], heights, [0.0] * len(parts))
    gaps = [b - a - h for (a, b), h in zip(pairwise(tops), heights, strict=False)]
    assert all(gap >= GAP_LEAST - 1e-6 for gap in gaps)
    assert all(gap == pytest.approx(gaps[0], abs=1e-6) for gap in gaps), "equal gaps"


@given(st.lists(st.lists(st.integers(0, 20), min_size=1, max_size=3, unique=True), min_size=2, max_size=5))
def test_order_of_parts_is_near_the_least_crossings(pins: list[list[int]]) -> None:
    """Against all orders: never worse than sorting by the middle, and mostly the optimum."""
    keys = {str(k): [float(p) for p in ps] for k, ps in enumerate(pins)}
    found = crossings([keys[p] for p in ordered(list(keys), keys)])
    by_middle = crossings([keys[p] for p in sorted(keys, key=lambda p: sum(keys[p]) / len(keys[p]))])
    least = min(crossings([keys[p] for p in order]) for order in permutations(keys))
    assert least <= found <= by_middle
    assert found <= least + 3


def test_a_cord_starts_at_its_lead_and_ends_at_the_boards_edge() -> None:
    circuit = Circuit(example("harbour-light", shipped()), shipped())
    bench = lay_out(circuit)
    for cord in cords(circuit, bench, frozenset(t.id for t in circuit.plan.ties)):
        lead = bench.leads[cord.tie]
        assert cord.start == (lead.x, lead.y)
        x, y = cord.pieces[-1][4:]
        spot = bench.pins.get(circuit.plan.tie(cord.tie).to)
        if spot is None:  # a hub's
            continue
        assert (x, y) == (spot.exit_x, spot.exit_y) or abs(x - spot.x) < 1


def test_supply_and_ground_have_no_cord_until_selected() -> None:
    circuit = Circuit(example("harbour-light", shipped()), shipped())
    bench = lay_out(circuit)
    drawn = {c.tie for c in cords(circuit, bench)}
    assert "flag.power" not in drawn and "door.common" not in drawn and "flag.signal" in drawn
    assert bench.leads["door.common"].tag and not bench.leads["flag.signal"].tag
    assert {c.tie for c in cords(circuit, bench, frozenset({"door.common"}))} - drawn == {"door.common"}


def test_switching_the_scheme_renames_everything_in_the_picture() -> None:
    plan = example("harbour-light", shipped())

    def texts(plan):
        report = look_at(plan)
        made = picture(report, lay_out(report.circuit), look(report, "fit", Selection()), LIGHT)
        return {s.text for s in made.shapes if isinstance(s, Text)}

    assert "L22" in texts(plan) and "line 62" not in texts(plan)
    kernel = texts(edits.speak(plan, "kernel"))
    assert "line 62" in kernel and "L22" not in kernel


def luminance(colour: str) -> float:
    """Relative luminance by WCAG 2.1."""
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    r, g, b = (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


@pytest.mark.parametrize("p", [LIGHT, DARK, LIGHT_STRONG, DARK_STRONG])
def test_text_has_contrast(p: Palette) -> None:
    grounds = (p.card, p.cloth, p.active_soft, p.care_soft, p.stop_soft)
    words = (p.ink, p.faint, p.active, p.stop, p.care_text, p.good)
    pairs = [
        *((word, ground) for word in words for ground in grounds),  # marks on selections too
        (p.ink, p.card),
        (p.ink, p.cloth),
        (p.faint, p.card),
        (p.faint, p.cloth),
        (p.active, p.card),
        (p.active, p.active_soft),
        (p.care_text, p.card),
        (p.stop, p.card),
        (p.board_text, p.board),
        (p.board_faint, p.board),
        (p.inverse_text, p.inverse),
        (p.card, p.active),
    ]
    strong = p in (LIGHT_STRONG, DARK_STRONG)
    for a, b in pairs:
        light, dark = sorted((luminance(a), luminance(b)), reverse=True)
        assert (light + 0.05) / (dark + 0.05) >= (7 if strong else 4.5), (a, b)
    for mark in (p.border, p.care_text, p.stop, p.active):
        for ground in (p.card, p.cloth):
            light, dark = sorted((luminance(mark), luminance(ground)), reverse=True)
            assert (light + 0.05) / (dark + 0.05) >= (4.5 if strong else 3), (mark, ground)


def test_controls_have_the_border_that_can_be_seen() -> None:
    """Every rule of the style sheet for something to type in, press or pick from."""
    sheet = (files("knotplan.desktop") / "look.qss").read_text("utf-8")
    rules = [line for line in sheet.splitlines() if "1px solid" in line]
    controls = ("QPushButton {", "QLineEdit, QComboBox", "QListWidget {", "QTableView {", "QSpinBox")
    for control in controls:
        mine = [line for line in rules if line.startswith(control) and ":focus" not in line]
        assert mine and all("1px solid $border" in line for line in mine), control


def test_shortened_text_fits() -> None:
    for room in range(20, 200, 15):
        assert text_width(shortened("push button, closes while pressed", 11, room), 11) <= max(room, 12)
    widths = [text_width("m" * n, 11) for n in range(5)]
    assert all(a < b for a, b in pairwise(widths))

"""A bench laid out for a room: nothing covers anything, cords keep apart, small edits move nothing."""

import math
from itertools import combinations, pairwise

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.beads import Rect, bead_box, overlap
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.board_place import PITCHES, board_place
from knotplan.core.drawing.loom.cords import cords, points
from knotplan.core.drawing.loom.room import Room, lay_out, scale_in
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.examples import SCENES, example

ROOMS: tuple[Room, ...] = ((662, 460), (876, 620), (1516, 900))
SMALL = [scene for scene in SCENES if scene != "organ-shutters"]
NEAR, SLANT = 4.5, 0.26
"""two cords run along one another where they are so near (points), at so small an angle (its sine)"""
Way = list[tuple[float, float]]


def along(a: Way, b: Way) -> float:
    """The length of one way that runs along another."""
    together = 0.0
    for (x0, y0), (x1, y1) in pairwise(a):
        length = math.hypot(x1 - x0, y1 - y0)
        x, y = (x0 + x1) / 2, (y0 + y1) / 2
        for (u0, v0), (u1, v1) in pairwise(b):
            step = math.hypot(u1 - u0, v1 - v0)
            if not step or not length:
                continue
            dx, dy = (u1 - u0) / step, (v1 - v0) / step
            at = max(0.0, min(step, (x - u0) * dx + (y - v0) * dy))
            near = math.hypot(x - u0 - at * dx, y - v0 - at * dy) < NEAR
            if near and abs((x1 - x0) * dy - (y1 - y0) * dx) / length < SLANT:
                together += length
                break
    return together


@pytest.mark.parametrize("turned", [0, 90, 180, 270])
@pytest.mark.parametrize("room", ROOMS)
@pytest.mark.parametrize("name", [f"{s}{tail}" for s in SMALL for tail in ("", "-draft")])
def test_beads_cover_no_card_no_board_and_no_other_bead(name: str, room: Room, turned) -> None:
    circuit = Circuit(replace(example(name, shipped()), turned=turned), shipped())
    bench = lay_out(circuit, None, room)
    solid: list[Rect] = [bench.board, *((c.x, c.y, c.w, c.h) for c in bench.cards)]
    for cord in cords(circuit, bench):
        for bead in cord.beads:
            box = bead_box(*bead)
            assert not any(overlap(box, other) > 0.5 for other in solid), (cord.tie, bead)
            solid.append(box)


@pytest.mark.parametrize(("turned", "most"), [(0, 60.0), (180, 60.0), (90, 90.0)])
@pytest.mark.parametrize("room", ROOMS)
@pytest.mark.parametrize("name", SMALL)
def test_cords_do_not_run_along_one_another(name: str, room: Room, turned, most: float) -> None:
    """But for those that end at the same pin."""
    circuit = Circuit(replace(example(name, shipped()), turned=turned), shipped())
    bench = lay_out(circuit, None, room)
    ways = {c.tie: points(c.start, c.pieces, 24) for c in cords(circuit, bench)}
    for a, b in combinations(ways, 2):
        if circuit.plan.tie(a).to != circuit.plan.tie(b).to:
            assert along(ways[a], ways[b]) <= most, (a, b)


def places(bench: Bench) -> dict[str, tuple[float, float]]:
    return {c.part: (c.x, c.y) for c in bench.cards}


@pytest.mark.parametrize("room", ROOMS)
@pytest.mark.parametrize("name", SMALL)
def test_small_edits_move_no_card(name: str, room: Room) -> None:
    """Another pin for a lead, another role, another name of the same width: nobody leaves the place."""
    plan = example(name, shipped())
    bench = lay_out(Circuit(plan, shipped()), None, room)
    signals = [
        t for t in plan.ties if t.to in bench.pins and t.lead in bench.leads and not bench.leads[t.lead].tag
    ]
    taken = {t.to for t in plan.ties}
    for tie in signals[:4]:
        side = bench.pins[tie.to].out
        free = [
            f"board.{p}"
            for p, pin in Circuit(plan, shipped()).board.pins.items()
            if pin.kind == "io" and f"board.{p}" not in taken and bench.pins[f"board.{p}"].out == side
        ]
        moved = edits.tie(plan, tie.lead, free[0]) if free else plan
        now = lay_out(Circuit(edits.set_role(moved, tie.id, "x"), shipped()), bench, room)
        part = tie.lead.partition(".")[0]
        others = {p: at for p, at in places(now).items() if p != part}
        same_order = all(now.order[s] == bench.order[s] for s in bench.order)
        if same_order:
            assert others == {p: at for p, at in places(bench).items() if p != part}
        assert now.setting == bench.setting


@pytest.mark.parametrize("name", SMALL)
def test_what_can_be_read_keeps_its_setting_and_what_cannot_takes_another(name: str) -> None:
    room = ROOMS[1]
    plan: Plan = example(name, shipped())
    bench = lay_out(Circuit(plan, shipped()), None, room)
    settings = {bench.setting}
    for k in range(14):
        plan = edits.add_part(plan, "push-button", f"Key {k}")
        bench = lay_out(Circuit(plan, shipped()), bench, room)
        settings.add(bench.setting)
        if scale_in(bench, room) >= 1:
            continue
        fresh = lay_out(Circuit(plan, shipped()), None, room)
        assert scale_in(bench, room) >= 0.85 * scale_in(fresh, room), "never much smaller than it has to be"
    assert len(settings) > 1 or scale_in(bench, room) >= 1


@pytest.mark.parametrize("pitch", PITCHES)
@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_a_break_line_leaves_every_header_as_it_is(name: str, pitch: float) -> None:
    board = shipped().board(name)
    whole = board_place(board, board.spoken, 0, False, pitch)
    cut = board_place(board, board.spoken, 0, False, pitch, True)
    for header in board.headers:
        mine = [f"board.{p}" for p, pin in board.pins.items() if pin.header == header]
        for a, b in pairwise(mine):
            for place in (whole, cut):
                assert a in place.pins and b in place.pins
            assert cut.pins[b].x - cut.pins[a].x == pytest.approx(whole.pins[b].x - whole.pins[a].x)
            assert cut.pins[b].y - cut.pins[a].y == pytest.approx(whole.pins[b].y - whole.pins[a].y)
    assert cut.box[2] <= whole.box[2] + 1e-6 and cut.box[3] <= whole.box[3] + 1e-6
    assert bool(cut.breaks) == (cut.box != whole.box)


@pytest.mark.parametrize("name", shipped().shipped_ids("board"))
def test_names_can_be_read_on_a_shortened_board(name: str) -> None:
    """No break line runs through a pin or its name, and no name through another."""
    from tests.core.test_boards_drawn import label_box

    board = shipped().board(name)
    for pitch in PITCHES:
        place = board_place(board, board.spoken, 0, False, pitch, True)
        boxes = {p: label_box(place.pins[f"board.{p}"], board.name(p, board.spoken)) for p in board.pins}
        for (i, a), (j, b) in combinations(boxes.items(), 2):
            assert a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] or b[3] <= a[1], (pitch, i, j)
        for x1, y1, x2, y2 in place.breaks:
            for i, (left, top, right, bottom) in boxes.items():
                clear = right < x1 - 4 or left > x1 + 4 if x1 == x2 else bottom < y1 - 4 or top > y1 + 4
                assert clear, (pitch, i, (x1, y1, x2, y2))

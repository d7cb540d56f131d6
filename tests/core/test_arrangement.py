"""The bench lays itself out: hubs with what hangs on them, few
crossings, nothing shuffled by a small edit."""

from itertools import pairwise, permutations, product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.cords import cords
from knotplan.core.drawing.loom.one_side import TALLEST
from knotplan.core.drawing.loom.order import crossings, kept, ordered
from knotplan.core.drawing.loom.room import lay_out, scale_in
from knotplan.core.drawing.loom.sketch import Sketch
from knotplan.core.drawing.loom.tree import showing, tree_of
from knotplan.core.drawing.palette import LIGHT
from knotplan.core.plan import edits
from knotplan.core.plan.document import PlacedPart, Plan, Tie
from knotplan.examples import example
from tests.conftest import lay, look_at

WINDER = lay(
    "clove-22",
    {"Lens": "geared-stepper", "Driver": "coil-driver", "Door": "push-button", "Flag": "micro-servo"},
    {
        "lens.blue": "driver.out1",
        "lens.pink": "driver.out2",
        "driver.in1": "e5",
        "driver.in2": "e6",
        "door.contact": "w4",
        "flag.signal": "e8",
    },
)


@given(st.lists(st.lists(st.floats(0, 100), min_size=1, max_size=3), min_size=2, max_size=6))
@settings(max_examples=150, deadline=None)
def test_crossings_of_a_column_are_near_the_least_by_all_permutations(ends: list[list[float]]) -> None:
    keys = {f"p{k}": e for k, e in enumerate(ends)}
    least = min(crossings([keys[p] for p in order]) for order in permutations(keys))
    assert crossings([keys[p] for p in ordered(list(keys), keys)]) <= least + 1


@given(st.lists(st.lists(st.floats(0, 100), min_size=1, max_size=3), min_size=31, max_size=60))
@settings(max_examples=30, deadline=None)
def test_a_long_column_has_no_neighbours_that_would_rather_change_places(ends: list[list[float]]) -> None:
    keys = {f"p{k}": e for k, e in enumerate(ends)}
    order = ordered(list(keys), keys)
    assert sorted(order) == sorted(keys)
    for above, below in pairwise(order):
        assert crossings([keys[above], keys[below]]) <= crossings([keys[below], keys[above]])


def test_cards_of_one_cord_each_do_not_cross_at_all() -> None:
    keys = {f"p{k}": [float((k * 7) % 11)] for k in range(11)}
    assert crossings([keys[p] for p in ordered(list(keys), keys)]) == 0


@given(
    st.lists(st.lists(st.floats(0, 100), min_size=1, max_size=3), min_size=3, max_size=8), st.floats(0, 100)
)
def test_what_is_new_finds_its_place_and_the_rest_stays_in_order(ends: list[list[float]], new: float) -> None:
    keys = {f"p{k}": e for k, e in enumerate(ends)} | {"new": [new]}
    before = [p for p in ordered(list(keys), keys) if p != "new"]
    after = kept(list(keys), keys, before, set())
    assert [p for p in after if p != "new"] == before
    tried = [[*before[:k], "new", *before[k:]] for k in range(len(before) + 1)]
    assert crossings([keys[p] for p in after]) == min(crossings([keys[p] for p in t]) for t in tried)


def test_a_part_hangs_beyond_the_hub_that_it_is_tied_to() -> None:
    bench = lay_out(Circuit(WINDER, shipped()))
    hub, lens = bench.card("driver"), bench.card("lens")
    assert hub.side == lens.side == "right"
    assert hub.x > 0 and lens.x > hub.x + hub.w, "further out, with room for cords"
    out, end = bench.leads["driver.out1"], bench.leads["lens.blue"]
    assert out.x == hub.x + hub.w and out.out == (1.0, 0.0) and end.x == lens.x and end.out == (-1.0, 0.0)
    assert bench.leads["driver.in1"].y == bench.leads["driver.out1"].y, (
        "an output lies beside the input that drives it"
    )
    assert tree_of(Circuit(WINDER, shipped())).parent == {"lens": "driver"}


def test_a_card_shows_what_is_needed_and_all_when_asked() -> None:
    def shown(plan: Plan) -> set[str]:
        shown = showing(Circuit(plan, shipped()), "driver")
        return {x for row in (*shown.rows, shown.tags) for x in row if x}

    few = shown(WINDER)
    assert {"driver.out1", "driver.in1", "driver.gnd"} <= few and "driver.out5" not in few
    everything = shown(edits.show_leads(WINDER, "driver", "all"))
    assert everything == {f"driver.{name}" for name in shipped().part("coil-driver", {}).leads}


def test_a_folded_hub_stands_for_what_hangs_on_it() -> None:
    plan = edits.show_leads(WINDER, "driver", "folded")
    circuit = Circuit(plan, shipped())
    bench = lay_out(circuit)
    assert "lens" not in bench.by_part and bench.inside == {"lens": "driver"}
    assert bench.card("lens") == bench.card("driver") and bench.spot("lens.blue") is not None
    assert not [c for c in cords(circuit, bench) if c.tie.startswith("lens")]
    assert [c for c in cords(circuit, bench, frozenset({"lens.blue"})) if c.tie == "lens.blue"], (
        "asked for, it is drawn"
    )
    unfolded = lay_out(Circuit(edits.show_leads(plan, "driver", ""), shipped()))
    assert "lens" in unfolded.by_part


def positions(bench: Bench) -> dict[str, tuple[str, int]]:
    return {p: (side, k) for side, parts in bench.order.items() for k, p in enumerate(parts)}


def test_a_new_tie_moves_nobody_else() -> None:
    plan = example("harbour-light", shipped())
    bench = lay_out(Circuit(plan, shipped()))
    for contact in ("board.p37", "board.p13", "board.p8"):
        now = edits.tie(edits.add_part(plan, "push-button", "Bell rope"), "bell-rope.contact", contact)
        untied = lay_out(Circuit(edits.add_part(plan, "push-button", "Bell rope"), shipped()), bench)
        after = lay_out(Circuit(now, shipped()), untied)
        for side in ("left", "right"):
            same = [p for p in after.order[side] if p != "bell-rope"]
            assert same == list(bench.order[side]), contact
    moved = lay_out(Circuit(edits.tie(plan, "flag.signal", "board.p24"), shipped()), bench)
    others = {p: place[0] for p, place in positions(moved).items() if p != "flag"}
    assert others == {p: place[0] for p, place in positions(bench).items() if p != "flag"}


def test_undoing_gives_the_same_bench_again() -> None:
    plan = example("harbour-light", shipped())
    bench = lay_out(Circuit(plan, shipped()))
    there = lay_out(Circuit(edits.untie(plan, "flag.signal"), shipped()), bench)
    back = lay_out(Circuit(plan, shipped()), there)
    assert positions(back) == positions(bench)


def ranks(hubs: int, servos: int) -> Plan:
    """Hubs in a row with servos on each, folded."""
    parts, ties = [], []
    for h in range(hubs):
        parts.append(PlacedPart(f"r{h}", "pwm-hub", f"Rank {h}", shows="folded"))
        ties += [Tie(f"r{h}.{a}", f"r{h}.{a}", f"board.{b}") for a, b in (("sda", "p7"), ("scl", "p8"))]
        for k in range(servos):
            parts.append(PlacedPart(f"s{h}-{k}", "micro-servo", f"Shutter {h}-{k}"))
            ties.append(Tie(f"s{h}-{k}.signal", f"s{h}-{k}.signal", f"r{h}.ch{k}"))
    return Plan("capstan-34", parts=tuple(parts), ties=tuple(ties))


@pytest.mark.parametrize("hubs", [6, 40])
def test_many_hubs_stand_in_columns_one_behind_another(hubs: int) -> None:
    bench = lay_out(Circuit(ranks(hubs, 3), shipped()))
    assert len(bench.cards) == hubs and len(bench.inside) == 3 * hubs
    columns: dict[float, list] = {}
    for card in bench.cards:
        columns.setdefault(card.x, []).append(card)
    for cards in columns.values():
        cards.sort(key=lambda c: c.y)
        assert cards[-1].y + cards[-1].h - cards[0].y <= TALLEST * 1.2
        assert all(a.y + a.h <= b.y for a, b in pairwise(cards))
    wide = {x: max(c.w for c in cards) for x, cards in columns.items()}
    assert all(a == b or a + wide[a] <= b or b + wide[b] <= a for a, b in product(columns, columns))


def test_from_afar_every_hub_has_a_name_and_one_line() -> None:
    plan = ranks(12, 2)
    report = look_at(plan)
    room = (420.0, 300.0)
    bench = lay_out(report.circuit, None, room)
    drawn = Sketch(report, bench, LIGHT).groups(scale_in(bench, room))
    shapes = [shape for group in drawn for shape in group.shapes]
    texts = {s.text for s in shapes if type(s).__name__ == "Text"}
    assert {f"Rank {k}" for k in range(12)} <= texts and "2 parts" in texts
    assert sum(type(s).__name__ == "Curve" for s in shapes) == 12, "data and clock of a hub in one line"

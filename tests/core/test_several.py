"""Parts copied and put in again: the same parts with the same ties among them, and nothing else changed."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.loom.layout import put_where
from knotplan.core.drawing.loom.room import lay_out
from knotplan.core.plan import edits
from knotplan.core.plan.document import BOARD, CarriedPart, Plan, split
from knotplan.core.plan.edits import EditError
from knotplan.core.plan.validity.faults import faults
from knotplan.examples import SCENES, example

SMALL = [scene for scene in SCENES if scene != "organ-shutters"]


def shape(plan: Plan, parts: list[str]) -> tuple[list[object], set[object]]:
    """Parts by their number instead of their id, and the ties among them."""
    number = {p: k for k, p in enumerate(parts)}

    def end(contact: str) -> tuple[object, str]:
        owner, name = split(contact)
        return number.get(owner, owner), name

    ties = {
        (end(t.lead), end(t.to), t.cord, t.pull, t.length_m, len(t.beads))
        for t in plan.ties
        if split(t.lead)[0] in number and split(t.to)[0] in number
    }
    return [(plan.part(p).part, plan.part(p).params, plan.part(p).shows) for p in parts], ties


@given(st.data())
@settings(max_examples=60, deadline=None)
def test_what_is_put_in_is_what_was_copied(data: st.DataObject) -> None:
    plan = example(data.draw(st.sampled_from(SMALL)), shipped())
    other = example(data.draw(st.sampled_from(SMALL)), shipped())
    chosen = data.draw(st.lists(st.sampled_from([p.id for p in plan.parts]), min_size=1, unique=True))
    copied = edits.excerpt(plan, chosen)
    into = edits.put_in(other, copied)
    before = {p.id for p in other.parts}
    new = [p.id for p in into.parts if p.id not in before]
    in_order = [p.id for p in plan.parts if p.id in chosen]
    if other.board == plan.board:
        assert shape(into, new) == shape(plan, in_order)
    else:  # a bead that leads to a rail of another board stays behind
        assert shape(into, new)[0] == shape(plan, in_order)[0]
        assert {t[:2] for t in shape(into, new)[1]} == {t[:2] for t in shape(plan, in_order)[1]}  # type: ignore[index]
    assert into.ties[: len(other.ties)] == other.ties and into.parts[: len(other.parts)] == other.parts
    assert list(faults(into, shipped())) == []
    assert len({p.name for p in into.parts}) == len(into.parts), "names stay apart"
    roles = [t.role.lower() for t in into.ties if t.role]
    assert len(set(roles)) == len(roles)


def test_ties_to_the_board_stay_behind() -> None:
    plan = example("harbour-light", shipped())
    copied = edits.excerpt(plan, {"lens", "lens-driver"})
    assert {split(t.to)[0] for t in copied.ties} == {"lens-driver"} and len(copied.ties) == 4
    assert all(split(t.to)[0] != BOARD for t in copied.ties)


def test_part_files_that_differ_are_not_mixed_up() -> None:
    mine = Plan("clove-22", carried_parts=(CarriedPart("horn", ("title = 'a'",)),))
    with pytest.raises(EditError, match="another part file called 'horn'"):
        edits.put_in(mine, Plan("clove-22", carried_parts=(CarriedPart("horn", ("title = 'b'",)),)))


@pytest.mark.parametrize("turned", [0, 90])
@pytest.mark.parametrize("name", SMALL)
def test_a_part_that_is_put_somewhere_stands_there_until_it_is_let_go(name: str, turned) -> None:
    plan = edits.turn(example(name, shipped())) if turned else example(name, shipped())
    bench = lay_out(Circuit(plan, shipped()), None, (876, 620))
    sides = list(bench.order)
    part = bench.order[sides[0]][0] if bench.order[sides[0]] else bench.order[sides[1]][0]
    for side, there in (("left", sides[0]), ("right", sides[1])):
        for place in (0, 2):
            put = edits.put_at(plan, [part], side, place)
            now = lay_out(Circuit(put, shipped()), bench, (876, 620))
            at = now.order[there].index(part)
            assert at == min(place, len(now.order[there]) - 1)
            freed = lay_out(Circuit(edits.let_go(put, [part]), shipped()), None, (876, 620))
            assert freed.order == bench.order


@pytest.mark.parametrize("name", SMALL)
def test_the_place_under_a_card_is_its_own(name: str) -> None:
    bench = lay_out(Circuit(example(name, shipped()), shipped()), None, (876, 620))
    for side, parts in bench.order.items():
        for k, part in enumerate(parts):
            card = bench.by_part[part]
            found, place = put_where(bench, card.x + card.w / 2, card.y + card.h / 2, frozenset({part}))
            assert (found, place) == (
                "right" if side in ("right", "below") else "left",
                k,
            ) or bench.setting.lanes > 1

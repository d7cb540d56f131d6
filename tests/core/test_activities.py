"""What can happen together, against exhaustive search; times by hand."""

from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from knotplan.core.plan import edits
from knotplan.core.plan.document import Activity, Plan
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.power.activities import ALWAYS, on_share, overlaps, spans, timeline, together, worst
from tests.conftest import lay, look_at

PARTS = [f"p{k}" for k in range(8)]


@st.composite
def plans(draw: st.DrawFn) -> Plan:
    count = draw(st.integers(0, 7))
    made = []
    for k in range(count):
        others = [f"a{n}" for n in range(count) if n != k]
        excludes = draw(st.lists(st.sampled_from(others), unique=True, max_size=3)) if others else []
        parts = draw(st.lists(st.sampled_from(PARTS), unique=True, max_size=4))
        made.append(
            Activity(
                f"a{k}",
                f"A {k}",
                tuple(parts),
                draw(st.floats(0, 200)),
                draw(st.floats(0.1, 90)),
                draw(st.sampled_from([0.0, 10.0, 25.0])),
                tuple(excludes),
            )
        )
    return Plan("bowline-40", activities=tuple(made), cycle_s=draw(st.sampled_from([30.0, 60.0])))


def apart(plan: Plan, one: str, other: str) -> bool:
    return other in plan.activity(one).excludes or one in plan.activity(other).excludes


@given(plans(), st.lists(st.floats(0.0, 5.0), min_size=8, max_size=8))
@settings(max_examples=150, deadline=None)
def test_worst_case_against_every_subset(plan: Plan, amps: list[float]) -> None:
    """All subsets of the activities, those with an exclusion left out."""
    loads = {p: (a / 2, a) for p, a in zip(PARTS, amps, strict=True)}
    ids = [a.id for a in plan.activities]
    member = {p: {a.id for a in plan.activities if p in a.parts} for p in PARTS}
    best = 0.0
    for size in range(len(ids) + 1):
        for chosen in combinations(ids, size):
            if not any(apart(plan, x, y) for x, y in combinations(chosen, 2)):
                best = max(
                    best, sum(w for p, (_, w) in loads.items() if not member[p] or member[p] & set(chosen))
                )
    found = worst(plan.activities, loads)
    assert found.worst_a == pytest.approx(best)
    assert found.worst_a <= found.peaks_a + 1e-9
    assert not any(apart(plan, x, y) for x, y in combinations(found.during, 2))


def test_what_excludes_one_another_does_not_add_up() -> None:
    """Lamp 1 A always; horn 2 A and lens 3 A exclude one another, flag 0.5 A
    goes with both: 1 + 3 + 0.5 (by hand)."""
    made = (
        Activity("horn", "Horn", ("horn",), excludes=("lens",)),
        Activity("lens", "Lens", ("lens",)),
        Activity("flag", "Flag", ("flag",)),
    )
    loads = {"lamp": (0.5, 1.0), "horn": (2.0, 2.0), "lens": (1.0, 3.0), "flag": (0.1, 0.5)}
    found = worst(made, loads)
    assert (found.worst_a, found.peaks_a, found.usual_a) == pytest.approx((4.5, 6.5, 2.6))
    assert found.during == {"lens", "flag"}
    assert set(together(made)) == {frozenset({"horn", "flag"}), frozenset({"lens", "flag"})}


def test_so_many_that_nobody_can_look_at_all_count_as_together() -> None:
    """Thirty-nine in threes that exclude one another have 3^13 sets: more than are looked at."""
    made = tuple(
        Activity(
            f"a{k}",
            f"A{k}",
            (f"p{k}",),
            excludes=tuple(f"a{n}" for n in range(39) if n // 3 == k // 3 and n != k),
        )
        for k in range(39)
    )
    found = worst(made, {f"p{k}": (1.0, 1.0) for k in range(39)})
    assert found.worst_a == found.peaks_a == 39.0


# --- when -----------------------------------------------------------------------------------------


def test_spans_by_hand() -> None:
    assert spans(Activity("a", "A", starts_s=50, lasts_s=20), 60.0) == [(0.0, 10.0), (50.0, 60.0)]
    assert spans(Activity("a", "A", starts_s=2, lasts_s=3, every_s=20), 60.0) == [
        (2.0, 5.0),
        (22.0, 25.0),
        (42.0, 45.0),
    ]
    assert spans(Activity("a", "A", lasts_s=90), 60.0) == [(0.0, 60.0)]
    assert spans(Activity("a", "A", lasts_s=20, every_s=20), 60.0) == [(0.0, 60.0)]


@given(plans(), st.lists(st.floats(0.01, 5.0), min_size=8, max_size=8))
@settings(max_examples=100, deadline=None)
def test_a_timeline_holds_all_the_charge_and_never_passes_all_peaks(plan: Plan, amps: list[float]) -> None:
    """The area under the plot is every load's current times the time for which it is on."""
    loads = {p: (a / 2, a) for p, a in zip(PARTS, amps, strict=True)}
    line = timeline(plan, loads)
    lengths = [b - a for a, b in zip(line.edges_s, line.edges_s[1:], strict=False)]
    assert sum(lengths) == pytest.approx(plan.cycle_s) and min(lengths) > 0
    area = sum(t * a for t, a in zip(lengths, line.total(), strict=True))
    assert area == pytest.approx(
        sum(u * on_share(plan, p) * plan.cycle_s for p, (u, _) in loads.items()), rel=1e-6
    )
    assert max(line.total("worst_a")) <= sum(amps) + 1e-9


def test_layers_are_named_and_a_load_of_two_activities_counts_once() -> None:
    made = (Activity("one", "One", ("p0",), 0, 10), Activity("two", "Two", ("p0",), 5, 10))
    line = timeline(Plan("bowline-40", activities=made), {"p0": (1.0, 2.0), "p1": (0.5, 0.5)})
    assert [x.title for x in line.layers] == [ALWAYS, "One", "Two"]
    assert line.edges_s == (0.0, 5.0, 10.0, 15.0, 60.0)
    assert line.total() == [1.5, 1.5, 1.5, 0.5]


def test_what_excludes_one_another_and_is_planned_for_the_same_time() -> None:
    made = (
        Activity("horn", "Horn", starts_s=0, lasts_s=10, excludes=("bell",)),
        Activity("bell", "Bell", starts_s=8, lasts_s=4),
    )
    assert [(a.id, b.id, at) for a, b, at in overlaps(made, 60.0)] == [("horn", "bell", 8.0)]
    moved = edits.change_activity(Plan("bowline-40", activities=made), "bell", starts_s=10.0)
    assert overlaps(moved.activities, moved.cycle_s) == []


# --- edits ----------------------------------------------------------------------------------------


def test_meeting_is_told_where_there_are_loads_and_of_each_pair() -> None:
    """Three activities at one time, the first excludes the others; one without
    loads draws nothing and is not told of."""
    made = (
        Activity("a", "A", ("lamp",), excludes=("b", "c", "d")),
        Activity("b", "B", ("horn",)),
        Activity("c", "C", ("horn",)),
        Activity("d", "D"),
    )
    plan = replace(
        lay("bowline-40", {"lamp": ("micro-servo", {}), "horn": ("micro-servo", {})}, {}), activities=made
    )
    found = [f for f in look_at(plan).findings if f.rule == "activities-meet"]
    assert [f.message.partition(" exclude")[0] for f in found] == ["A and B", "A and C"]
    assert all(f.subjects == ("lamp", "horn") for f in found)
    plan = edits.accept(plan, found[0].rule, found[0].subjects, found[0].message, "they are small")
    left = look_at(plan)
    assert [f.message.partition(" exclude")[0] for f in left.findings if f.rule == "activities-meet"] == [
        "A and C"
    ]
    assert [f.accepted for f in left.accepted] == ["they are small"]
    both = look_at(edits.accept(plan, found[1].rule, found[1].subjects, found[1].message, "these too"))
    assert {f.accepted for f in both.accepted} == {"they are small", "these too"}
    plan = both.circuit.plan
    reworded = tuple(replace(a, message="They meet.") for a in plan.accepted)
    assert look_at(replace(plan, accepted=reworded)).accepted == ()  # nobody knows which of the two is meant
    one = edits.withdraw(plan, found[1].rule, found[1].subjects, found[1].message)
    assert [a.reason for a in one.accepted] == ["they are small"]


def test_edits_of_activities() -> None:
    plan = edits.add_part(Plan("bowline-40"), "led", "Lamp")
    plan = edits.add_activity(edits.add_activity(plan, "Lamp burns", ("lamp",)), "Lamp burns")
    assert [(a.id, a.title) for a in plan.activities] == [
        ("lamp-burns", "Lamp burns"),
        ("lamp-burns-2", "Lamp burns 2"),
    ]
    plan = edits.change_activity(plan, "lamp-burns", excludes=("lamp-burns-2",))
    assert plan.activity("lamp-burns-2").excludes == ("lamp-burns",)
    plan = edits.change_activity(plan, "lamp-burns-2", excludes=())
    assert plan.activity("lamp-burns").excludes == ()
    assert edits.remove_part(plan, "lamp").activity("lamp-burns").parts == ()
    assert [a.id for a in edits.remove_activity(plan, "lamp-burns").activities] == ["lamp-burns-2"]
    for change in ({"title": " "}, {"lasts_s": 0.0}, {"starts_s": -1.0}):
        with pytest.raises(EditError):
            edits.change_activity(plan, "lamp-burns", **change)
    with pytest.raises(EditError, match="cycle"):
        edits.set_cycle(plan, 0.0)

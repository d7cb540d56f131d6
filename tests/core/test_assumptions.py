"""What is assumed: one figure for rules and finders alike, its usual value, the maker's, its bounds."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import analyse
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.finders import BY_ID as FINDERS
from knotplan.core.finders.in_plan import proposals
from knotplan.core.plan import edits
from knotplan.core.plan.assumptions import ASSUMPTIONS, BY_ID
from knotplan.core.plan.document import Plan
from knotplan.core.plan.editing import edited
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.power.battery import life
from knotplan.core.text.changes import changes
from knotplan.examples import example, names
from knotplan.exchange import plan_file

CATALOG = shipped()
DEMO = example("mist-bench", CATALOG)


def assuming(plan: Plan, assumption: str, value: float | None) -> Plan:
    return edited(plan, CATALOG, edits.assume, assumption, value)


def rules(plan: Plan) -> set[str]:
    return {f.rule for f in analyse(plan, CATALOG).findings}


@pytest.mark.parametrize("a", ASSUMPTIONS, ids=lambda a: a.id)
def test_each_is_kept_in_the_plan_and_taken_back(a) -> None:
    assert a.source and not a.fault(a.usual) and DEMO.assumed(a.id) == a.usual
    for bound in {a.least, a.most} - {a.usual}:
        plan = assuming(DEMO, a.id, bound)
        assert plan_file.loads(plan_file.dumps(plan), CATALOG).assumed(a.id) == bound
        said = changes(Circuit(DEMO, CATALOG), Circuit(plan, CATALOG))
        assert len(said) == 1 and said[0].startswith("assumes ") and a.title[1:] in said[0]
        assert assuming(plan, a.id, None) == DEMO == assuming(plan, a.id, a.usual)


@given(st.sampled_from(ASSUMPTIONS), st.floats())
def test_a_value_beyond_the_bounds_is_refused_with_them(a, value: float) -> None:
    if a.least <= value <= a.most:
        assert assuming(DEMO, a.id, value).assumed(a.id) == value
        return
    with pytest.raises(EditError, match="is not from"):
        assuming(DEMO, a.id, value)


def test_a_file_that_assumes_nonsense_says_all_of_it_with_the_nearest_name() -> None:
    text = plan_file.dumps(assuming(assuming(DEMO, "air", 50.0), "edge", 0.1)).decode()
    wrong = text.replace('"air"', '"ari"').replace("0.1\n", "0.5\n")
    assert wrong != text
    with pytest.raises(plan_file.PlanFileError) as refused:
        plan_file.loads(wrong.encode(), CATALOG)
    assert "'ari'" in str(refused.value) and "air" in str(refused.value)
    assert "is not from 0 % to 20 %" in str(refused.value)


@pytest.mark.parametrize(
    "rule, plan, assumption, value, told",
    [
        ("load-underfed", "load-underfed.bad", "edge", 0.2, False),
        ("load-underfed", "feed-blocked.good", "edge", 0.0, True),
        ("resistor-hot", "resistor-hot.good", "resistor_load", 0.05, True),
        ("fuse-wrong", "fuse-wrong.good", "fuse_load", 0.1, True),
        ("lead-over-voltage", "back-fed.bad", "input_above", 0.0, True),
        ("contact-over", "runs-unpowered.good", "inductive", 0.05, True),
    ],
)
def test_rules_go_by_what_the_plan_assumes(
    rule: str, plan: str, assumption: str, value: float, told: bool
) -> None:
    before = example(f"rules/{plan}", CATALOG)
    after = assuming(before, assumption, value)
    assert (rule in rules(after), rule in rules(before)) == (told, not told)


def test_warmer_air_makes_a_regulator_as_much_warmer() -> None:
    plan = example("rules/regulator-hot.bad", CATALOG)

    def degrees(air: float) -> float:
        found = next(
            f for f in analyse(assuming(plan, "air", air), CATALOG).findings if f.rule == "regulator-hot"
        )
        return next(n.value for n in found.numbers if n.name == "temperature")

    assert degrees(47.0) - degrees(30.0) == pytest.approx(17.0)


def test_a_battery_lasts_for_the_share_that_is_assumed() -> None:
    plan = example("kite-winder", CATALOG)

    def hours(share: float) -> float:
        report = analyse(assuming(plan, "battery_share", share), CATALOG)
        return max(life(report.circuit, root).hours or 0.0 for root in report.power)

    assert hours(0.4) == pytest.approx(hours(0.8) / 2)


def test_finders_ask_for_what_is_assumed_and_take_it_from_the_plan() -> None:
    asked = {(f.id, i.name): i for f in FINDERS.values() for i in f.inputs if i.assumes}
    assert {i.assumes for i in asked.values()} >= {
        "air",
        "forced_gain",
        "saturation",
        "fuse_load",
        "tolerance",
    }
    for i in asked.values():
        assert i.default == BY_ID[i.assumes].usual
    met = set()
    for name in names():
        plan = example(name, CATALOG)
        for a in ASSUMPTIONS:
            plan = assuming(plan, a.id, (a.usual + a.most) / 2)
        circuit, points = (r := analyse(plan, CATALOG)).circuit, r.points
        for tie in plan.ties:
            for p in proposals(circuit, points, tie):
                for i in FINDERS[p.finder].inputs:
                    if i.assumes:
                        assert p.given[i.name][0] == plan.assumed(i.assumes)
                        met.add(i.assumes)
    assert met >= {"forced_gain", "gain_slack", "saturation", "fuse_load", "resistor_load", "tolerance"}


def test_the_tolerance_of_chosen_resistors_is_the_drawers_until_one_is_said() -> None:
    assert (DEMO.series, DEMO.resistor_tolerance) == ("E12", 0.1)
    assert assuming(DEMO, "tolerance", 0.01).resistor_tolerance == 0.01
    given = {"supply": 5.0, "forward": 2.0, "current": 0.01}
    wide, narrow = (FINDERS["led"]({**given, "tolerance": t}) for t in (0.0, 0.01))
    assert (wide.tolerance, narrow.tolerance) == (0.1, 0.01)

    def most(found) -> float:
        return next(n.value for n in found.chosen.results if n.name == "most current")

    assert most(wide) > most(narrow)

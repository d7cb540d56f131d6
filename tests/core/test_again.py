"""Analysing again: what is kept from one analysis to the next never changes what is said."""

import gc
import weakref

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import AnalysisCache, analyse
from knotplan.core.check.report import Report
from knotplan.core.plan import edits
from knotplan.core.plan.beads import SeriesResistor
from knotplan.core.plan.document import Plan
from knotplan.examples import example
from tests.random.holding import drawn_and_handed_over


def told(report: Report) -> object:
    """Everything that a report says, as values."""

    def near(*values: float) -> tuple[str, ...]:
        return tuple(f"{v:.9g}" for v in values)  # sums are made in another order

    volts = {k: [(r.case, *near(r.min, r.typ, r.max)) for r in v] for k, v in report.points.volts.items()}
    return (
        volts,
        [(b.id, *near(b.usual_a, b.worst_a)) for b in report.budgets],
        sorted((f.key, f.severity, f.message) for f in report.findings),
        {
            n.id: near(n.total.usual_a, n.total.worst_a, n.least_v, n.heat_w)
            for r in report.power
            for n in r.walk()
        },
    )


def walk(plan: Plan):
    """Edits of every sort, one upon another, and back to the beginning."""
    steps = [
        lambda p: edits.recolour(p, "flag.signal", "green"),
        lambda p: edits.fix_tie(p, "flag.signal", True),
        lambda p: edits.nudge(p, "flag", "left"),
        edits.turn,
        lambda p: edits.rename_part(p, "flag", "Pennant"),
        lambda p: edits.set_cord(p, "flag.power", 2.0, 0.14),
        lambda p: edits.change_activity(p, "horn", excludes=()),
        lambda p: edits.change_bead(p, "lamp.anode", 0, SeriesResistor(22.0)),
        lambda p: edits.untie(p, "flag.signal"),
        lambda p: edits.set_param(p, "quay", "count", 300.0),
        lambda p: edits.set_role(p, "lamp.anode", "beacon"),
        lambda p: edits.speak(p, "position"),
        lambda p: edits.remove_part(p, "part-5-v-brick"),
        lambda _: plan,
    ]
    for step in steps:
        plan_now = step(plan)
        yield plan_now
        plan = plan_now


@pytest.mark.parametrize("scene", ["harbour-light", "harbour-light-draft"])
def test_what_is_kept_never_changes_what_is_said(scene: str) -> None:
    kept = AnalysisCache()
    start = example(scene, shipped())
    analyse(start, shipped(), kept=kept)
    for plan in walk(start if scene.endswith("light") else edits.tie(start, "flag.signal", "board.p12")):
        again = analyse(plan, shipped(), kept=kept)
        assert told(again) == told(analyse(plan, shipped()))
        assert again.circuit.plan is plan


def test_an_edit_of_looks_analyses_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    kept, plan = AnalysisCache(), example("harbour-light", shipped())
    first = analyse(plan, shipped(), kept=kept)
    monkeypatch.setattr("knotplan.core.check.analysis.looked_at", lambda *_: pytest.fail("analysed again"))
    again = analyse(edits.nudge(plan, "flag", "left"), shipped(), kept=kept)
    assert again.findings == first.findings and again.circuit is not first.circuit


def test_the_garbage_collector_is_left_as_it_was() -> None:
    plan = example("seed-drawers", shipped())
    assert gc.isenabled()
    analyse(plan, shipped())
    assert gc.isenabled()
    gc.disable()
    try:
        analyse(plan, shipped())
        assert not gc.isenabled()
    finally:
        gc.enable()


def test_what_is_derived_from_a_circuit_goes_with_it() -> None:
    """No cache keeps an old circuit alive, or what hangs on it."""

    kept = AnalysisCache()
    plan = example("harbour-light-draft", shipped())
    seen = []
    for number in range(6):
        plan = edits.set_cord(plan, plan.ties[number].id, 0.1 + number / 10)
        report = analyse(plan, shipped(), kept=kept)
        drawn_and_handed_over(report)
        for finding in report.findings:
            assert finding.remedies is not None
        seen.append(weakref.ref(report.circuit))
    del report, finding
    gc.collect()
    assert [ref() is not None for ref in seen] == [False] * 5 + [True]


def test_remedies_are_looked_for_in_the_plan_on_the_screen() -> None:
    """The report is carried over an edit of looks; what its findings look at, and what
    they keep alive, is the new circuit."""
    kept, plan = AnalysisCache(), example("harbour-light-draft", shipped())
    first = analyse(plan, shipped(), kept=kept)
    asked = next(f for f in first.findings if f.remedies)
    before = weakref.ref(first.circuit)
    again = analyse(edits.nudge(plan, plan.parts[0].id, "left"), shipped(), kept=kept)
    same = next(f for f in again.findings if f == asked)
    assert {id(f.facts.circuit) for f in again.findings if f.facts} == {id(again.circuit)}
    assert same.remedies is asked.remedies, "what was found is not looked for again"
    del first, asked
    gc.collect()
    assert before() is None

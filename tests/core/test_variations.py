"""The rules' example plans, each thing about them otherwise: what stands in none of them, and lies near."""

import math
from collections.abc import Iterator

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import AnalysisCache, analyse
from knotplan.core.check.automatic_fixes import mend
from knotplan.core.check.rules import RULES
from knotplan.core.finders import FINDERS
from knotplan.core.finders.finder import Finder, FinderError
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.core.plan.editing import edited
from knotplan.core.plan.kinds import kind_in
from knotplan.core.text.timing import describe
from knotplan.core.timing.program_settings import program_settings
from knotplan.examples import example
from tests.conftest import examples

CATALOG = shipped()


def variations(plan: Plan) -> Iterator[Plan]:
    """Without each tie; without each bead, or with it a thousand times weaker; with each choice of a part."""
    for tie in plan.ties:
        yield edits.untie(plan, tie.id)
        for k, bead in enumerate(tie.beads):
            yield edits.remove_bead(plan, tie.id, k)
            if hasattr(bead, "ohm"):
                yield edits.change_bead(plan, tie.id, k, replace(bead, ohm=bead.ohm * 1000))
    for placed in plan.parts:
        kind = kind_in(plan, CATALOG, placed.part)
        for name, param in kind.params.items():
            others = param.choices or [v for v in (param.least, param.most) if abs(v) < 1e9]
            for value in others:
                if placed.params.get(name, param.default) != value and param.fault(value) is None:
                    yield edits.set_param(plan, placed.id, name, value)


def held_together(plan: Plan, cache: AnalysisCache) -> None:
    """No rule, remedy, text or fix fails, and each remedy that is offered can be made."""
    report = analyse(plan, CATALOG, kept=cache)
    assert not [f for f in report.findings if f.rule in ("rule-failed", "engine-failed")]
    for finding in report.findings:
        for remedy in finding.remedies:
            assert edited(plan, CATALOG, remedy.apply) != plan, (finding.rule, remedy.title)
    for part in report.circuit.parts:
        describe(report, part)
        program_settings(report.circuit, part)
    mend(report, CATALOG)


@pytest.mark.parametrize("rule_id", [r.id for r in RULES])
def test_a_rule_s_plan_with_one_thing_otherwise(rule_id: str) -> None:
    plan, cache = example(f"rules/{rule_id}.bad", CATALOG), AnalysisCache()
    tried = 0
    for change in variations(plan):
        held_together(change, cache)
        tried += 1
    assert tried > 1


@st.composite
def asked_at_random(draw: st.DrawFn) -> tuple[Finder, dict[str, float | str]]:
    """A finder, and values that its inputs take by themselves, over many decades."""
    finder = draw(st.sampled_from(FINDERS))
    values: dict[str, float | str] = {}
    for x in finder.inputs:
        if x.choices:
            values[x.name] = draw(st.sampled_from(x.choices))
            continue
        if x.default is not None and draw(st.booleans()):
            continue
        least = max(x.least, 1 if x.whole else 1e-9)
        decades = st.floats(math.log10(least), math.log10(min(x.most, max(1e6, least))))
        value = 10 ** draw(decades)
        values[x.name] = float(round(value)) if x.whole else value
    return finder, {k: v for k, v in values.items() if not _fault(finder, k, v)}


def _fault(finder: Finder, name: str, value: float | str) -> str:
    return next(x for x in finder.inputs if x.name == name).fault(value)


@settings(deadline=None, max_examples=examples(600))
@given(asked_at_random())
def test_a_finder_answers_or_says_why_not(question: tuple[Finder, dict[str, float | str]]) -> None:
    """Whatever is asked within the ranges of its inputs."""
    finder, values = question
    try:
        answer = finder(values)
    except FinderError as error:
        assert str(error) and "nan" not in str(error) and "inf" not in str(error).split()
        return
    trials = [t for t in (answer.chosen, answer.lower, answer.higher) if t is not None]
    assert math.isfinite(answer.exact) and (answer.value > 0 or (finder.id == "heat" and answer.value == 0))
    assert all(math.isfinite(n.value) for t in trials for n in t.results)
    assert answer.formula and answer.source

"""Every planted mistake is told for its cause and as grave as it is, no right plan is cried at, and every
remedy settles its finding and adds no stop."""

import random
from functools import lru_cache
from typing import NamedTuple

import pytest

from knotplan.core.check.analysis import AnalysisCache
from knotplan.core.check.report import Report
from knotplan.core.check.trials import alike
from tests.conftest import TORTURE
from tests.kirchhoff import Solved, assert_currents_add_up, assert_solved, recorded
from tests.planted.bench import CATALOG, Bench, Cannot
from tests.planted.count import alarms, harms, laid, look, on_boards, telling
from tests.planted.right import RIGHT
from tests.planted.said import KEPT, all_said, entries
from tests.planted.wrong import WRONG

SEEDS = range(max(1, TORTURE))
"""which of the pins that would do are taken"""


class Planted(NamedTuple):
    """One mistake, or one right plan, on a board that can have it."""

    board: str
    about: str
    """the part that it is about"""
    report: Report
    solved: list[Solved]
    """what the engine solved for it"""
    kept: AnalysisCache


@lru_cache(maxsize=1)  # the tests of a template come one after the other
def planted(name: str) -> list[Planted]:
    """A template on every board that can have it."""
    template = WRONG[name].lay if name in WRONG else RIGHT[name]
    found = []
    for seed in SEEDS:
        for board, plan, about in on_boards(template, seed):
            kept = AnalysisCache()
            with recorded() as solved:
                found.append(Planted(board, str(about), look(plan, kept), solved, kept))
    return found


def assert_laws_hold(plans: list[Planted]) -> None:
    """Kirchhoff's, in the tree of supplies and at each node; and each junction's own."""
    for plan in plans:
        assert_currents_add_up(plan.report)
        for network in plan.solved:
            assert_solved(*network)


each_mistake = pytest.mark.parametrize("name", WRONG, scope="module")
each_right_plan = pytest.mark.parametrize("name", RIGHT, scope="module")


def test_there_are_as_many_as_an_audit_would_bring() -> None:
    wrong = list(laid({name: mistake.lay for name, mistake in WRONG.items()}))
    right = list(laid(RIGHT))
    assert len(wrong) >= 300 and len(right) >= 140
    assert {board for _, board, _, _ in wrong} == {board for _, board, _, _ in right}


@each_mistake
def test_a_planted_mistake_is_told_for_its_cause(name: str) -> None:
    mistake = WRONG[name]
    missed = [
        (board, [(f.severity, f.rule) for f in report.findings])
        for board, about, report, *_ in planted(name)
        if not any(f.severity in mistake.severities for f in telling(mistake, about, report.findings))
    ]
    assert missed == []


@each_mistake
def test_currents_add_up_in_every_wrong_plan(name: str) -> None:
    assert_laws_hold(planted(name))


@pytest.mark.parametrize("seed", range(20 * max(1, TORTURE)))
def test_two_mistakes_on_one_bench_are_both_told(seed: int) -> None:
    """Any two templates, one after the other on the same board: neither hides the other."""
    r = random.Random(seed)
    while True:
        bench, pair = Bench(r.choice(CATALOG.board_ids()), seed), r.sample(sorted(WRONG), 2)
        try:
            about = [str(WRONG[name].lay(bench)) for name in pair]
        except Cannot:
            continue
        break
    findings = look(bench.plan).findings
    for name, part in zip(pair, about, strict=True):
        told = telling(WRONG[name], part, findings)
        assert any(f.severity in WRONG[name].severities for f in told), (name, bench.board.id)


@each_right_plan
def test_a_right_plan_is_not_cried_at(name: str) -> None:
    cried = [(board, f.rule, f.message) for board, _, report, *_ in planted(name) for f in alarms(report)]
    assert cried == []


@each_right_plan
def test_currents_add_up_in_every_right_plan(name: str) -> None:
    assert_laws_hold(planted(name))


def test_every_part_of_the_catalogue_stands_in_a_wrong_plan_and_in_a_right_one() -> None:
    wrong = {p.part for _, _, plan, _ in laid({name: x.lay for name, x in WRONG.items()}) for p in plan.parts}
    right = {p.part for _, _, plan, _ in laid(RIGHT) for p in plan.parts}
    assert set(CATALOG.part_ids()) - wrong == set()
    assert set(CATALOG.part_ids()) - right == set()


@each_mistake
def test_what_is_folded_under_a_cause_goes_with_its_first_remedy(name: str) -> None:
    for board, _, report, _, kept in planted(name):
        for f in report.findings:
            if f.with_it:
                after = look(f.remedies[0].apply(report.circuit.plan), kept).findings
                left = {alike(x) for y in after for x in (y, *y.with_it)}
                assert not {alike(x) for x in f.with_it} & left, (board, f.message)


@pytest.mark.slow
@each_mistake
def test_every_remedy_settles_its_finding_and_adds_no_stop(name: str) -> None:
    harmful = [(p.board, f.rule, text) for p in planted(name) for f, text in harms(p.report, p.kept)]
    assert harmful == []


def test_what_is_said_is_what_was_read_and_found_right() -> None:
    """Word for word, on one board each; a change that is meant is written by `tests.planted.said`."""
    kept, now = entries(KEPT.read_text("utf-8")), entries(all_said())
    assert kept.keys() == now.keys()
    assert [now[name] for name in now if now[name] != kept[name]] == []

"""Benches where nearly everything is tied, mostly wrongly, are analysed, handed over,
and offered remedies that can be made."""

import random

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.plan.editing import edited
from knotplan.core.plan.edits.changed import EditError
from tests.conftest import examples
from tests.random.benches import crowded
from tests.random.holding import analysed, drawn_and_handed_over, opens_again, plain


@pytest.mark.parametrize("part", range(4))
def test_crowded_benches(part: int) -> None:
    for number in range(examples(12)):
        plan = crowded(random.Random(f"{part} {number}"), shipped())
        opens_again(plan, shipped())
        report = analysed(plan, shipped())
        drawn_and_handed_over(report)
        for finding in report.findings[:8]:
            for remedy in finding.remedies[:1]:
                try:
                    after = edited(plan, shipped(), remedy.apply)
                except EditError as error:
                    raise AssertionError(f"{finding.rule}: {remedy.title}: {error}") from error
                assert plain(after) == plain(remedy.apply(plan)), (finding.rule, remedy.title)

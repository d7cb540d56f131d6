"""What only looks otherwise, changes no remedy: of each rule's plan, with what is kept of the one before."""

import pytest
from msgspec.structs import replace

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import AnalysisCache, analyse
from knotplan.core.check.rules import RULES
from knotplan.core.plan.document import Plan
from knotplan.examples import example
from knotplan.exchange.answers.check import answer

CATALOG = shipped()


def other_cords(plan: Plan) -> Plan:
    """Every cord in another colour, and every tie fixed that was not."""
    return replace(plan, ties=tuple(replace(t, cord="pink", fixed=not t.fixed) for t in plan.ties))


def other_places(plan: Plan) -> Plan:
    """Every card on the other side and unfolded, the board turned and turned over."""
    parts = (replace(p, side="left" if p.side == "right" else "right", shows="all") for p in plan.parts)
    return replace(plan, parts=tuple(parts), turned=180, flipped=not plan.flipped)


@pytest.mark.parametrize("change", [other_cords, other_places])
@pytest.mark.parametrize("rule_id", [r.id for r in RULES])
def test_remedies_are_those_of_the_plan_as_it_is_now(rule_id: str, change) -> None:
    plan, kept = example(f"rules/{rule_id}.bad", CATALOG), AnalysisCache()
    analyse(plan, CATALOG, kept=kept)
    now = change(plan)
    assert answer(analyse(now, CATALOG, kept=kept)) == answer(analyse(now, CATALOG))

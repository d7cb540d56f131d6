"""Steps, readings and faults of plans right and wrong: nothing that a plan can be stops them."""

from pathlib import Path

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.meter.checks import checks
from knotplan.core.meter.points import told
from knotplan.core.meter.ranking import Ranking
from knotplan.core.meter.table import Meter
from knotplan.core.meter.told import reads
from knotplan.core.wiring.entries import entries
from knotplan.core.wiring.state import state_of, tasks_of
from knotplan.core.wiring.steps import steps_of
from knotplan.examples import HERE
from knotplan.exchange.plan_file import load

PLANS = sorted([*HERE.glob("*draft.knot.json"), *(HERE / "rules").glob("*.knot.json")])[::9]


@pytest.mark.parametrize("path", PLANS, ids=lambda p: p.name)
def test_every_plan_has_steps_readings_and_faults(path: Path) -> None:
    c = Circuit(load(path, shipped()), shipped())
    steps = steps_of(c)
    assert sorted(s.task for s in steps) == sorted(tasks_of(c))
    assert len(entries(c, steps, state_of(c))) == len(steps)
    table = Meter(c).table()
    for check in checks(table):
        assert told(c, check.point) and reads(check.point, check.expected)
    answer = Ranking(table).answer([])
    assert answer.as_planned and len(table.readings) == len(table.faults)

"""Plans of earlier versions open, and mean what they meant."""

import json
from pathlib import Path

from knotplan.catalog.load import Catalog
from knotplan.core.check.analysis import analyse
from knotplan.core.plan.document import VERSION
from knotplan.examples import example
from knotplan.exchange.migration import STEPS, as_now
from knotplan.exchange.plan_file import dumps, load, loads

KEPT = Path(__file__).parent / "kept"


def test_a_plan_of_each_earlier_version_is_kept() -> None:
    assert {p.name for p in KEPT.glob("*.knot.json")} == {
        f"plan-version-{v}.knot.json" for v in range(1, VERSION)
    }
    assert set(STEPS) == set(range(1, VERSION))


def test_version_1_opens_as_it_was(catalog: Catalog) -> None:
    path = KEPT / "plan-version-1.knot.json"
    plan = load(path, catalog)
    now = example("seed-drawers", catalog)
    assert (plan.parts, plan.ties, plan.accepted) == (now.parts, now.ties, now.accepted)
    assert not plan.wired and not plan.readings
    assert plan.carried is not None
    plugs = {s.title: s.plug for s in plan.carried.sockets.values()}
    assert plugs == {"USB socket": "USB", "barrel jack": "other"}, "what its titles said is a field now"
    assert [f.message for f in analyse(plan, catalog).findings] == [
        f.message for f in analyse(now, catalog).findings
    ]
    again = dumps(plan)
    assert json.loads(again)["version"] == VERSION
    assert dumps(loads(again, catalog)) == again


def test_nothing_that_is_odd_stops_the_way_up() -> None:
    for board in (None, 3, {}, {"sockets": None}, {"sockets": {"a": 3}}, {"sockets": {"a": {"title": 4}}}):
        assert as_now({"carried": board}, 1)["carried"] == board
    socket = {"title": "USB", "plug": "other"}
    kept = as_now({"carried": {"sockets": {"a": socket}}}, 1)
    assert kept["carried"]["sockets"]["a"] == socket, "what a plan says itself is left alone"

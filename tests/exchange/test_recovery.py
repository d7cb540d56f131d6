import json
from pathlib import Path

from knotplan.catalog.load import shipped
from knotplan.core import edits
from knotplan.examples import example
from knotplan.exchange.recovery import Recovery

GONE = 4_000_000
"""a process number above what Linux gives out by default"""


def test_work_of_a_process_that_is_gone_is_found(tmp_path: Path) -> None:
    plan = edits.retitle(example("harbour-light", shipped()), "Half done")
    Recovery(tmp_path, GONE).keep(plan, Path("/home/me/light.knot.json"))
    lost = Recovery(tmp_path).lost(shipped())
    assert [(x.plan, x.origin) for x in lost] == [(plan, Path("/home/me/light.knot.json"))]


def test_work_of_this_process_is_not_lost(tmp_path: Path) -> None:
    keeper = Recovery(tmp_path)
    keeper.keep(example("harbour-light", shipped()), None)
    assert keeper.lost(shipped()) == []
    keeper.drop()
    assert list(tmp_path.iterdir()) == []


def test_a_dead_namesake_s_work_is_neither_hidden_nor_overwritten(tmp_path: Path) -> None:
    """In a container every process has the same number."""
    plan = example("harbour-light", shipped())
    Recovery(tmp_path).keep(plan, None)
    again = Recovery(tmp_path)
    again.keep(edits.retitle(plan, "Another"), None)
    assert [x.plan for x in again.lost(shipped())] == [plan]
    again.drop()
    assert [x.plan for x in Recovery(tmp_path).lost(shipped())] == [plan]


def test_what_cannot_be_read_is_put_aside_not_offered_and_not_deleted(tmp_path: Path) -> None:
    for k, text in enumerate(["{", "[]", '{"plan": 3}', json.dumps({"plan": "{}", "origin": None})]):
        (tmp_path / f"{GONE + k}.work.json").write_text(text)
    assert Recovery(tmp_path).lost(shipped()) == []
    assert len(list(tmp_path.glob("*.unreadable"))) == 4

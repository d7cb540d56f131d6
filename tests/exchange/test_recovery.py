import json
import os
from pathlib import Path

import msgspec

from knotplan.catalog.load import shipped
from knotplan.core.plan import edits
from knotplan.core.plan.document import Tie
from knotplan.examples import example
from knotplan.exchange.plan_file import dumps
from knotplan.exchange.recovery import LET_GO, Recovery

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


def test_what_cannot_be_read_is_offered_with_what_is_wrong_and_hides_nothing(tmp_path: Path) -> None:
    texts = [
        "{",
        "[]",
        '{"plan": 3}',
        json.dumps({"plan": "{}", "origin": None}),
        "",
        '{"plan": {"format": "knotplan-plan"}}',
    ]
    for k, text in enumerate(texts):
        (tmp_path / f"{GONE + k}.work.json").write_text(text)
    (tmp_path / f"{GONE + 50}.work.json").mkdir()
    os.mkfifo(tmp_path / f"{GONE + 51}.work.json")
    (tmp_path / f"{GONE + 52}.work.json").symlink_to("/dev/zero")
    plan = example("harbour-light", shipped())
    Recovery(tmp_path, GONE + 99).keep(plan, None)
    lost = Recovery(tmp_path).lost(shipped())
    assert len(lost) == len(texts) + 4
    assert [w.plan for w in lost if w.plan is not None] == [plan]
    assert all(w.wrong for w in lost if w.plan is None)
    assert len(list(tmp_path.iterdir())) == len(lost), "nothing was deleted or renamed"


def test_work_with_a_mistake_is_offered_without_it(tmp_path: Path) -> None:
    plan = example("harbour-light", shipped())
    broken = msgspec.structs.replace(plan, ties=(*plan.ties, Tie("x", "nobody.lead", "board.p1")))
    Recovery(tmp_path, GONE).keep(broken, Path("/home/me/light.knot.json"))
    (work,) = Recovery(tmp_path).lost(shipped())
    assert work.plan is None and work.rest is not None and work.rest.plan == plan
    assert work.origin == Path("/home/me/light.knot.json")
    assert any("nobody" in why for _, why in work.wrong)


def test_work_of_an_earlier_version_is_read(tmp_path: Path) -> None:
    plan = example("harbour-light", shipped())
    kept = {"origin": None, "plan": dumps(plan).decode("utf-8")}
    (tmp_path / f"{GONE}.work.json").write_text(json.dumps(kept))
    assert [w.plan for w in Recovery(tmp_path).lost(shipped())] == [plan]


def test_drafts_are_kept_and_found(tmp_path: Path) -> None:
    keeper = Recovery(tmp_path, GONE)
    keeper.keep_draft("board", "My board", {"draft": {"title": "My board"}})
    keeper.keep_draft("part", "Gauge", {"text": "title = 'Gauge'"})
    lost = Recovery(tmp_path).lost(shipped())
    assert {(w.kind, w.title) for w in lost} == {("board", "My board"), ("part", "Gauge")}
    keeper.drop("board")
    assert [w.kind for w in Recovery(tmp_path).lost(shipped())] == ["part"]


def test_a_draft_that_says_nothing_is_offered_with_what_is_wrong(tmp_path: Path) -> None:
    for k, text in enumerate(
        ["{}", '{"title": 3}', '{"title": "Gauge", "draft": []}', '{"draft": "text"}', '{"draft": null}']
    ):
        for kind in ("board", "part"):
            (tmp_path / f"{GONE + k}.{kind}.json").write_text(text)
    lost = Recovery(tmp_path).lost(shipped())
    assert len(lost) == 10 and all(w.wrong and w.draft is None and w.title for w in lost)


def test_what_is_let_go_lies_aside_for_a_month(tmp_path: Path) -> None:
    Recovery(tmp_path, GONE).keep(example("harbour-light", shipped()), None)
    (tmp_path / LET_GO).mkdir()
    old = tmp_path / LET_GO / "1-1.work.json"
    old.write_text("{}")
    os.utime(old, (0, 0))
    here = Recovery(tmp_path)
    here.let_go(here.lost(shipped())[0])
    assert here.lost(shipped()) == []
    assert [p.name.endswith(f"{GONE}.work.json") for p in (tmp_path / LET_GO).iterdir()] == [True]

"""What parts are called inside means nothing: no id can be taken for a rail, for
ground, or for a word of the program."""

import json
import random
import re
from typing import Any

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import analyse
from knotplan.core.check.report import Report
from knotplan.core.plan.document import Plan
from knotplan.examples import HERE, example, names
from knotplan.exchange.plan_file import dumps, load, loads
from tests.random.benches import crowded

WORDS = (
    "ground",
    "signals",
    "pin",
    "rail",
    "usb",
    "net",
    "beads",
    "high",
    "low",
    "running",
    "always",
    "between",
    "strap",
    "fitted",
    "on",
    "off",
    "tie",
    "any",
    "i2c",
    "spi",
    "none",
    "power",
    "socket",
    "a",
    "b",
    "vin",
    "v5",
    "v33",
)
ID = re.compile(r"[a-z][a-z0-9_-]*")
SCENES = [n for n in names() if not n.startswith("organ")]
RULES = sorted((HERE / "rules").glob("*.json"))


def renamed(plan: Plan, seed: int = 0) -> Plan:
    """The plan with other ids for its parts: words of the program, and the ids of the board's own things."""
    catalog = shipped()
    board = plan.carried or catalog.board(plan.board)
    taken = dict.fromkeys([*board.rails, *board.sockets, *list(board.pins)[:6], *board.banks, *WORDS])
    usable = [w for w in taken if ID.fullmatch(w)]
    random.Random(seed).shuffle(usable)
    new = {
        p.id: word
        for p, word in zip(
            plan.parts, [*usable, *(f"part-{k}" for k in range(len(plan.parts)))], strict=False
        )
    }

    def put(value: Any) -> Any:
        if isinstance(value, dict):
            return {k: v if k in ("name", "title", "role", "part") else put(v) for k, v in value.items()}
        if isinstance(value, list):
            return [put(v) for v in value]
        if isinstance(value, str) and value.partition(".")[0] in new:
            owner, dot, rest = value.partition(".")
            return new[owner] + dot + rest
        return value

    return loads(json.dumps(put(json.loads(dumps(plan)))).encode(), catalog)


def said(report: Report) -> list[object]:
    findings = [
        (f.rule, f.severity, f.message, [r.title for r in f.remedies])
        for f in (*report.findings, *report.accepted)
    ]
    budgets = [(b.title, b.usual_a, b.worst_a) for b in report.budgets]
    tree = [n for root in report.power for n in root.walk()]
    nodes = [
        (n.title, n.kind, n.total.usual_a, n.total.worst_a, n.total.peaks_a, n.least_v, n.limit_a)
        for n in tree
    ]
    return [sorted(findings, key=str), sorted(budgets), nodes]


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("name", SCENES)
def test_scenes(name: str, seed: int) -> None:
    plan = example(name, shipped())
    assert said(analyse(renamed(plan, seed), shipped())) == said(analyse(plan, shipped()))


@pytest.mark.parametrize("path", RULES, ids=lambda p: p.name)
def test_rules_examples(path: Any) -> None:
    plan = load(path, shipped())
    assert said(analyse(renamed(plan), shipped())) == said(analyse(plan, shipped()))


@pytest.mark.parametrize("seed", range(60))
def test_crowded_benches(seed: int) -> None:
    plan = crowded(random.Random(seed), shipped())
    assert said(analyse(renamed(plan, seed), shipped())) == said(analyse(plan, shipped()))

"""Edits, remedies, suggestions, forms and moves at random: what comes out is
analysed, handed over, and opens again."""

import logging
import random
from typing import Any

from tests.random.benches import crowded
from tests.random.edits_at_random import EDITS, OTHERS, SOUND, Bench, an_edit
from tests.random.holding import analysed, drawn_and_handed_over, opens_again, plain

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Plan
from knotplan.core.plan.editing import edited
from knotplan.core.plan.edits.changed import EditError
from knotplan.core.text.changes import changes
from knotplan.examples import example, names
from tools.torture.worker import Findings, run

CATALOG = shipped()
STEPS = 25
"""in one plan, before another is begun"""


def step(r: random.Random, found: Findings) -> None:
    scenes = [n for n in names() if not n.startswith("organ")]
    start = r.choice([*scenes, *CATALOG.board_ids(), *["a crowded bench"] * 8])
    plan = (
        example(start, CATALOG)
        if start in scenes
        else Plan(start)
        if start in CATALOG.board_ids()
        else crowded(r, CATALOG)
    )
    for _ in range(STEPS):
        plan = _one(plan, start, r, found)


def _one(plan: Plan, start: str, r: random.Random, found: Findings) -> Plan:
    said: Any = start
    try:
        bench = Bench(plan, CATALOG, r.choice)
        which = r.choice(OTHERS) if r.random() < 0.3 else None
        change = which(bench) if which else an_edit(bench, r.choice(sorted(EDITS)))
        if change is None:
            return plan
        said, edit, arguments, named = change
        try:
            after = edited(plan, CATALOG, edit, *arguments, **named)
        except EditError:
            found.count("refused")
            if which in SOUND:
                raise
            return plan
        if which in SOUND:
            assert plain(after) == plain(edit(plan, *arguments, **named)), (
                "what the program proposes is valid as it stands"
            )
        assert after == plan or changes(Circuit(plan, CATALOG), Circuit(after, CATALOG)), (
            "no edit goes unsaid"
        )
        opens_again(after, CATALOG)
        drawn_and_handed_over(analysed(after, CATALOG))
        found.count("edits")
        return after
    except Exception as error:
        found.note(error, f"{start}: {said}")
        return plan


if __name__ == "__main__":
    logging.disable(logging.CRITICAL)  # failures are gathered here
    run(step)

"""Edits, undo and redo at random, each analysis with what is known from the one before: to the last digit
it has to be that of a fresh one."""

import random

from tests.random.benches import crowded
from tests.random.following import differences

from knotplan.catalog.load import shipped
from knotplan.core.plan.document import Plan
from knotplan.examples import example, names
from tools.torture.worker import Findings, run

CATALOG = shipped()
STEPS, STEPS_OF_LARGE = 40, 5
"""in one plan, before another is begun"""
REMEDIES = 0.03
"""the share of the reports whose remedies are compared as well"""


def step(r: random.Random, found: Findings) -> None:
    start = r.choice([*names(), *CATALOG.board_ids(), *["a crowded bench"] * 6])
    if start in names():
        plan = example(start, CATALOG)
    else:
        plan = Plan(start) if start in CATALOG.board_ids() else crowded(r, CATALOG)
    count, seed = STEPS_OF_LARGE if start.startswith("organ") else STEPS, r.randrange(10**9)
    for what in differences(plan, CATALOG, random.Random(seed), count, REMEDIES):
        found.say("other", f"{start}, seed {seed}: after {what} the report is not that of a fresh analysis")
    found.count("edits followed", count)


if __name__ == "__main__":
    run(step)

"""What is said of recorded plans is what was said before."""

import json
import math
from typing import Any

import pytest

from knotplan.catalog.load import shipped
from tests.recording.recorded import all_plans, recorded, said_of

PARTS = 8
"""so that the test can run beside itself"""


def alike(before: Any, now: Any) -> bool:
    """Texts to the letter; numbers but for the last digits, which are the processor's."""
    if isinstance(before, dict) and isinstance(now, dict):
        return list(before) == list(now) and all(alike(before[k], now[k]) for k in before)
    if isinstance(before, list) and isinstance(now, list):
        return len(before) == len(now) and all(map(alike, before, now))
    if isinstance(before, float) and isinstance(now, float):
        return math.isclose(before, now, rel_tol=1e-9, abs_tol=1e-12)
    return bool(before == now)


@pytest.mark.parametrize("part", range(PARTS))
def test_what_is_said_has_not_changed(part: int) -> None:
    before = recorded()
    for number, (name, plan) in enumerate(all_plans(shipped())):
        if number % PARTS == part:
            now = said_of(plan, shipped())
            same = now == before[name] or alike(json.loads(before[name]), json.loads(now))
            assert same, f"{name}: python -m tests.recording.recorded FOLDER shows how"

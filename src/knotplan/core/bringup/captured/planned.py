"""What a lane of the plan would look like if it were captured."""

import numpy as np

from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.timing.lanes import Lane

MOST_EDGES = 100_000


def planned_trace(lane: Lane, seconds: float, name: str = "") -> Trace:
    """A lane as a trace from 0 on; of a busy one only the beginning."""
    per_second = (
        lane.wave.count(0.0, max(lane.wave.period_s, 1e-9)) / lane.wave.period_s
        if lane.wave.period_s
        else 0.0
    )
    end = min(seconds, MOST_EDGES / per_second) if per_second else seconds
    if lane.wave.period_s:
        end = max(end, min(3 * lane.wave.period_s, seconds or 3 * lane.wave.period_s))
    times, levels = lane.wave.edges(0.0, end)
    rest = lane.wave.level(-1e-12) if lane.wave.period_s else lane.wave.rest
    return Trace(name or lane.title, times, levels.astype(np.int8), 0.0, end, rest)

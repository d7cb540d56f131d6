"""Which channel of a capture is which lane of the plan: by its name, then by what it does."""

import math
from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np
from msgspec import Struct
from scipy.optimize import linear_sum_assignment

from knotplan.core.bringup.captured.planned import planned_trace
from knotplan.core.bringup.captured.pulses import Pulses, pulses_of
from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.program.named import Named
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.timing.lanes import Lane

Why = Literal["maker", "name", "behaviour", ""]
TOO_FAR = 3.0
"""a channel that is farther from a lane than this is not taken for it: about a factor of three in period and
width"""
STILL = 6.0
"""how far what never changes is from what does"""
ORDER = 1e-3
"""for each place by which channels would change their order: decides between lanes that are alike"""


class Pair(Struct, frozen=True):
    """A channel, and the lane that it is taken for."""

    channel: int
    lane: str
    """empty where it is none"""
    why: Why


def matched(
    c: Circuit, traces: Sequence[Trace], lanes: Sequence[Lane], chosen: Mapping[int, str] | None = None
) -> list[Pair]:
    """A lane for each channel, where there is one. `chosen` are the maker's own: {channel: lane id, or
    empty}."""
    found: dict[int, Pair] = {k: Pair(k, lane, "maker") for k, lane in (chosen or {}).items()}
    taken = {p.lane for p in found.values()} - {""}
    _by_name(c, traces, lanes, found, taken)
    free = [k for k in range(len(traces)) if k not in found]
    left = [lane for lane in lanes if lane.id not in taken]
    for k, lane in _by_behaviour(traces, free, left):
        found[k] = Pair(k, lane.id, "behaviour")
    return [found.get(k, Pair(k, "", "")) for k in range(len(traces))]


def _by_name(
    c: Circuit, traces: Sequence[Trace], lanes: Sequence[Lane], found: dict[int, Pair], taken: set[str]
) -> None:
    names = Named(c)
    by_title = {_squeezed(x): lane for lane in reversed(lanes) for x in (lane.id, lane.title)}
    for k, trace in enumerate(traces):
        if k in found:
            continue
        lane = by_title.get(_squeezed(trace.name))
        if lane is None:
            leads = {tie.lead for tie in names.ties_of([trace.name], sure=True)}
            mine = [x for x in lanes if x.lead in leads]
            lane = mine[0] if len(leads) == 1 and mine else None
        if lane is not None and lane.id not in taken:
            found[k] = Pair(k, lane.id, "name")
            taken.add(lane.id)


def _squeezed(text: str) -> str:
    return "".join(x for x in text.casefold() if x.isalnum())


def _by_behaviour(
    traces: Sequence[Trace], free: Sequence[int], lanes: Sequence[Lane]
) -> list[tuple[int, Lane]]:
    if not free or not lanes:
        return []
    seen = [pulses_of(traces[k]) for k in free]
    wanted = [pulses_of(planned_trace(lane, max(traces[k].seconds for k in free))) for lane in lanes]
    costs = np.array(
        [[distance(w, s) + ORDER * abs(i - j) for j, w in enumerate(wanted)] for i, s in enumerate(seen)]
    )
    rows, columns = linear_sum_assignment(costs)
    return [
        (free[i], lanes[j])
        for i, j in zip(rows.tolist(), columns.tolist(), strict=True)
        if costs[i, j] < TOO_FAR and seen[i].count
    ]


def distance(planned: Pulses, seen: Pulses) -> float:
    """How far what is seen is from what is planned, in powers of e of period, high and low time together."""
    if bool(planned.count) != bool(seen.count):
        return STILL
    if not planned.count:
        return 0.0
    pairs = ((planned.period_s, seen.period_s), (planned.high_s, seen.high_s), (planned.low_s, seen.low_s))
    return sum(abs(math.log(a / b)) if a > 0 and b > 0 else (1.0 if a != b else 0.0) for a, b in pairs)

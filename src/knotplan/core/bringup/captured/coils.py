"""Steppers in a capture: in which order their coils come, and how fast."""

from collections.abc import Iterator, Sequence
from itertools import pairwise, permutations

import numpy as np

from knotplan.core.bringup.captured.decoders import coil_states
from knotplan.core.bringup.captured.differ import Differ
from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.difference import Difference
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import listed, show
from knotplan.core.timing import stepper
from knotplan.core.timing.lanes import Lane

RATE_SHARE = 0.05
LEAST = 8
"""steps that say what the order is"""


def compared(c: Circuit, differ: Differ, coils: Sequence[tuple[Trace, Lane]]) -> Iterator[Difference]:
    """Each motor of which all four coils were captured."""
    parts = dict.fromkeys(lane.part for _, lane in coils)
    for part in parts:
        w = stepper.wired(c, part)
        order = [t.lead for t in stepper.input_ties(c, w)] if w is not None else []
        mine = {lane.lead: (trace, lane) for trace, lane in coils if lane.part == part}
        if len(order) == 4 and all(lead in mine for lead in order):
            yield from _motor(c, differ, part, [mine[lead] for lead in order])


def _motor(c: Circuit, differ: Differ, part: str, mine: Sequence[tuple[Trace, Lane]]) -> Iterator[Difference]:
    traces, about = [t for t, _ in mine], [lane for _, lane in mine]
    states, moments = coil_states(traces)
    name, mode = c.titles.part(part), stepper.asked_mode(c, part)
    facts = c.parts[part].facts.stepper
    assert facts is not None
    if not states:
        yield differ.of_lanes("capture-still", about, f"{name} does not step", "None of its coils changes.")
        return
    if len(states) < LEAST:
        return
    way, seen_mode, order = _read(states)
    back = c.placed[part].settings.get("way") == "backwards"
    if way == 0:
        own = listed([c.titles.own(lane.lead) for lane in about])
        yield differ.of_lanes(
            "capture-coils",
            about,
            f"{name}: coils in another order",
            f"What comes at {own} is no sequence that turns a motor: it hums. {order}",
        )
        return
    if (way < 0) != back:
        yield differ.of_lanes(
            "capture-backwards",
            about,
            f"{name} turns the other way",
            "The coils come in the reverse order.",
            note=True,
        )
    if seen_mode != mode:
        text = f"Captured are {seen_mode} steps: {'twice' if seen_mode == 'half' else 'half'} as many a turn."
        if "half" not in (seen_mode, mode):
            text = f"Captured are {seen_mode} steps: as many a turn, with another torque."
        yield differ.of_lanes(
            "capture-mode",
            about,
            f"{name}: planned are {mode} steps",
            text,
            note="half" not in (seen_mode, mode),
        )
        return
    step_s, wanted_s = (
        float(np.median(np.diff(moments))),
        1 / stepper.step_hz(facts, mode, stepper.asked_rpm(c, part)),
    )
    ratio = wanted_s / step_s
    if abs(ratio - 1) > RATE_SHARE:
        times = (
            "twice as fast"
            if abs(ratio - 2) < 0.1
            else "half as fast"
            if abs(ratio - 0.5) < 0.03
            else "at another speed"
        )
        text = f"A step every {show(step_s, 's', 4)}, planned is every {show(wanted_s, 's', 4)}."
        yield differ.of_lanes("capture-rate", about, f"{name} steps {times}", text)


def _read(states: Sequence[tuple[int, ...]]) -> tuple[int, str, str]:
    """(1 forwards, -1 backwards, 0 no sequence; the mode; which exchange would make it one)."""
    for mode, rows in stepper.SEQUENCES.items():
        if way := _follows(states, rows):
            return way, mode, ""
    for order in permutations(range(4)):
        turned = [tuple(s[k] for k in order) for s in states]
        for mode, rows in stepper.SEQUENCES.items():
            if _follows(turned, rows) == 1:
                moved = [f"coil {k + 1}" for k, x in enumerate(order) if x != k]
                return 0, mode, f"It would be one if {listed(moved)} changed places."
    return 0, "full", ""


def _follows(states: Sequence[tuple[int, ...]], rows: Sequence[tuple[int, ...]]) -> int:
    """Whether states go through the rows of a sequence, forwards or backwards; a start in the middle is no
    matter."""
    inner = states[1:-1]
    if any(s not in rows for s in inner) or len(set(inner)) < min(len(rows), len(inner)):
        return 0
    at = [rows.index(s) for s in inner]
    steps = {(b - a) % len(rows) for a, b in pairwise(at)}
    return 1 if steps == {1} else -1 if steps == {len(rows) - 1} else 0

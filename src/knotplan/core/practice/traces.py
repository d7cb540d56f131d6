"""What an instrument shows at the pins of a practice bench, with the jitter and the disturbances of real
ones."""

from collections.abc import Iterable

import numpy as np
from msgspec import Struct

from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.circuit.nets import GROUND
from knotplan.core.practice.bench import PracticeBench
from knotplan.core.practice.troubles import Trouble
from knotplan.core.timing.lanes import Lane, lanes
from knotplan.core.timing.wave import Floats, Ints

MOST_EDGES = 300_000
"""of one channel"""
OTHER_PERIOD = 1.25
"""by how much a period is too long that a program has wrong"""


class Instrument(Struct, frozen=True):
    """What captures."""

    seconds: float = 0.5
    tick_s: float = 1e-7
    """how finely it looks"""
    jitter: float = 0.3
    """of a tick, standard deviation"""
    glitches: int = 2
    """short disturbances in the whole capture"""
    named: bool = True
    """channels have the names of leads; else they are numbered"""


def capture(bench: PracticeBench, instrument: Instrument | None = None) -> list[Trace]:
    """A channel for each output of the plan, held to its pin."""
    i = instrument or Instrument()
    rng = np.random.default_rng(bench.seed)
    c = bench.planned
    found = []
    shown = [lane for lane in lanes(c) if lane.where]
    does = _Program(shown, bench.troubles)
    begins = float(rng.uniform(0, 0.01))
    for k, lane in enumerate(shown):
        tie = c.ties.of(lane.lead)
        contact = tie.to if tie is not None else ""
        times, levels, rest = does.at(lane, contact, begins, i.seconds)
        held = _held(bench, contact)
        if held is not None:
            times, levels, rest = times[:0], levels[:0], held
        name = lane.title if i.named else f"D{k}"
        found.append(_sampled(name, times, levels, rest, i, rng))
    for _ in range(i.glitches if found else 0):
        k = int(rng.integers(len(found)))
        found[k] = _disturbed(found[k], i, rng)
    return found


class _Program:
    """What the program does at each contact."""

    def __init__(self, shown: Iterable[Lane], troubles: Iterable[Trouble]):
        self.lanes = {lane.id: lane for lane in shown}
        self.of = {lane.id: lane for lane in shown}
        self.inverted: set[str] = set()
        self.times: dict[str, float] = {}
        self.moved: dict[str, str] = {}
        """leads whose wave is on another contact"""
        self.silent: set[str] = set()
        for t in troubles:
            self._take(t)

    def _take(self, t: Trouble) -> None:
        mine = [lane.id for lane in self.lanes.values() if lane.lead in t.leads]
        match t.does:
            case "pin":
                self.moved |= dict.fromkeys(t.leads, t.to)
            case "inverted":
                self.inverted |= set(mine)
            case "exchanged" if len(mine) == 2:
                self._exchange(mine[0], mine[1])
            case "order" if len(mine) == 4:
                self._exchange(mine[1], mine[2])
            case "twice" | "half":
                self.times |= dict.fromkeys(mine, 0.5 if t.does == "twice" else 2.0)
            case "period":
                self.times |= dict.fromkeys(mine, OTHER_PERIOD)
            case "silent":
                self.silent |= set(mine)

    def _exchange(self, one: str, two: str) -> None:
        self.of[one], self.of[two] = self.of[two], self.of[one]

    def at(self, lane: Lane, contact: str, begins: float, seconds: float) -> tuple[Floats, Ints, int]:
        """(times, levels, level before) at a lane's planned contact."""
        does = self.of[lane.id]
        here = next((x for x in self.lanes.values() if self.moved.get(x.lead) == contact), None)
        if here is not None:
            does = here
        elif lane.lead in self.moved or lane.id in self.silent:
            return np.zeros(0), np.zeros(0, np.int64), int(lane.kind == "uart")
        by = self.times.get(does.id, 1.0)
        wave = does.wave
        per_s = len(wave.times) / wave.period_s / by if wave.period_s else 0.0
        end = min(seconds, MOST_EDGES / per_s) if per_s else seconds
        times, levels = wave.edges(0.0, (end - begins) / by)
        flip = int(does.id in self.inverted)
        rest = (
            wave.rest
            if not wave.period_s or does.kind in ("uart", "spi")
            else int(levels[-1])
            if len(levels)
            else 0
        )
        return times * by + begins, levels ^ flip, rest ^ flip


def _held(bench: PracticeBench, contact: str) -> int | None:
    """The level of a pin that lies on ground or on a supply."""
    group = bench.bench.group(contact)
    if group == bench.bench.group(GROUND):
        return 0
    planned = bench.network.group_of.get(contact, -2)
    return 1 if group in bench.fed.volts and group != planned else None


def _sampled(
    name: str, times: Floats, levels: Ints, rest: int, i: Instrument, rng: np.random.Generator
) -> Trace:
    """As the instrument has it: at whole ticks, each a little early or late."""
    if i.jitter and len(times):
        times = times + rng.normal(0.0, i.jitter * i.tick_s, len(times))
    ticks = np.maximum.accumulate(np.rint(times / i.tick_s)) if len(times) else times
    last = (
        np.append(np.diff(ticks) > 0, True) if len(ticks) else np.zeros(0, bool)
    )  # of two in a tick the last counts
    ticks, kept = ticks[last], levels[last].astype(np.int8)
    before = np.concatenate([np.array([rest], np.int8), kept[:-1]]) if len(kept) else kept
    real = kept != before
    return Trace(name, ticks[real] * i.tick_s, kept[real], 0.0, i.seconds, rest, i.tick_s)


def _disturbed(trace: Trace, i: Instrument, rng: np.random.Generator) -> Trace:
    """With one level that lasts a tick or two."""
    at = float(rng.integers(1, max(2, int(i.seconds / i.tick_s) - 3))) * i.tick_s
    k = int(np.searchsorted(trace.times, at))
    end = at + float(rng.integers(1, 3)) * i.tick_s
    if k < trace.count and trace.times[k] <= end + i.tick_s:
        return trace  # it would run into an edge
    level = trace.level(at)
    times = np.insert(trace.times, k, [at, end])
    levels = np.insert(trace.levels, k, [1 - level, level])
    return Trace(trace.name, times, levels, trace.start_s, trace.end_s, trace.rest, trace.tick_s)

"""How often measuring finds a fault: each single fault of each scene planted in a bench drawn by chance.

Every part of the bench stands somewhere in its tolerance, every level that nobody knows is one or the other,
and the meter is off by up to 1 %. The program proposes each measurement. Found is a fault that is among the
first three after at most five readings; faults that no meter tells apart count as one.

Run: python -m tools.measure_faults [scene ...]
"""

import random
import sys
from collections import Counter
from collections.abc import Iterator
from typing import NamedTuple

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.meter.building import DIODE_V
from knotplan.core.meter.expected import OVER_OHM
from knotplan.core.meter.faults import Fault
from knotplan.core.meter.points import Point
from knotplan.core.meter.ranking import METER_SHARE, Ranking
from knotplan.core.meter.table import Meter, Table
from knotplan.core.plan.wired import Reading
from knotplan.examples import SCENES, example

MOST_READINGS, FIRST = 5, 3


class Trial(NamedTuple):
    """One planted fault."""

    fault: Fault
    place: int
    """among those that agree, from 0; -1 where it is not among them"""
    readings: int


def shown(point: Point, value: float, rng: random.Random) -> Reading:
    """What the meter shows."""
    if value >= {"ohms": OVER_OHM, "diode": 0.99 * DIODE_V, "volts": 1e9}[point.range]:
        return Reading(point.id, None, "open")
    return Reading(point.id, value * (1 + rng.uniform(-METER_SHARE, METER_SHARE)))


def tried(
    meter: Meter, table: Table, ranking: Ranking, number: int, rng: random.Random, *, told: bool, most: int
) -> Trial:
    """One fault on one bench; `told` says that the parts which it concerns are known not to work."""
    fault = table.faults[number]
    parts = fault.parts if told else ()
    bench = rng.randrange(10**9)
    taken: list[Reading] = []
    answer = ranking.answer(taken, parts)
    while answer.next is not None and len(taken) < most:
        point = answer.next.point
        value = meter.specimen(fault, [point], random.Random(bench))[point]
        taken.append(shown(point, value, rng))
        answer = ranking.answer(taken, parts)
    places = (k for k, r in enumerate(answer.ranked) if fault in r.faults)
    return Trial(fault, next(places, -1), len(taken))


def trials(
    scene: str, *, told: bool, step: int = 1, seed: int = 7, most: int = MOST_READINGS
) -> Iterator[Trial]:
    """Every fault of a scene that some meter reading shows, or each `step`-th of them."""
    catalog = shipped()
    meter = Meter(Circuit(example(scene, catalog), catalog))
    table = meter.table()
    ranking, rng = Ranking(table), random.Random(seed)
    for number in range(0, len(table.faults), step):
        if table.readings[number]:
            yield tried(meter, table, ranking, number, rng, told=told, most=most)


def main() -> None:
    """Prints the figures of each scene."""
    for told in (True, False):
        print("what does not work is told" if told else "nothing is known but that something is wrong")
        found, first, count, kinds = 0, 0, 0, Counter[str]()
        for scene in sys.argv[1:] or [s for s in SCENES if s != "organ-shutters"]:
            own = list(trials(scene, told=told))
            hits = [t for t in own if 0 <= t.place < FIRST]
            best = sum(t.place == 0 for t in own)
            lost = sum(t.place < 0 for t in own)
            kinds.update(t.fault.kind for t in own if t not in hits)
            print(f"  {scene}: {len(hits)} of {len(own)}, {best} first, {lost} ruled out wrongly")
            found, first, count = found + len(hits), first + best, count + len(own)
        shares = f"{found / count:.1%} among the first {FIRST}, {first / count:.1%} first"
        print(f"  all: {found} of {count}, {shares}")
        print(f"  not found: {dict(kinds)}")


if __name__ == "__main__":
    main()

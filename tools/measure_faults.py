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
from typing import Literal, NamedTuple

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.meter.building import DIODE_V
from knotplan.core.meter.checks import checks
from knotplan.core.meter.expected import OVER_OHM
from knotplan.core.meter.faults import Fault
from knotplan.core.meter.points import Point
from knotplan.core.meter.ranking import METER_SHARE, Ranking, agrees
from knotplan.core.meter.table import Meter
from knotplan.core.plan.wired import Reading
from knotplan.examples import SCENES, example

MOST_READINGS, FIRST = 5, 3
Known = Literal["complaint", "checks", "nothing"]
KNOWN: dict[Known, str] = {
    "complaint": "what does not work is told",
    "checks": "the checks were gone through up to the first that does not read as planned, which counts",
    "nothing": "nothing is known but that something is wrong",
}


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


class Bench:
    """A scene with its table, in which faults are planted."""

    def __init__(self, scene: str, seed: int):
        catalog = shipped()
        self.meter = Meter(Circuit(example(scene, catalog), catalog))
        self.table = self.meter.table()
        self.ranking = Ranking(self.table)
        self.checks = checks(self.table)
        self.rng = random.Random(seed)

    def _reading(self, fault: Fault, point: Point, bench: int) -> Reading:
        value = self.meter.specimen(fault, [point], random.Random(bench))[point]
        return shown(point, value, self.rng)

    def checked(self, fault: Fault, bench: int) -> list[Reading]:
        """The checks in their order, up to the first that does not read as planned."""
        taken: list[Reading] = []
        for check in self.checks:
            taken.append(self._reading(fault, check.point, bench))
            if not agrees(check.point, check.expected, taken[-1]):
                break
        return taken

    def tried(self, fault: Fault, known: Known, most: int) -> Trial:
        """One fault on one bench drawn by chance; the checks that read as planned are not counted."""
        bench = self.rng.randrange(10**9)
        parts = fault.parts if known == "complaint" else ()
        taken = self.checked(fault, bench) if known == "checks" else []
        counted = 1 if taken else 0
        answer = self.ranking.answer(taken, parts)
        while answer.next is not None and counted < most:
            taken.append(self._reading(fault, answer.next.point, bench))
            counted += 1
            answer = self.ranking.answer(taken, parts)
        places = (k for k, r in enumerate(answer.ranked) if fault in r.faults)
        return Trial(fault, next(places, -1), counted)


def trials(
    scene: str, known: Known, *, step: int = 1, seed: int = 7, most: int = MOST_READINGS
) -> Iterator[Trial]:
    """Every fault of a scene that some meter reading shows, or each `step`-th of them."""
    bench = Bench(scene, seed)
    for number in range(0, len(bench.table.faults), step):
        if bench.table.readings[number]:
            yield bench.tried(bench.table.faults[number], known, most)


def main() -> None:
    """Prints the figures of each scene."""
    for known, words in KNOWN.items():
        print(words)
        found, first, count, kinds = 0, 0, 0, Counter[str]()
        for scene in sys.argv[1:] or [s for s in SCENES if s != "organ-shutters"]:
            own = list(trials(scene, known))
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

"""How many faults of a bench Bring-up and Wire-up together name: troubles of each kind, planted in each
scene.

Bring-up is shown what the practice bench answers with the fault in it: scans, lines, and a capture with
jitter and disturbances. It names a fault where a difference is about its part or cord. What Bring-up does not
see is looked for with a meter: what does not work is told, and the fault has to be among the first three
after at most five readings.

Run: python -m tools.measure_bring_up [--each N] [scene ...]
"""

import argparse
from collections import Counter
from collections.abc import Iterator
from random import Random
from typing import NamedTuple

from knotplan.catalog.load import Catalog, shipped
from knotplan.core.bringup.held import Bench as Heard
from knotplan.core.bringup.held import held
from knotplan.core.check.analysis import analyse
from knotplan.core.check.report import Report
from knotplan.core.plan.document import split
from knotplan.core.practice.bench import PracticeBench
from knotplan.core.practice.traces import Instrument, capture
from knotplan.core.practice.troubles import Trouble, troubles
from knotplan.examples import SCENES, example
from tools.measure_faults import FIRST, MOST_READINGS, Bench

SECONDS = 0.3
"""of a capture"""
EACH = 6
"""troubles of one kind in one scene"""


class Found(NamedTuple):
    """One planted trouble, and who named it."""

    scene: str
    trouble: Trouble
    by: str
    """bring-up, wire-up, or nothing"""


def chosen(report: Report, each: int, seed: int) -> list[Trouble]:
    """So many of each kind, by chance."""
    by_kind: dict[str, list[Trouble]] = {}
    for t in troubles(report.circuit):
        by_kind.setdefault(t.kind, []).append(t)
    rng = Random(seed)
    return [t for several in by_kind.values() for t in rng.sample(several, min(each, len(several)))]


def heard_of(report: Report, catalog: Catalog, trouble: Trouble, seed: int) -> Heard:
    """Everything that a practice bench with one trouble answers."""
    bench = PracticeBench(report.circuit, catalog, [trouble], seed)
    traces = capture(bench, Instrument(seconds=SECONDS))
    return Heard(tuple(bench.scans()), tuple(bench.lines()), tuple(traces))


def named_by_bring_up(report: Report, catalog: Catalog, trouble: Trouble, seed: int) -> bool:
    """A difference is about the trouble's part or cord."""
    wanted = {*trouble.parts, *trouble.ties, *trouble.leads}
    for d in held(report, catalog, heard_of(report, catalog, trouble, seed)).differences:
        about = {*d.subjects, *d.look, *(split(s)[0] for s in d.subjects)}
        if d.gravity == "differs" and about & wanted:
            return True
    return False


def tried(scene: str, each: int = EACH, seed: int = 11) -> Iterator[Found]:
    """Troubles of each kind in one scene."""
    catalog = shipped()
    report = analyse(example(scene, catalog), catalog)
    measured = Bench(scene, seed)
    faults = {f.title: f for f in measured.table.faults}
    for k, trouble in enumerate(chosen(report, each, seed)):
        by = "bring-up" if named_by_bring_up(report, catalog, trouble, seed + k) else ""
        if not by and trouble.title in faults:
            trial = measured.tried(faults[trouble.title], "complaint", MOST_READINGS)
            by = "wire-up" if 0 <= trial.place < FIRST else ""
        yield Found(scene, trouble, by)


def main() -> None:
    """Prints the figures."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--each", type=int, default=EACH)
    parser.add_argument("scenes", nargs="*", default=[s for s in SCENES if s != "organ-shutters"])
    given = parser.parse_args()
    all_: list[Found] = []
    for scene in given.scenes:
        own = list(tried(scene, given.each))
        all_ += own
        by = Counter(f.by or "nobody" for f in own)
        print(f"{scene}: {len(own)} faults, {dict(by)}", flush=True)
    good = sum(bool(f.by) for f in all_)
    print(f"all: {good} of {len(all_)} named, {good / len(all_):.1%}")
    for f in all_:
        if not f.by:
            print(f"  {f.scene} {f.trouble.id}: {f.trouble.title}")


if __name__ == "__main__":
    main()

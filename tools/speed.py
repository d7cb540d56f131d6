"""What an edit costs, what the first analysis costs, and what commands cost before they begin: here, or here
and in another checkout in alternation.

    python -m tools.speed                           figures of this tree
    python -m tools.speed --against ../other -n 5   five rounds of both, with the ratios of each round

Machines are shared and noisy: each figure of a command stands beside the same of a bare Python in the same
seconds, and trees are compared round by round.
"""

import argparse
import json
import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from knotplan.core.plan.document import Plan

HERE = Path(__file__).parent.parent
Figures = dict[str, float]


def edits_of_demo() -> "Iterator[tuple[str, Plan, Plan]]":
    """(kind, plan, the plan after it) of everyday edits."""
    from knotplan.catalog.load import shipped
    from knotplan.core.plan import edits
    from knotplan.core.plan.beads import SeriesResistor
    from knotplan.examples import example

    plan = example("harbour-light", shipped())
    yield "tie moved", plan, edits.tie(plan, "flag.signal", "board.p24")
    yield "untied", plan, edits.untie(plan, "flag.signal")
    yield "bead's value", plan, edits.change_bead(plan, "lamp.anode", 0, SeriesResistor(220.0))
    yield "role", plan, edits.set_role(plan, "flag.signal", "pennant")
    yield "name", plan, edits.rename_part(plan, "flag", "Pennant")
    yield "part added", plan, edits.add_part(plan, "micro-servo", "Second flag")
    yield "part deleted", plan, edits.remove_part(plan, "flag")
    yield "parameter", plan, edits.set_param(plan, "quay", "count", 300.0)
    yield "cord", plan, edits.set_cord(plan, "flag.power", 2.0, 0.14)
    yield "colour", plan, edits.recolour(plan, "flag.signal", "green")


def edits_of_organ(hubs: int = 60) -> "Iterator[tuple[str, Plan, Plan]]":
    """The same of Organ shutters."""
    from knotplan.core.plan import edits
    from knotplan.core.plan.beads import Capacitor
    from knotplan.examples.organ_shutters import organ_shutters

    plan = organ_shutters(hubs)
    lead, part = "shutter-01-01.signal", "shutter-01-01"
    free = edits.untie(plan, "shutter-01-02.signal")
    channel = next(t.to for t in plan.ties if t.lead == "shutter-01-02.signal")
    yield "servo on another channel", free, edits.tie(free, lead, channel)
    yield "untied", plan, edits.untie(plan, lead)
    bead = edits.change_bead(plan, "rank-01.vplus", 0, Capacitor(470e-6, 10.0))
    yield "bead's value", plan, bead
    yield "role", plan, edits.set_role(plan, lead, "louvre")
    yield "name", plan, edits.rename_part(plan, part, "Louvre")
    yield "part added", plan, edits.add_part(plan, "micro-servo", "One more")
    yield "part deleted", plan, edits.remove_part(plan, part)
    yield "parameter", plan, edits.set_param(plan, "wind-03", "amperes", 9.0)
    yield "cord", plan, edits.set_cord(plan, "rank-03.vplus", 1.0, 0.5)
    yield "colour", plan, edits.recolour(plan, lead, "green")


def spent(do: Callable[[], object]) -> float:
    """Milliseconds of processor time."""
    begun = time.process_time()
    do()
    return (time.process_time() - begun) * 1e3


def followed(name: str, kinds: "Iterator[tuple[str, Plan, Plan]]", count: int) -> Figures:
    """The report after each kind of edit and after the way back."""
    from knotplan.catalog.load import shipped
    from knotplan.core.check.analysis import AnalysisCache, analyse

    catalog, found, every = shipped(), {}, []
    for kind, plan, edited in kinds:
        kept = AnalysisCache()
        for now in (plan, edited, plan):
            analyse(now, catalog, kept=kept)
        again = partial(analyse, catalog=catalog, kept=kept)
        times = [spent(partial(again, now)) for now in (edited, plan) * count]
        found[f"{name}: {kind}, ms"] = statistics.median(times)
        every += times if kind != "colour" else []
    found[f"{name}: all kinds, median, ms"] = statistics.median(every)
    found[f"{name}: all kinds, 95th percentile, ms"] = statistics.quantiles(every, n=20)[18]
    return found


def first(name: str, count: int) -> Figures:
    from knotplan.catalog.load import shipped
    from knotplan.core.check.analysis import analyse
    from knotplan.examples import example

    plan, catalog = example(name, shipped()), shipped()
    analyse(plan, catalog)
    times = [spent(lambda: analyse(plan, catalog)) for _ in range(count)]
    return {f"{name}: first analysis, ms": statistics.median(times)}


def commands(count: int) -> Figures:
    """Cold starts against a bare Python's, in pairs."""
    demo = str(HERE / "src/knotplan/examples/harbour-light.knot.json")
    pairs = {
        "knotplan check of the demo, against importing msgspec and numpy": (
            ["-m", "knotplan", "check", demo],
            ["-c", "import msgspec, numpy"],
        ),
        "knotplan --help, against python -c pass": (["-m", "knotplan", "--help"], ["-c", "pass"]),
    }
    env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}

    def cold(arguments: list[str]) -> float:
        begun = time.perf_counter()
        subprocess.run([sys.executable, *arguments], capture_output=True, check=False, env=env)
        return time.perf_counter() - begun

    found = {}
    for name, (ours, bare) in pairs.items():
        cold(ours)
        both = [(cold(ours), cold(bare)) for _ in range(count)]
        found[name] = statistics.median(a / b for a, b in both)
    return found


def figures() -> Figures:
    """All of them."""
    return {
        **followed("demo", edits_of_demo(), 10),
        **followed("organ shutters", edits_of_organ(), 4),
        **first("harbour-light", 15),
        **first("organ-shutters", 3),
        **commands(7),
    }


def _in(tree: Path) -> Figures:
    """The figures of another checkout, by this one's way of measuring."""
    env = {**os.environ, "PYTHONPATH": str(tree / "src")}
    done = subprocess.run(
        [sys.executable, str(HERE / "tools/speed.py"), "--json"],
        env=env,
        capture_output=True,
        text=True,
        check=True,
    )
    found: Figures = json.loads(done.stdout.splitlines()[-1])
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=(__doc__ or "").split("\n")[0])
    parser.add_argument("--against", type=Path)
    parser.add_argument("-n", "--rounds", type=int, default=3)
    parser.add_argument("--json", action="store_true")
    given = parser.parse_args()
    if given.json:
        print(json.dumps(figures()))
        return
    if given.against is None:
        for name, value in figures().items():
            print(f"{value:9.2f}  {name}")
        return
    rounds = [(_in(given.against.resolve()), _in(HERE)) for _ in range(given.rounds)]
    print(f"{'before':>9} {'now':>9} {'ratio':>7}   medians of {given.rounds} rounds")
    for name in rounds[0][1]:
        before, now = (statistics.median(r[k][name] for r in rounds) for k in (0, 1))
        ratio = statistics.median(r[1][name] / r[0][name] for r in rounds)
        print(f"{before:9.2f} {now:9.2f} {ratio:7.3f}   {name}")


if __name__ == "__main__":
    main()

"""What an edit costs: until the report stands, and until the whole window is painted again."""

import gc
import os
import statistics
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np

from knotplan.catalog.load import shipped
from knotplan.core.check.analysis import AnalysisCache, analyse
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.examples import example
from knotplan.examples.organ_shutters import organ_shutters
from tools.speed.kinds import Kinds

Figures = dict[str, float]
SIZES = (4, 8, 15, 30, 60)
"""hubs of 16 servos each"""


def spent(do: Callable[[], object]) -> float:
    """Milliseconds of processor time."""
    begun = time.process_time()
    do()
    return (time.process_time() - begun) * 1e3


def summed(name: str, times: dict[str, list[float]]) -> Figures:
    """The median of each kind, and of all kinds together. An edit of looks alone would flatter the sum."""
    found = {f"{name}: {kind}, ms": statistics.median(each) for kind, each in times.items()}
    every = [t for kind, each in times.items() if kind != "colour" for t in each]
    found[f"{name}: all kinds, median, ms"] = statistics.median(every)
    found[f"{name}: all kinds, 95th percentile, ms"] = statistics.quantiles(every, n=20)[18]
    return found


def to_the_report(name: str, kinds: Kinds, count: int) -> Figures:
    """The whole report after each kind of edit and after the way back."""
    times = {}
    for kind, plan, edited in kinds:
        kept = AnalysisCache()
        again = partial(analyse, catalog=shipped(), kept=kept)
        for now in (plan, edited, plan):
            again(now)
        gc.collect()
        times[kind] = [spent(partial(again, now)) for now in (edited, plan) * count]
    return summed(f"{name}, edit to report", times)


def to_the_repaint(name: str, kinds: Kinds, count: int) -> Figures:
    """Each kind of edit and the way back, in a window of 1280 by 800: analysis, layouts, every view that is
    shown, and the painting. What timers bring afterwards is not in it, but for the remedies in a figure of
    their own."""
    from PySide6.QtCore import QEvent
    from PySide6.QtWidgets import QApplication

    from knotplan.desktop import garbage
    from knotplan.desktop.app import application, make_window
    from knotplan.desktop.settings import Settings

    application()
    every = list(kinds)
    window = make_window(every[0][1], None, Settings(Path(tempfile.mkdtemp())), shipped())
    window.resize(1280, 800)
    window.show()
    window.complete()
    session = window.session
    session.load_engine(wait=True)
    garbage.settle()

    def change(now: Plan) -> None:
        session.edit("", lambda _: now)
        QApplication.sendPostedEvents()

    def rest() -> None:
        window.side.findings.settle()
        QApplication.processEvents()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    times, remedies = {}, []
    for kind, plan, edited in every:
        if session.plan != plan:
            change(plan)
        rest()
        each = []
        for now in (edited, plan) * (count + 1):
            each.append(spent(partial(change, now)))
            remedies.append(each[-1] + spent(window.side.findings.settle))
            rest()
        times[kind] = each[2:]
    session.saved = session.plan
    window.close()
    return summed(f"{name}, edit to repaint", times) | {
        f"{name}, with all remedies found, 95th percentile, ms": statistics.quantiles(remedies, n=20)[18],
        f"{name}, memory of the process, MB": _memory_mb(),
    }


def _memory_mb() -> float:
    return int(Path("/proc/self/statm").read_text("ascii").split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6


def growth(count: int) -> Figures:
    """A servo off its channel and on it again, on benches of 64 to 960 servos: what the report takes, what
    the first analysis takes, and the exponents of both."""
    after, first = [], []
    for hubs in SIZES:
        plan = organ_shutters(hubs)
        first.append(min(spent(lambda: analyse(plan, shipped())) for _ in range(2)))  # noqa: B023  (called at once)
        kept = AnalysisCache()
        again = partial(analyse, catalog=shipped(), kept=kept)
        untied = edits.untie(plan, "shutter-01-01.signal")
        for now in (plan, untied, plan):
            again(now)
        gc.collect()
        after.append(statistics.median(spent(partial(again, now)) for now in (untied, plan) * count))
    servos = [16 * hubs for hubs in SIZES]
    found = {}
    for what, costs in (("after a tie", after), ("first analysis", first)):
        found |= {f"{number} servos, {what}, ms": cost for number, cost in zip(servos, costs, strict=True)}
        found[f"{what}, exponent"] = float(np.polyfit(np.log(servos), np.log(costs), 1)[0])
    return found


def first_analysis(name: str, count: int) -> Figures:
    """The whole analysis with nothing kept."""
    plan = example(name, shipped())
    analyse(plan, shipped())
    times = [spent(lambda: analyse(plan, shipped())) for _ in range(count)]
    return {f"{name}, first analysis, ms": statistics.median(times)}

"""The figures of `./knot bench`: medians and ratios within one run.

Machines are shared and noisy, so each figure stands beside something measured in the same minutes.
"""

import json
import os
import statistics
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from knotplan.core.check.finding import Finding
    from knotplan.core.plan.document import Plan
    from knotplan.desktop.loom.canvas import LoomCanvas

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def timed(do: Callable[[], object], count: int) -> list[float]:
    """Milliseconds of each of `count` calls."""
    times = []
    for _ in range(count):
        begun = time.perf_counter()
        do()
        times.append((time.perf_counter() - begun) * 1e3)
    return times


def p95(values: list[float]) -> float:
    return statistics.quantiles(values, n=20)[18]


def engine(count: int) -> dict[str, float]:
    """One net of the plan's usual size with all its corners, and ten thousand specimens of a
    net of eight nodes and four junctions, beside a fixed piece of work (the sum of a million
    squares by NumPy) in the same minutes."""
    import numpy as np

    from knotplan.core.engine.solver.junction import fit
    from knotplan.core.engine.solver.network import Samples, Topology
    from knotplan.core.engine.solver.newton import solve

    chance, law = np.random.default_rng(1), fit(((0.001, 1.75), (0.02, 2.0)))

    def samples(resistors: int, junctions: int, size: int) -> Samples:
        spread = chance.uniform(-1, 1, (resistors + junctions + 1, size))
        return Samples(
            np.vstack([5 + 0.25 * spread[0], np.zeros(size)]),
            1 / (330 * (1 + 0.05 * spread[1 : resistors + 1])),
            law.is_a * np.exp(spread[resistors + 1 :] * 0.1 / law.n_vt),
            np.full((junctions, size), law.n_vt),
            None,
            np.zeros((junctions, size)),
        )

    small = Topology(2, 2, ((-1, 0), (0, 1)), ((1, -2),))
    ends = ((-1, 0), (0, 1), (1, 2), (2, 3), (-1, 4), (4, 5), (5, 6), (6, 7), (7, -2), (3, -2), (1, 5))
    large = Topology(8, 2, ends, ((1, -2), (3, 6), (5, -2), (7, 3)))
    net, many = samples(2, 1, 2 * 33), samples(len(ends), 4, 10_000)
    square = chance.uniform(size=1_000_000)
    return {
        "one net (2 nodes, a junction, 66 samples), ms": statistics.median(
            timed(lambda: solve(small, net), count * 10)
        ),
        "10 000 specimens of 8 nodes and 4 junctions, ms": statistics.median(
            timed(lambda: solve(large, many), count)
        ),
        "sum of a million squares, ms": statistics.median(
            timed(lambda: float((square * square).sum()), count)
        ),
    }


def suggestions(rounds: int) -> dict[str, float]:
    """A first answer, the proven best one and a conflict, for 45 signal leads on a
    60-pin board; another set each round."""
    import random

    import scipy.optimize  # noqa: F401  (the window has it from the start)

    from knotplan.catalog.load import shipped
    from knotplan.core.plan import edits
    from knotplan.core.plan.document import Plan
    from knotplan.core.suggest.exact import best
    from knotplan.core.suggest.suggestion import first_answer, prepare

    catalog, chance = shipped(), random.Random(4)
    wanted = [
        ("led", {"dimmed": "yes"}),
        ("micro-servo", {}),
        ("push-button", {}),
        ("knob", {}),
        ("led", {}),
        ("encoder", {}),
        ("relay-module", {}),
        ("i2c-thermometer", {}),
        ("joystick", {}),
        ("keypad", {}),
    ]
    first, proven, sizes, conflicts, stated = [], [], [], [], []
    for _ in range(rounds):
        plan = edits.add_part(
            edits.add_part(Plan("clove-60"), "plug-brick", "Feed", {"volts": "9 V"}), "brick-5v", "Brick"
        )
        while len(prepare(plan, catalog).task.leads) < 45:
            part, params = chance.choice(wanted)
            plan = edits.add_part(plan, part, part, params)
        begun = time.perf_counter()
        ready = prepare(plan, catalog)
        stated.append((time.perf_counter() - begun) * 1e3)
        sizes.append(len(ready.task.leads))
        begun = time.perf_counter()
        answer = first_answer(ready, catalog)
        (first if answer.conflict is None else conflicts).append((time.perf_counter() - begun) * 1e3)
        if answer.conflict is None:
            begun = time.perf_counter()
            if best(ready)[1]:
                proven.append((time.perf_counter() - begun) * 1e3)
    return {
        "leads, median": statistics.median(sizes),
        "question stated, median ms": statistics.median(stated),
        "first answer, median ms": statistics.median(first or [0]),
        "first answer, worst ms": max(first or [0]),
        "proven best, median ms": statistics.median(proven or [0]),
        "proven best, worst ms": max(proven or [0]),
        "proven of solvable": len(proven) / max(1, len(first)),
        "conflicts": len(conflicts),
        "smallest conflict, median ms": statistics.median(conflicts or [0]),
    }


def organ_frames(count: int, folder: str) -> dict[str, float]:
    """Frames of a gesture and of a rest, on 60 hubs with 960 servos."""
    from PySide6.QtWidgets import QApplication

    from knotplan.catalog.load import shipped
    from knotplan.desktop.app import application, make_window
    from knotplan.desktop.settings import Settings
    from knotplan.examples import example

    application()
    window = make_window(example("organ-shutters", shipped()), None, Settings(Path(folder)), shipped())
    window.resize(1280, 800)
    window.show()
    window.complete()
    window.session.load_engine(wait=True)
    QApplication.processEvents()
    loom = window.loom

    def gesture() -> None:
        loom.zoom(1.01)
        loom.repaint()

    def rest() -> None:
        loom._moving = loom._layer = loom._painted._painted = None
        loom.repaint()

    found = {}
    for scale in (1.0, 2.0, 4.0):
        loom.fit()
        QApplication.processEvents()
        loom.zoom(scale)
        rest()
        found[f"frame of a gesture at {scale:g} x, 95th percentile ms"] = p95(timed(gesture, count))
        found[f"frame at rest at {scale:g} x, median ms"] = statistics.median(timed(rest, 8))
    window.close()
    return found


def buses_and_lanes(count: int, folder: str) -> dict[str, float]:
    """Addresses for 60 hubs, and the two views of buses and timing on the same plan."""
    from PySide6.QtWidgets import QApplication

    from knotplan.catalog.load import shipped
    from knotplan.core.buses.assign import assign
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.plan import edits
    from knotplan.desktop.app import application, make_window
    from knotplan.desktop.settings import Settings
    from knotplan.examples import example

    application()
    catalog = shipped()
    plan = example("organ-shutters", catalog)
    hubs = [p.id for p in plan.parts if p.part == "pwm-hub"]
    open_pads = plan
    for hub in hubs:
        open_pads = edits.set_params(open_pads, hub, {f"a{k}": "open" for k in range(5)})
    window = make_window(plan, None, Settings(Path(folder)), catalog)
    window.resize(1280, 800)
    window.show()
    window.complete()
    window.session.load_engine(wait=True)
    found = {
        "addresses for 60 hubs with all pads open, median ms": statistics.median(
            timed(lambda: assign(Circuit(open_pads, catalog), hubs), count)
        )
    }
    for name in ("buses", "timing"):
        window.show_view(name)
        QApplication.processEvents()
        view = window.views.page(name)
        found[f"{name}: filled anew, median ms"] = statistics.median(timed(view.fill, count))
    plot = window.views.page("timing").plot

    def frame() -> None:
        plot.look_at(plot.start_s, plot.end_s * 1.01)
        plot.plot.repaint()

    for span in (1e-6, 0.05, 100.0):
        plot.look_at(0.0, span)
        found[f"timing: a frame of zooming at {span:g} s, 95th percentile ms"] = p95(timed(frame, 3 * count))
    window.close()
    return found


def _remedies_of(page: "list[Finding]") -> None:
    for finding in page:
        assert finding.remedies is not None


def _laid_out(plan: "Plan") -> None:
    from knotplan.catalog.load import shipped
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.drawing.loom.room import lay_out

    lay_out(Circuit(plan, shipped()))


def _painted_anew(loom: "LoomCanvas") -> None:
    """One painting with nothing kept of the last one."""
    loom._moving = loom._layer = loom._shown = loom._from_afar = loom._sketched = None
    loom._painted._painted = None
    loom.repaint()


def growth(folder: str) -> dict[str, float]:
    """Cost over size, from 50 to 5000 ties: seconds of the largest, and the exponent
    of the power law through all sizes."""
    import numpy as np
    from PySide6.QtWidgets import QApplication

    from knotplan.catalog.load import shipped
    from knotplan.core.check.analysis import analyse
    from knotplan.core.plan import edits
    from knotplan.desktop.app import application, make_window
    from knotplan.desktop.settings import Settings
    from knotplan.examples.organ_shutters import organ_shutters

    application()
    ties: list[int] = []
    costs: dict[str, list[float]] = {
        "analysis": [],
        "remedies of a page": [],
        "arrangement": [],
        "painting": [],
    }
    loose = [f"shutter-01-{k:02d}.signal" for k in range(1, 17)]
    for hubs in (1, 3, 9, 28, 94):
        plan = organ_shutters(hubs)
        for lead in loose:  # the same page of findings at each size
            plan = edits.untie(plan, lead)
        ties.append(len(plan.ties))
        costs["analysis"].append(min(timed(partial(analyse, plan, shipped()), 3)))
        page = [f for f in analyse(plan, shipped()).findings if f.subjects[0] in loose]
        assert len(page) >= len(loose)
        costs["remedies of a page"] += timed(partial(_remedies_of, page), 1)
        costs["arrangement"].append(min(timed(partial(_laid_out, plan), 3)))
        window = make_window(plan, None, Settings(Path(folder)), shipped())
        window.resize(1280, 800)
        window.show()
        window.complete()
        window.session.load_engine(wait=True)
        QApplication.processEvents()

        costs["painting"].append(min(timed(partial(_painted_anew, window.loom), 3)))
        window.close()
        window.deleteLater()
    found = {"ties, least": float(ties[0]), "ties, most": float(ties[-1])}
    for what, spent in costs.items():
        found[f"{what}: ms at most"] = spent[-1]
        found[f"{what}: exponent"] = float(np.polyfit(np.log(ties), np.log(spent), 1)[0])
    return found


def wiring(count: int) -> dict[str, float]:
    """What Wire up works out of the demo: its steps, what a meter reads, and with each single fault."""
    from knotplan.catalog.load import shipped
    from knotplan.core.circuit.circuit import Circuit
    from knotplan.core.meter.ranking import Ranking
    from knotplan.core.meter.table import Meter
    from knotplan.core.wiring.steps import steps_of
    from knotplan.examples import example

    plan = example("harbour-light", shipped())

    def circuit() -> Circuit:
        return Circuit(plan, shipped())

    table = Meter(circuit()).table()
    ranking = Ranking(table)
    return {
        "steps_ms": statistics.median(timed(lambda: steps_of(circuit()), count)),
        "readings_as_planned_ms": statistics.median(timed(lambda: Meter(circuit()).as_planned(), count)),
        "fault_table_ms": statistics.median(timed(lambda: Meter(circuit()).table(), count)),
        "faults": len(table.faults),
        "answer_ms": statistics.median(timed(lambda: ranking.answer([], ["lamp"]), count)),
        "ten_million_additions_ms": statistics.median(timed(lambda: sum(range(10_000_000)), count)),
    }


def captures(count: int, folder: str) -> dict[str, float]:
    """Reading a dump of a million edges, beside NumPy's reading of the same numbers as text and as bytes; and
    what a picture of it costs, from afar and from near."""
    import numpy as np

    from knotplan.exchange.bench import vcd_read

    edges, channels = 1_000_000, 8
    rng = np.random.default_rng(1)
    times = 10**9 + np.cumsum(rng.integers(1, 90, edges))
    marks = (33 + rng.integers(0, channels, edges)).tolist()
    head = "".join(f"$var wire 1 {chr(33 + k)} ch{k} $end\n" for k in range(channels))
    rows = "".join(
        f"#{t}\n{k & 1}{chr(m)}\n" for k, (t, m) in enumerate(zip(times.tolist(), marks, strict=True))
    )
    dump, plain = Path(folder) / "big.vcd", Path(folder) / "big.txt"
    dump.write_text(f"$timescale 1 ns $end\n{head}$enddefinitions $end\n{rows}", "ascii")
    plain.write_text("".join(f"{t} {k & 1}\n" for k, t in enumerate(times.tolist())), "ascii")
    traces = vcd_read.load(dump)
    end = max(t.end_s for t in traces)

    def seen(span_s: float) -> None:
        for t in traces:
            t.seen(0.4 * end, 0.4 * end + span_s, 900)

    load, text = timed(lambda: vcd_read.load(dump), count), timed(lambda: np.loadtxt(plain), count)
    size, size_text = dump.stat().st_size, plain.stat().st_size
    return {
        "dump_mb_per_s": size / 1e3 / statistics.median(load),
        "numpy_text_mb_per_s": size_text / 1e3 / statistics.median(text),
        "numpy_bytes_mb_per_s": size
        / 1e3
        / statistics.median(timed(lambda: np.fromfile(dump, np.uint8), count)),
        "picture_of_all_ms": statistics.median(timed(lambda: seen(end), count)),
        "picture_of_a_thousandth_ms": statistics.median(timed(lambda: seen(end / 1000), count)),
    }


def catalogue(count: int, folder: str) -> dict[str, float]:
    """Reading everything that the demo uses: in the form that is kept, and as the files are written."""
    from knotplan.catalog.load import Catalog
    from knotplan.examples import example

    kept = Path(folder) / "kept"
    example("harbour-light", Catalog(kept=kept))
    return {
        "kept_ms": statistics.median(timed(lambda: example("harbour-light", Catalog(kept=kept)), count)),
        "as_written_ms": statistics.median(timed(lambda: example("harbour-light", Catalog()), count)),
    }


def main() -> None:
    import tempfile

    from tools.speed import cold
    from tools.speed import edits as speed
    from tools.speed.kinds import edits_of_demo

    with tempfile.TemporaryDirectory() as folder:
        figures = {
            "start-up": cold.start(21),
            "commands": cold.commands(9),
            "catalogue for the demo": catalogue(31, folder),
            "edit to report": speed.to_the_report("demo", edits_of_demo(), 10),
            "edit to repaint": speed.to_the_repaint("demo", edits_of_demo(), 10),
            "engine": engine(12),
            "first analysis": speed.first_analysis("harbour-light", 60),
            "servos after a tie, and at first": speed.growth(6),
            "wire up (demo)": wiring(5),
            "captures, a million edges": captures(7, folder),
            "suggestions, 45 leads on 60 pins": suggestions(16),
            "organ shutters, 60 hubs and 960 servos": organ_frames(24, folder),
            "the same: buses and lanes": buses_and_lanes(12, folder),
            "cost over size": growth(folder),
        }
    if "--json" in sys.argv:
        print(json.dumps(figures, indent=2))
        return
    for title, rows in figures.items():
        print(title)
        for name, value in rows.items():
            print(f"  {name:58}{value:9.2f}")


if __name__ == "__main__":
    main()

"""The figures of `./knot bench`: medians and ratios within one run.

Machines are shared and noisy, so each figure stands beside something measured in the same minutes.
"""

import json
import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

EMPTY = """
import sys, time
from PySide6.QtWidgets import QApplication, QMainWindow
class Window(QMainWindow):
    def paintEvent(self, event):
        super().paintEvent(event)
        print(time.monotonic(), flush=True)
        QApplication.quit()
app = QApplication([])
window = Window()
window.resize(1280, 800)
window.show()
app.exec()
"""
DEMO = [str(Path(sys.executable).with_name("knotplan")), "open", "--demo", "--clock"]


def started(command: list[str], folder: str) -> float:
    """Seconds from starting a process to its first painted window, of which it prints the time."""
    begun = time.monotonic()
    home = {"XDG_CONFIG_HOME": folder, "XDG_STATE_HOME": folder, "HOME": folder}
    env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"} | home
    out = subprocess.run(command, capture_output=True, text=True, check=True, env=env)
    return float(out.stdout.split()[0]) - begun


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


def start_up(rounds: int, folder: str) -> dict[str, float]:
    started(DEMO, folder)  # so that both find their modules compiled
    both = [(started([sys.executable, "-c", EMPTY], folder), started(DEMO, folder)) for _ in range(rounds)]
    empty, demo = (statistics.median(x) * 1e3 for x in zip(*both, strict=True))
    return {"empty_window_ms": empty, "demo_window_ms": demo,
            "ratio": statistics.median(d / e for e, d in both)}  # fmt: skip


def edits_to_repaint(count: int, folder: str) -> dict[str, float]:
    """A round of everyday edits: until the whole window is repainted, and until the remedies are found as well."""
    from PySide6.QtCore import QEvent
    from PySide6.QtWidgets import QApplication

    from knotplan.catalog.load import shipped
    from knotplan.core import edits
    from knotplan.core.beads import SeriesResistor
    from knotplan.desktop.app import application, make_window, settle_memory
    from knotplan.desktop.settings import Settings
    from knotplan.examples import example

    application()
    window = make_window(example("harbour-light", shipped()), None, Settings(Path(folder)), shipped())
    window.show()
    session = window.session
    window.complete()
    session.load_engine(wait=True)
    window.side.findings.settle()
    settle_memory()
    for _ in range(5):
        QApplication.processEvents()
    steps = [
        lambda: session.edit("", edits.recolour, "flag.signal", "green"),
        lambda: session.edit("", edits.tie, "flag.signal", "board.p24"),
        lambda: session.edit("", edits.change_bead, "lamp.anode", 0, SeriesResistor(220.0)),
        lambda: session.edit("", edits.set_role, "flag.signal", "pennant"),
        lambda: session.edit("", edits.rename_part, "flag", "Pennant"),
        lambda: session.edit("", edits.untie, "flag.signal"),
        session.undo, session.undo, session.undo, session.undo, session.undo, session.undo,
    ]  # fmt: skip
    painted, settled = [], []
    for number in range(count):
        step = steps[number % len(steps)]
        # posted events are layouts and the repaint; what follows from timers comes after it
        painted += timed(lambda: (step(), QApplication.sendPostedEvents()), 1)  # noqa: B023  (called at once)
        settled.append(painted[-1] + timed(lambda: (window.side.findings.settle(), QApplication.processEvents()), 1)[0])
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as the event loop would
    rss = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmRSS"))
    window.session.saved = window.session.plan
    window.close()
    return {"median_ms": statistics.median(painted), "p95_ms": p95(painted),
            "with_remedies_median_ms": statistics.median(settled), "with_remedies_p95_ms": p95(settled),
            "memory_mb": int(rss.split()[1]) / 1024}  # fmt: skip


def analysis(count: int) -> dict[str, float]:
    from knotplan.catalog.load import shipped
    from knotplan.core.analysis import analyse
    from knotplan.examples import example

    found = {}
    for name in ("harbour-light", "harbour-light-draft"):
        plan = example(name, shipped())
        analyse(plan, shipped())
        found[f"{name}_ms"] = statistics.median(timed(lambda: analyse(plan, shipped()), count))  # noqa: B023
    return found


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

    with tempfile.TemporaryDirectory() as folder:
        figures = {
            "start-up": start_up(21, folder),
            "catalogue for the demo": catalogue(31, folder),
            "edit to repaint (demo)": edits_to_repaint(240, folder),
            "whole analysis": analysis(60),
        }
    if "--json" in sys.argv:
        print(json.dumps(figures, indent=2))
        return
    for title, rows in figures.items():
        print(title)
        for name, value in rows.items():
            print(f"  {name:24}{value:9.2f}")


if __name__ == "__main__":
    main()

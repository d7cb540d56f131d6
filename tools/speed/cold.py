"""What a process costs that has just begun: commands, and the window."""

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

HERE = Path(__file__).parent.parent.parent
RUN = "import sys; sys.argv = ['knotplan', *{}]; from knotplan.cli.main import main; main()"
"""the command as it is installed, of whichever tree comes first on the path"""
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
"""an empty window of the toolkit, which says when it is painted"""
WRONG_USE = 2
"""what a command ends with that was not understood"""
Figures = dict[str, float]


def cold(arguments: list[str]) -> float:
    """Seconds that a Python takes with these arguments, its modules compiled."""
    env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    begun = time.perf_counter()
    subprocess.run([sys.executable, *arguments], capture_output=True, check=False, env=env)
    return time.perf_counter() - begun


def started(command: list[str], folder: str) -> float:
    """Seconds from starting a process to its first painted window, of which it prints the time."""
    begun = time.monotonic()
    home = {"XDG_CONFIG_HOME": folder, "XDG_STATE_HOME": folder, "HOME": folder}
    env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"} | home
    out = subprocess.run(command, capture_output=True, text=True, check=True, env=env)
    return float(out.stdout.split()[0]) - begun


def commands(count: int) -> Figures:
    """Cold commands against a bare Python, in pairs."""
    demo = str(HERE / "src/knotplan/examples/harbour-light.knot.json")
    pairs = {
        "knotplan check of the demo, against importing msgspec and numpy": (
            ["check", demo],
            "import msgspec, numpy",
        ),
        "knotplan --help, against python -c pass": (["--help"], "pass"),
    }
    found = {}
    for name, (arguments, bare) in pairs.items():
        ours = ["-c", RUN.format(arguments)]
        cold(ours)
        both = [(cold(ours), cold(["-c", bare])) for _ in range(count)]
        found[name] = statistics.median(a / b for a, b in both)
    return found


def start(count: int) -> Figures:
    """The first painted window with the demo, against an empty window of the toolkit, in pairs."""
    demo = [sys.executable, "-c", RUN.format(["open", "--demo", "--clock"])]
    with tempfile.TemporaryDirectory() as folder:
        started(demo, folder)
        empty = [sys.executable, "-c", EMPTY]
        both = [(started(demo, folder), started(empty, folder)) for _ in range(count)]
    return {"first painted window, against an empty one": statistics.median(a / b for a, b in both)}


def many_plans(count: int) -> Figures:
    """`check` of different plans in one call; one by one in a tree of which `check` takes a single plan."""
    demo = json.loads((HERE / "src/knotplan/examples/harbour-light.knot.json").read_text("utf-8"))
    found = {}
    with tempfile.TemporaryDirectory() as folder:
        names = []
        for number in range(count):
            demo["ties"][0]["beads"][0]["ohm"] = 150.0 + number
            plan = Path(folder) / f"{number:03d}.knot.json"
            plan.write_text(json.dumps(demo), "utf-8")
            names.append(str(plan))
        one_by_one = count * statistics.median(
            cold(["-c", RUN.format(["check", name])]) for name in names[:10]
        )
        takes_many = subprocess.run(
            [sys.executable, "-c", RUN.format(["check", *names[:2]])], capture_output=True, check=False
        )
        for jobs in (1, 2):
            together = ["-c", RUN.format(["check", "--jobs", str(jobs), *names])]
            found[f"check of {count} plans, {jobs} at a time, s"] = (
                one_by_one if takes_many.returncode == WRONG_USE else cold(together)
            )
        found[f"check of {count} plans, one by one, s"] = one_by_one
    return found

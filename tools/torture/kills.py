"""Kills the real program at random moments, and looks at what is left."""

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass, field
from pathlib import Path

from knotplan.catalog.load import shipped
from knotplan.examples import example
from knotplan.exchange.on_disk import digest
from knotplan.exchange.plan_file import PlanFileError, dumps, load, save
from knotplan.exchange.recovery import Recovery
from tools.torture.victim import PLAN

PROMISED_S = 1.0
"""work older than this is never lost"""


@dataclass
class Kills:
    """What many kills left."""

    kills: int = 0
    whole: int = 0
    """files that were the old or a new plan, to the end"""
    kept: int = 0
    """runs in which no work older than the promised time was lost"""
    offered: int = 0
    """runs in which work that no file held was offered again"""
    wrong: list[str] = field(default_factory=list)


def kill_once(seed: int, found: Kills) -> None:
    """One run of the program, killed after a while."""
    r = random.Random(seed)
    with tempfile.TemporaryDirectory(prefix="knot-kill-") as name:
        folder = Path(name)
        save(
            example(r.choice(["harbour-light", "seed-drawers", "mist-bench-draft"]), shipped()), folder / PLAN
        )
        homes = {f"XDG_{x}_HOME": str(folder / x) for x in ("DATA", "CACHE", "STATE", "CONFIG")}
        env = {**os.environ, **homes, "QT_QPA_PLATFORM": "offscreen"}
        child = subprocess.Popen(
            [sys.executable, "-m", "tools.torture.victim", name, str(seed)],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env=env,
        )
        assert child.stdout is not None and child.stderr is not None
        if child.stdout.readline() != "ready\n":
            child.kill()
            found.wrong.append(f"seed {seed}: {child.stderr.read()[-400:]}")
            return
        time.sleep(r.uniform(0.2, 2.5))
        os.kill(child.pid, signal.SIGKILL)
        at = time.monotonic()
        child.wait()
        child.stdout.close()
        child.stderr.close()
        found.kills += 1
        _look(folder, at, seed, found)


def _look(folder: Path, at: float, seed: int, found: Kills) -> None:
    lines = [line.split() for line in (folder / "journal").read_text().splitlines() if line.count(" ") == 2]
    done = [(int(n), what, float(when)) for n, what, when in lines]
    try:
        in_file = _number(load(folder / PLAN, shipped()).title)
        found.whole += 1
    except (PlanFileError, OSError) as error:
        found.wrong.append(f"seed {seed}: the file is broken: {error}")
        return
    lost = Recovery(folder / "work").lost(shipped())
    if broken := [w for w in lost if w.wrong]:
        found.wrong.append(f"seed {seed}: what was kept is broken: {broken[0].wrong[0]}")
    best = {
        "edit": max([in_file, *(_number(w.plan.title) for w in lost if w.plan is not None)]),
        "draft": max([0, *(_number(w.title) for w in lost if w.kind == "board")]),
    }
    late = []
    for kind, newest in best.items():
        due = max((n for n, what, when in done if what == kind and when < at - PROMISED_S), default=0)
        if due > newest:
            late.append(
                f"{kind} {due} was done {at - next(w for n, _, w in done if n == due):.2f} s before, kept is "
                f"{newest}"
            )
    found.kept += not late
    found.wrong += [f"seed {seed}: {text}" for text in late]
    unsaved = any(what == "edit" and n > in_file and when < at - PROMISED_S for n, what, when in done)
    offered = not unsaved or any(w.plan is not None for w in lost)
    found.offered += offered
    if not offered:
        found.wrong.append(f"seed {seed}: unsaved work is not offered")


def _number(title: str) -> int:
    return int(title[1:]) if title[1:].isdecimal() else 0


SAVING = """
import os, signal, sys
from pathlib import Path
from knotplan.exchange.files import backed_up, write_atomically
path, new, at = Path(sys.argv[1]), Path(sys.argv[2]).read_bytes(), int(sys.argv[3])
calls = 0
def watch(frame, event, function):
    global calls
    kind = getattr(function, "__module__", ""), type(getattr(function, "__self__", None)).__module__
    if event == "c_call" and (kind[0] == "posix" or kind[1] == "_io"):
        calls += 1
        if calls == at:
            os.kill(os.getpid(), signal.SIGKILL)
sys.setprofile(watch)
backed_up(path)
write_atomically(path, new)
sys.setprofile(None)
"""
"""a save that is killed before its n-th call of the system"""


def at_each_call(found: Kills) -> int:
    """Kills a save before each call of the system that it makes; how many there are."""
    old, new = dumps(example("harbour-light-draft", shipped())), dumps(example("harbour-light", shipped()))
    call = 0
    while True:
        call += 1
        with tempfile.TemporaryDirectory(prefix="knot-call-") as name:
            path, other = Path(name) / PLAN, Path(name) / "new"
            path.write_bytes(old)
            other.write_bytes(new)
            done = subprocess.run(
                [sys.executable, "-c", SAVING, str(path), str(other), str(call)], check=False
            )
            now = path.read_bytes()
            if now not in (old, new):
                found.wrong.append(
                    f"killed before call {call} of a save: the file is neither the old nor the new one"
                )
            save(example("seed-drawers", shipped()), path)
            if left := [p.name for p in Path(name).iterdir() if p.name.endswith(".part")]:
                found.wrong.append(f"killed before call {call} of a save: {left} stays behind")
            if done.returncode == 0:
                assert digest(now) == digest(new)
                return call - 1

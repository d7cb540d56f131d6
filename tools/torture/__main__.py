"""`./knot torture`: what random hands, hostile files and sudden ends do to the
program, for as long as it is given.

    ./knot torture                 ten minutes
    ./knot torture --minutes 60    an hour
    ./knot torture --only kills    one section

A fresh seed each time, which is printed. Ends with 0 when nothing happened that must not.
"""

import argparse
import json
import os
import random
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

SHARES = {"edits": 0.15, "following": 0.15, "readers": 0.15, "monkey": 0.3, "kills": 0.2, "growth": 0.05}
"""of the time that each section has"""
ROOT = Path(__file__).parent.parent.parent


@dataclass
class Section:
    """What one section did and found."""

    said: dict[str, int | float] = field(default_factory=dict)
    wrong: list[str] = field(default_factory=list)

    def add(self, other: "Section") -> None:
        for key, value in other.said.items():
            joined = max if key.startswith(("most", "MB")) else sum
            self.said[key] = joined([self.said.get(key, 0), value])
        self.wrong += other.wrong


def child(*arguments: str, seconds: float) -> Section:
    """A section's worker: a process of its own, so that what ends it ends nothing
    else. It prints what it found as JSON."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-m", *arguments],
        cwd=ROOT,
        env=env,
        capture_output=True,
        text=True,
        check=False,
        timeout=seconds + 900,
    )
    lines = done.stdout.strip().splitlines()
    try:
        found = json.loads(lines[-1])
        return Section(found["said"], found["wrong"])
    except (IndexError, ValueError, KeyError, TypeError):
        return Section(
            {},
            [f"{' '.join(arguments)} ended with {done.returncode}: {(done.stderr or done.stdout)[-1500:]}"],
        )


def work(section: str, seconds: float, seed: int) -> Section:
    return child(f"tools.torture.{section}_worker", str(seed), f"{seconds:.0f}", seconds=seconds)


def monkeys(seconds: float, seed: int) -> Section:
    """Run after run, each in a process of its own."""
    found, until, r = Section({"actions": 0, "runs": 0}), time.monotonic() + seconds, random.Random(seed)
    while time.monotonic() < until:
        number, actions = r.randrange(10**9), 1500
        with tempfile.TemporaryDirectory() as name:
            trace = Path(name) / "trace"
            done = subprocess.run(
                [
                    sys.executable,
                    "tools/torture/monkey.py",
                    "--seed",
                    str(number),
                    "--actions",
                    str(actions),
                    "--trace",
                    str(trace),
                ],
                cwd=ROOT,
                capture_output=True,
                text=True,
                check=False,
            )
            if done.returncode:
                last = trace.read_text("utf-8").splitlines()[-8:] if trace.exists() else []
                found.wrong.append(
                    f"monkey --seed {number}: {(done.stdout + done.stderr)[-1500:]}\n  last: "
                    f"{'; '.join(last)}"
                )
            else:
                found.said["actions"] += actions
            found.said["runs"] += 1
    return found


RUN: dict[str, Callable[[float, int], Section]] = {
    "edits": lambda s, n: work("edits", s, n),
    "following": lambda s, n: work("following", s, n),
    "readers": lambda s, n: work("readers", s, n),
    "monkey": monkeys,
    "kills": lambda s, n: work("kills", s, n),
    "growth": lambda s, n: work("growth", s, n),
}


def main() -> int:
    parser = argparse.ArgumentParser(prog="./knot torture", description=(__doc__ or "").split("\n")[0])
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument("--only", choices=list(SHARES))
    parser.add_argument("--seed", type=int, default=random.SystemRandom().randrange(10**6))
    given = parser.parse_args()
    chosen = {given.only: 1.0} if given.only else SHARES
    workers = os.cpu_count() or 1
    print(f"seed {given.seed}, {given.minutes:g} minutes on {workers} processors", flush=True)
    table: dict[str, Section] = {}
    for section, share in chosen.items():
        seconds = given.minutes * 60 * share
        with ThreadPoolExecutor(workers) as pool:
            seeds = [given.seed + k for k in range(1 if section == "growth" else workers)]
            parts = pool.map(partial(RUN[section], seconds), seeds)
            table[section] = Section()
            for part in parts:
                table[section].add(part)
        said = ", ".join(f"{value:g} {key}" for key, value in table[section].said.items())
        print(f"{section:9} {len(table[section].wrong):3} wrong   {said}", flush=True)
    for section, found in table.items():
        for text in dict.fromkeys(found.wrong):
            print(f"\n{section}: {text}")
    return 1 if any(found.wrong for found in table.values()) else 0


if __name__ == "__main__":
    sys.exit(main())

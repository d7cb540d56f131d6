"""`./knot bench --against OTHER`: what edits, the first analysis, suggestions, commands and the start cost
here and in another checkout, in alternation.

    ./knot bench --against ../other          three rounds of both, with the ratios of each round
    ./knot bench --against ../other -n 5     five
    python -m tools.speed                    the figures of this tree alone

Machines are shared and noisy: figures of work are processor time, those of a process stand beside the same of
a bare one in the same seconds, and trees are compared round by round.
"""

import argparse
import json
import os
import statistics
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from tools.bench import engine, suggestions

HERE = Path(__file__).parent.parent.parent
Figures = dict[str, float]


def sections() -> dict[str, Callable[[], Figures]]:
    """By name, what can be measured alone."""
    from tools.speed import cold, edits
    from tools.speed.kinds import edits_of_demo, edits_of_organ

    return {
        "demo": lambda: edits.to_the_report("demo", edits_of_demo(), 10),
        "organ": lambda: edits.to_the_report("organ shutters", edits_of_organ(), 4),
        "demo-repaint": lambda: edits.to_the_repaint("demo", edits_of_demo(), 10),
        "organ-repaint": lambda: edits.to_the_repaint("organ shutters", edits_of_organ(), 4),
        "growth": lambda: edits.growth(4),
        "first": lambda: (
            edits.first_analysis("harbour-light", 25) | edits.first_analysis("organ-shutters", 3)
        ),
        "suggestions": lambda: suggestions(16),
        "engine": lambda: engine(12),
        "commands": lambda: cold.commands(9),
        "plans": lambda: cold.many_plans(200),
        "start": lambda: cold.start(11),
    }


def figures_of(tree: Path, section: str) -> Figures:
    """A section's figures of a checkout, by this one's way of measuring."""
    env = {**os.environ, "PYTHONPATH": str(tree / "src"), "QT_QPA_PLATFORM": "offscreen"}
    command = [sys.executable, "-m", "tools.speed", "--json", section]
    done = subprocess.run(command, cwd=HERE, env=env, capture_output=True, text=True, check=True)
    found: Figures = json.loads(done.stdout.splitlines()[-1])
    return found


def compare(tree: Path, names: list[str], rounds: int) -> None:
    print(f"{'before':>9} {'now':>9} {'ratio':>7}   medians of {rounds} rounds")
    for section in names:
        both = [(figures_of(tree, section), figures_of(HERE, section)) for _ in range(rounds)]
        for name in both[0][1]:
            before, now = (statistics.median(r[k][name] for r in both) for k in (0, 1))
            ratio = statistics.median(r[1][name] / r[0][name] if r[0][name] else 1.0 for r in both)
            print(f"{before:9.2f} {now:9.2f} {ratio:7.3f}   {name}", flush=True)


def main() -> None:
    parser = argparse.ArgumentParser(description=(__doc__ or "").split("\n")[0])
    parser.add_argument("--against", type=Path, help="another checkout")
    parser.add_argument("-n", "--rounds", type=int, default=3)
    parser.add_argument("--only", choices=list(sections()), action="append", help="one section, or several")
    parser.add_argument("--json", choices=list(sections()), help="one section for a program")
    given = parser.parse_args()
    names = given.only or list(sections())
    if given.json:
        print(json.dumps(sections()[given.json]()))
    elif given.against:
        compare(given.against.resolve(), names, given.rounds)
    else:
        for section in names:
            for name, value in sections()[section]().items():
                print(f"{value:9.2f}  {name}", flush=True)


if __name__ == "__main__":
    main()

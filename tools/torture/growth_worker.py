"""Thousands of edits and as many undos: what stays in memory."""

import gc
import json
import random
import sys
import time
from pathlib import Path

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.desktop.app import application
from knotplan.desktop.session import Session
from knotplan.examples import example

ALLOWED_MB = {"harbour-light": 15.0, "organ-shutters": 50.0}
MOST_EDITS, WARM = 2000, 50
MOST_CIRCUITS = 1
"""the one that is shown"""


def used_mb() -> float:
    gc.collect()
    return int(Path("/proc/self/statm").read_text().split()[1]) * 4096 / 1e6


def an_edit(session: Session, r: random.Random, number: int) -> None:
    """One of the everyday kinds: looks, a tie, a name, a cord."""
    tie, plan, c = r.choice(session.plan.ties), session.plan, session.circuit
    way = number % 4
    if way == 0:
        session.edit("recolour", edits.recolour, tie.id, r.choice(["red", "blue", "green", ""]))
    elif way == 1:
        free = [
            f"board.{p}"
            for p, pin in c.board.pins.items()
            if pin.kind == "io" and f"board.{p}" not in c.ties.at
        ]
        able = [t for t in plan.ties if (pin := c.contacts.pin(t.to)) is not None and pin.kind == "io"]
        if free and able:
            session.edit("tie", edits.tie, r.choice(able).lead, r.choice(free))
    elif way == 2:
        session.edit("rename", edits.rename_part, r.choice(plan.parts).id, f"Part {number}")
    else:
        session.edit("lengthen", edits.set_cord, tie.id, r.choice([0.1, 0.2, 0.3]))


def grown(scene: str, seed: int, seconds: float) -> tuple[dict[str, float], list[str]]:
    """How much memory edits and undos leave behind."""
    r, session = random.Random(seed), Session(shipped(), example(scene, shipped()))
    session.load_engine(wait=True)
    for number in range(WARM):
        an_edit(session, r, number)
    before, made, until = used_mb(), 0, time.monotonic() + seconds / 2
    while made < MOST_EDITS and time.monotonic() < until:
        an_edit(session, r, made)
        made += 1
    for _ in range(made):
        session.undo()
    more = used_mb() - before
    alive = sum(isinstance(o, Circuit) for o in gc.get_objects())
    allowed = ALLOWED_MB[scene]
    wrong = [f"{scene}: {made} edits and undos leave {more:.1f} MB, allowed are {allowed:g}"] * (
        more > allowed
    )
    wrong += [f"{scene}: {alive} circuits are alive, allowed are {MOST_CIRCUITS}"] * (alive > MOST_CIRCUITS)
    return {f"edits and undos of {scene}": made, f"MB more in {scene}": round(more, 1)}, wrong


def main() -> None:
    application()
    said: dict[str, float] = {}
    wrong: list[str] = []
    for scene in ALLOWED_MB:
        more, bad = grown(scene, int(sys.argv[1]), float(sys.argv[2]) / 2)
        said |= more
        wrong += bad
    print(json.dumps({"said": said, "wrong": wrong}))


if __name__ == "__main__":
    main()

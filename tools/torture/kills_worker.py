"""Kills at random moments; the first worker also kills a save before each of its calls of the system."""

import random

from tools.torture.kills import Kills, at_each_call, kill_once
from tools.torture.worker import Findings, run

KILLS = Kills()


def step(r: random.Random, found: Findings) -> None:
    if "calls of a save" not in found.said:
        found.said["calls of a save"] = at_each_call(KILLS)
    kill_once(r.randrange(10**9), KILLS)
    found.said |= {
        "kills": KILLS.kills,
        "files whole": KILLS.whole,
        "kept within a second": KILLS.kept,
        "offered": KILLS.offered,
    }
    for text in KILLS.wrong:
        found.say("kill", text)


if __name__ == "__main__":
    run(step)

"""Damaged and hostile files, one after another, through each reader."""

import random
import tempfile
import time
from pathlib import Path

from tests.random.mutations import mutant
from tests.random.readers import READERS, seeds

from tools.torture.worker import Findings, run

LONGEST_S = 2.0
FOLDER = Path(tempfile.mkdtemp(prefix="knot-readers-"))
GOOD = {name: seeds(name) for name in READERS}


def step(r: random.Random, found: Findings) -> None:
    name = r.choice(list(READERS))
    data = mutant(r.choice(GOOD[name]), r)
    began = time.process_time()  # a busy machine makes nothing slow here
    try:
        READERS[name][0](data, FOLDER)
    except Exception as error:
        kept = FOLDER / f"surprise-{name}-{abs(hash(data))}"
        kept.write_bytes(data)
        found.note(error, f"{name}, kept as {kept}")
    took = time.process_time() - began
    if took > LONGEST_S:
        kept = FOLDER / f"slow-{name}-{abs(hash(data))}"
        kept.write_bytes(data)
        found.say("slow", f"{name} took {took:.1f} s, kept as {kept}")
    found.count(f"files of {name}")


if __name__ == "__main__":
    run(step)

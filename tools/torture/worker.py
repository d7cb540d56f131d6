"""What the workers have in common: so many seconds, a seed, and an answer as one line of JSON."""

import json
import random
import sys
import time
import traceback
from collections.abc import Callable
from typing import Any


class Findings:
    """What went wrong, each kind once, and how much was tried."""

    def __init__(self) -> None:
        self.said: dict[str, float] = {}
        self._wrong: dict[object, str] = {}

    def count(self, what: str, by: float = 1) -> None:
        self.said[what] = self.said.get(what, 0) + by

    def note(self, error: BaseException, about: str) -> None:
        """An exception; those from one place in the program are one kind."""
        places = [(f.filename, f.lineno) for f in traceback.extract_tb(error.__traceback__)[-3:]]
        said = "".join(traceback.format_exception(error)[-4:])
        self._wrong.setdefault((type(error).__name__, *places), f"{about[:1500]}\n{said[-1500:]}")

    def say(self, kind: str, text: str) -> None:
        self._wrong.setdefault((kind, text), text)

    def print(self) -> None:
        print(json.dumps({"said": self.said, "wrong": list(self._wrong.values())[:20]}))


def run(step: Callable[[random.Random, Findings], Any]) -> None:
    """Steps until the time is over."""
    seed, seconds = int(sys.argv[1]), float(sys.argv[2])
    r, found, until = random.Random(seed), Findings(), time.monotonic() + seconds
    while time.monotonic() < until:
        step(r, found)
    found.print()

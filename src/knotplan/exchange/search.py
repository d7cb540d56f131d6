"""The search for the best suggestion in a process of its own, so that it can
be stopped: arrays in, a choice out.

SciPy's solver (HiGHS) cannot be interrupted and may print to standard output, so the answer goes to a
file of its own descriptor.
"""

import io
import logging
import os
import subprocess
import sys
import threading

import numpy as np

from knotplan.core.suggest.programme import Programme, programme, runs_of
from knotplan.core.suggest.quick import Pick
from knotplan.core.suggest.solver import PROVEN, TIME_LIMIT_S, solved
from knotplan.core.suggest.suggestion import Ready

log = logging.getLogger(__name__)
MOST_LOGGED = 4000
"""letters of what a search that failed had to say"""
ARRAYS = ("cost", "rows", "columns", "values", "low", "high")


class Search:
    """One search for the best answer; `stop` may be called from another thread."""

    def __init__(self, ready: Ready, limit_s: float = TIME_LIMIT_S):
        self.ready, self.limit_s = ready, limit_s
        self._worker: subprocess.Popen[bytes] | None = None
        self._stopped = threading.Event()

    def run(self) -> Pick | None:
        """The cheapest pick; nothing where there is none, or the search was stopped or ran out of time."""
        if not self.ready.task.leads:
            return {}
        model = programme(self.ready.task, runs_of(self.ready.circuit, self.ready.task))
        if self._stopped.is_set():
            return None
        self._worker = subprocess.Popen(
            [sys.executable, "-m", "knotplan.exchange.search"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
        )
        if self._stopped.is_set():  # in the moment before there was a worker
            self._worker.kill()
        data, trouble = self._worker.communicate(packed(model, self.limit_s))
        if self._stopped.is_set():
            return None
        if self._worker.returncode:  # the first answer stands, and is not called proven
            log.error(
                "the search for the best ties ended with %d: %s",
                self._worker.returncode,
                trouble.decode("utf-8", "replace")[-MOST_LOGGED:],
            )
            return None
        return self._taken(model, data)

    def _taken(self, found: Programme, data: bytes) -> Pick | None:
        with np.load(io.BytesIO(data), allow_pickle=False) as answer:
            status, x = int(answer["status"]), answer["x"]
        return found.pick(x, self.ready.task) if status == PROVEN else None

    def stop(self) -> None:
        """Ends the search at once."""
        self._stopped.set()
        if self._worker is not None and self._worker.poll() is None:
            self._worker.kill()


def packed(p: Programme, limit_s: float = TIME_LIMIT_S) -> bytes:
    """A programme as bytes (NumPy's own format, no pickled objects)."""
    out = io.BytesIO()
    np.savez(
        out,
        cost=p.cost,
        rows=p.rows,
        columns=p.columns,
        values=p.values,
        low=p.low,
        high=p.high,
        limit=np.array(limit_s),
    )
    return out.getvalue()


def main() -> None:
    """Reads a programme from standard input and writes the answer to standard output."""
    answer = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # what the solver prints goes to standard error
    with np.load(io.BytesIO(sys.stdin.buffer.read()), allow_pickle=False) as given:
        status, x = solved(
            Programme(**{name: given[name] for name in ARRAYS}, chosen=[]), float(given["limit"])
        )
    out = io.BytesIO()
    np.savez(out, status=np.array(status), x=x)
    answer.write(out.getvalue())
    answer.close()


if __name__ == "__main__":
    main()

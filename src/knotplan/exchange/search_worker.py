"""A process that solves programmes, one after another: arrays in, a choice out.

SciPy's solver (HiGHS) cannot be interrupted and may print to standard output, so it works in a process that
can be ended, and answers go to a descriptor of their own. The process is kept, because beginning it and
importing SciPy takes longer than most searches. It ends when nobody is left to ask.
"""

import atexit
import io
import os
import struct
import subprocess
import sys
import tempfile
import threading
from contextlib import suppress
from typing import IO

import numpy as np

from knotplan.core.suggest.programme import Programme
from knotplan.core.suggest.solver import solved

LENGTH = struct.Struct("<Q")
"""before each message: how many bytes it has"""
ARRAYS = ("cost", "rows", "columns", "values", "low", "high")


class WorkerEndedError(Exception):
    """The process ended before it answered: what it had to say."""


class Worker:
    """One such process."""

    def __init__(self) -> None:
        self._said = tempfile.TemporaryFile()  # noqa: SIM115  (it lives as long as the process)
        self._process = subprocess.Popen(
            [sys.executable, "-m", __name__], stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=self._said
        )

    @property
    def lives(self) -> bool:
        """It can be asked."""
        return self._process.poll() is None

    def ask(self, question: bytes) -> bytes:
        """The answer to a message; raises WorkerEndedError."""
        assert self._process.stdin is not None and self._process.stdout is not None
        try:
            _write(self._process.stdin, question)
            answer = _read(self._process.stdout)
        except OSError:  # it went away while it was asked
            answer = None
        if answer is None:
            status = self._process.wait()
            self._said.seek(0)
            said = self._said.read().decode("utf-8", "replace")
            self.end()
            raise WorkerEndedError(f"ended with {status}: {said}")
        return answer

    def kill(self) -> None:
        """Ends it at once, whatever it is doing; whoever waits for its answer is told."""
        self._process.kill()

    def end(self) -> None:
        """Ends it, and closes what leads to it."""
        self.kill()
        self._process.wait()
        for pipe in (self._process.stdin, self._process.stdout, self._said):
            if pipe is not None:
                with suppress(OSError):  # what was not written any more
                    pipe.close()


_idle: list[Worker] = []
_lock = threading.Lock()


def warm() -> None:
    """Has a process ready for the next search."""
    with _lock:
        if not _idle:
            _idle.append(Worker())


def taken() -> Worker:
    """One that is ready, or a new one."""
    with _lock:
        while _idle:
            worker = _idle.pop()
            if worker.lives:
                return worker
    return Worker()


def given_back(worker: Worker) -> None:
    """Keeps one that has answered for the next search."""
    with _lock:
        if not _idle and worker.lives:
            _idle.append(worker)
            return
    worker.end()


@atexit.register
def _end_all() -> None:
    with _lock:
        while _idle:
            _idle.pop().end()


def packed(p: Programme, limit_s: float) -> bytes:
    """A programme as bytes (NumPy's own format, no pickled objects)."""
    out, arrays = io.BytesIO(), {name: getattr(p, name) for name in ARRAYS}
    np.savez(out, choices=np.array(len(p.chosen)), limit=np.array(limit_s), **arrays)
    return out.getvalue()


def unpacked(answer: bytes) -> tuple[int, "np.ndarray[tuple[int], np.dtype[np.float64]]"]:
    """(status, choice) of an answer."""
    with np.load(io.BytesIO(answer), allow_pickle=False) as arrays:
        return int(arrays["status"]), arrays["x"]


def _write(to: IO[bytes], message: bytes) -> None:
    to.write(LENGTH.pack(len(message)))
    to.write(message)
    to.flush()


def _read(source: IO[bytes]) -> bytes | None:
    """The next message; nothing at the end."""
    head = source.read(LENGTH.size)
    if len(head) < LENGTH.size:
        return None
    (length,) = LENGTH.unpack(head)
    message = source.read(length)
    return message if len(message) == length else None


def _answered(question: bytes) -> bytes:
    with np.load(io.BytesIO(question), allow_pickle=False) as given:
        arrays = {name: given[name] for name in ARRAYS}
        limit_s, choices = float(given["limit"]), int(given["choices"])
    status, x = solved(Programme(**arrays, chosen=[()] * choices), limit_s)
    out = io.BytesIO()
    np.savez(out, status=np.array(status), x=x)
    return out.getvalue()


def main() -> None:
    """Answers messages from standard input until it ends."""
    import scipy.optimize
    import scipy.sparse.csgraph  # noqa: F401  (before the first question)

    answers = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # what the solver prints goes to standard error
    while (question := _read(sys.stdin.buffer)) is not None:
        _write(answers, _answered(question))


if __name__ == "__main__":
    main()

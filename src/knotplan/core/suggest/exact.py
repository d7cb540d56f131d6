"""The proven best answer, in a process of its own that can be stopped at any moment."""

import subprocess
import sys

from knotplan.catalog.load import Catalog
from knotplan.core.suggest.programme import Programme, programme
from knotplan.core.suggest.quick import Pick
from knotplan.core.suggest.suggestion import Ready, Suggestion, made
from knotplan.core.suggest.worker import INFEASIBLE, TIME_LIMIT_S, packed, solved, unpacked


class Search:
    """One search for the best answer; `stop` may be called from another thread."""

    def __init__(self, ready: Ready, limit_s: float = TIME_LIMIT_S):
        self.ready, self.limit_s = ready, limit_s
        self._worker: subprocess.Popen[bytes] | None = None
        self.stopped = False

    def run(self) -> Pick | None:
        """The cheapest pick; nothing where there is none, or the search was stopped or ran out of time."""
        found = programme(self.ready.circuit, self.ready.task)
        if self.stopped or not len(found.cost):
            return {} if not self.ready.task.leads else None
        self._worker = subprocess.Popen([sys.executable, "-m", "knotplan.core.suggest.worker"],
                                        stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)  # fmt: skip
        data, _ = self._worker.communicate(packed(found, self.limit_s))
        return None if self.stopped or not data else self._taken(found, data)

    def _taken(self, found: Programme, data: bytes) -> Pick | None:
        answer = unpacked(data)
        self.impossible = int(answer["status"]) == INFEASIBLE
        return found.pick(answer["x"], self.ready.task) if int(answer["status"]) == 0 else None

    impossible = False
    """it is proven that not everything can be had"""

    def stop(self) -> None:
        """Ends the search at once."""
        self.stopped = True
        if self._worker is not None and self._worker.poll() is None:
            self._worker.kill()


def best(ready: Ready, limit_s: float = TIME_LIMIT_S) -> tuple[Pick | None, bool]:
    """(pick, proven) solved here and now, in this process."""
    found = programme(ready.circuit, ready.task)
    if not ready.task.leads:
        return {}, True
    answer = solved(unpacked(packed(found, limit_s)))
    status = int(answer["status"])
    return (found.pick(answer["x"], ready.task), True) if status == 0 else (None, status == INFEASIBLE)


def best_answer(ready: Ready, catalog: Catalog, limit_s: float = TIME_LIMIT_S) -> Suggestion:
    """The proven best suggestion, or the conflict."""
    pick, proven = best(ready, limit_s)
    return made(ready, catalog, pick, proven=proven)

"""The search for the best suggestion in a process beside this one, so that it can be stopped."""

import logging
import threading

from knotplan.core.suggest.programme import lines_of
from knotplan.core.suggest.quick import Pick
from knotplan.core.suggest.solver import PROVEN, TIME_LIMIT_S, stated
from knotplan.core.suggest.suggestion import Ready
from knotplan.exchange.search_worker import Worker, WorkerEndedError, given_back, packed, taken, unpacked

log = logging.getLogger(__name__)
MOST_LOGGED = 4000
"""letters of what a search that failed had to say"""


class Search:
    """One search for the best answer; `stop` may be called from another thread."""

    def __init__(self, ready: Ready, limit_s: float = TIME_LIMIT_S):
        self.ready, self.limit_s = ready, limit_s
        self._worker: Worker | None = None
        self._stopped = threading.Event()

    def run(self) -> Pick | None:
        """The cheapest pick; nothing where there is none, or the search was stopped or ran out of time."""
        if not self.ready.task.leads:
            return {}
        question = stated(self.ready.task, lines_of(self.ready.circuit))
        if self._stopped.is_set():
            return None
        worker = self._worker = taken()
        clock = threading.Timer(self.limit_s, self.stop)
        clock.daemon = True
        clock.start()
        try:
            status, x = unpacked(worker.ask(packed(question.model, self.limit_s)))
        except WorkerEndedError as error:  # the first answer stands, and is not called proven
            if not self._stopped.is_set():
                log.error("the search for the best ties %s", str(error)[-MOST_LOGGED:])
            return None
        finally:
            clock.cancel()
            self._worker = None
        given_back(worker)
        return question.pick(x) if status == PROVEN else None

    def stop(self) -> None:
        """Ends the search at once."""
        self._stopped.set()
        worker = self._worker
        if worker is not None:
            worker.kill()

"""Keeps work aside on a thread of its own: the window never waits for a
disk, and the newest state always wins."""

import logging
import threading
from collections.abc import Callable, Iterator
from time import monotonic

from PySide6.QtCore import QObject, Signal

from knotplan.desktop.background_task import BackgroundTask, Wanted

PAUSE_S = 0.3
"""between two writings of the same thing: so much work at most is not kept yet, besides the writing itself"""
RETRY_S = 5.0
"""after which what could not be kept is tried again: a full disk has room again, a stick is back in"""
log = logging.getLogger(__name__)
Job = Callable[[], None]


class Keeper(QObject):
    """One job waits for each thing that is kept; a newer one takes its place."""

    reported = Signal(str)
    """the work could not be kept, and why: once, until it succeeds again"""
    done = Signal(str)
    """the thing that has just been kept, or put away"""

    def __init__(self) -> None:
        super().__init__()
        self._waiting: dict[str, Job] = {}
        self._last: dict[str, float] = {}
        self._again: dict[str, Job] = {}
        """jobs that failed, and have no successor"""
        self._failing: set[str] = set()
        self._begun, self._busy, self._hurry, self._ended = False, False, False, False
        self._change = threading.Condition()
        self._task = BackgroundTask("the keeper", self)
        self._task.answered.connect(self.reported.emit)

    def put(self, thing: str, job: Job) -> None:
        """Has a job done soon; never waits."""
        with self._change:
            if self._ended:
                return
            self._waiting[thing] = job
            self._again.pop(thing, None)
            if not self._begun:
                self._begun = True
                self._task.ask_for_all(self._work)
            self._change.notify_all()

    def waits(self, thing: str) -> bool:
        """A newer job waits for it."""
        with self._change:
            return thing in self._waiting

    def flush(self, seconds: float = 5.0) -> bool:
        """Has everything done that waits, now; whether it was within the
        time, and nothing is left that failed."""
        with self._change:
            self._hurry = True
            self._waiting, self._again = self._again | self._waiting, {}
            self._change.notify_all()
            done = self._change.wait_for(lambda: not self._waiting and not self._busy, seconds)
            self._hurry = False
            return done and not self._again

    def end(self, seconds: float = 5.0) -> None:
        """Does what waits, and no more."""
        self.flush(seconds)
        with self._change:
            self._ended = True
            self._change.notify_all()
        self._task.wait(seconds)

    def _work(self, _: Wanted) -> Iterator[str]:
        while (found := self._next()) is not None:
            thing, job = found
            why = ""
            try:
                job()
            except OSError as error:
                why = error.strerror or str(error)
            except Exception as error:
                log.exception("the work could not be kept aside")
                why = f"{type(error).__name__}: {error}"
            if not why:
                self.done.emit(thing)
            if self._is_news(thing, job, why):
                yield _logged(why)
            with self._change:
                self._last[thing], self._busy = monotonic(), False
                self._change.notify_all()

    def _is_news(self, thing: str, job: Job, why: str) -> bool:
        """Notes how a job ended, `why` it failed or nothing; whether the one before ended otherwise."""
        with self._change:
            news = (thing in self._failing) != bool(why)
            if why:
                self._failing.add(thing)
                if thing not in self._waiting:
                    self._again[thing] = job
            else:
                self._failing.discard(thing)
        return news

    def _next(self) -> tuple[str, Job] | None:
        """The next job whose pause is over; nothing when it is time to end."""
        with self._change:
            while True:
                now = monotonic()
                due = {t: self._last.get(t, -RETRY_S) + RETRY_S - now for t in self._again}
                due |= {
                    t: 0.0 if self._hurry else self._last.get(t, -PAUSE_S) + PAUSE_S - now
                    for t in self._waiting
                }
                ready = next((t for t, wait in due.items() if wait <= 0), None)
                if ready is not None:
                    self._busy = True
                    return ready, self._waiting.pop(ready) if ready in self._waiting else self._again.pop(
                        ready
                    )
                if self._ended:
                    return None
                self._change.wait(min(due.values()) if due else None)


def _logged(why: str) -> str:
    """What the maker is told of a failure, or of its end; the log has it too, where the window is gone."""
    if not why:
        return "The work is kept aside again."
    log.warning("the work could not be kept aside: %s", why)
    return (
        f"The work could not be kept aside: {why}. The program tries again every few seconds. "
        "To be safe, save the plan elsewhere."
    )

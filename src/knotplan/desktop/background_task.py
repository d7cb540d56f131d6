"""Work beside the interface: one question at a time, and answers that come too late are dropped."""

import logging
import threading
from collections.abc import Callable, Iterator
from contextlib import suppress

from PySide6.QtCore import QObject, Signal

Wanted = Callable[[], bool]
"""whether anybody still waits for the answer"""
log = logging.getLogger(__name__)


class BackgroundTask(QObject):
    """Runs a function of immutable values in a thread of its own, and hands
    its answers over on the interface's."""

    answered = Signal(object)
    failed = Signal(str)
    _done = Signal(int, object, str)

    def __init__(self, name: str, parent: QObject | None = None):
        super().__init__(parent)
        self._name = name
        self._number = 0
        self._thread: threading.Thread | None = None
        self._done.connect(self._take)

    def ask(self, work: Callable[[], object]) -> None:
        """Asks for one answer."""
        self.ask_for_all(lambda _: iter((work(),)))

    def ask_for_all(self, work: Callable[[Wanted], Iterator[object]]) -> None:
        """Asks for answers that come one after another, until nobody waits for them any more."""
        self._number += 1
        self._thread = threading.Thread(
            target=self._run, args=(self._number, work), name=self._name, daemon=True
        )
        self._thread.start()

    def _run(self, number: int, work: Callable[[Wanted], Iterator[object]]) -> None:
        def wanted() -> bool:
            return number == self._number

        try:
            for answer in work(wanted):
                self._tell(number, answer)
                if not wanted():
                    return
        except Exception as error:  # whatever goes wrong there, the window goes on
            log.exception("%s failed", self._name)
            self._tell(number, None, f"{type(error).__name__}: {error}")

    def _tell(self, number: int, answer: object, why: str = "") -> None:
        with suppress(RuntimeError):  # the window was closed meanwhile
            self._done.emit(number, answer, why)

    def _take(self, number: int, answer: object, why: str) -> None:
        if number != self._number:
            return
        if why:
            self.failed.emit(why)
        else:
            self.answered.emit(answer)

    def forget(self) -> None:
        """Whatever is under way is no longer wanted."""
        self._number += 1

    def wait(self, seconds: float = 30.0) -> None:
        """Until the thread has ended."""
        if self._thread is not None:
            self._thread.join(seconds)

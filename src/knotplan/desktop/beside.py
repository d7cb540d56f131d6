"""Work beside the interface: one question at a time, the answer of one that has been overtaken is dropped."""

import logging
import threading
from collections.abc import Callable
from contextlib import suppress

from PySide6.QtCore import QObject, Signal


class Beside(QObject):
    """Runs a function of immutable values in a thread, and hands its answer over on the interface's own."""

    answered = Signal(object)
    failed = Signal(str)
    _done = Signal(int, object, str)

    def __init__(self, parent: QObject):
        super().__init__(parent)
        self._number = 0
        self._thread: threading.Thread | None = None
        self._done.connect(self._take)

    def ask(self, work: Callable[[], object]) -> None:
        self._number += 1
        number = self._number

        def run() -> None:
            try:
                answer, why = work(), ""
            except Exception as error:  # whatever goes wrong there, the window goes on
                logging.getLogger(__name__).exception("work beside the interface failed")
                answer, why = None, f"{type(error).__name__}: {error}"
            with suppress(RuntimeError):  # the window was closed meanwhile
                self._done.emit(number, answer, why)

        self._thread = threading.Thread(target=run, name="beside", daemon=True)
        self._thread.start()

    def _take(self, number: int, answer: object, why: str) -> None:
        if number == self._number:
            if why:
                self.failed.emit(why)
            else:
                self.answered.emit(answer)

    def forget(self) -> None:
        """Whatever is under way is no longer wanted."""
        self._number += 1

    def wait(self, seconds: float = 30.0) -> None:
        """Until the thread has ended (for tests)."""
        if self._thread is not None:
            self._thread.join(seconds)

"""Work beside the interface: one question at a time, and answers that come too late are dropped."""

import logging
import threading
import weakref
from collections.abc import Callable, Iterator

from PySide6.QtCore import QObject, Signal
from shiboken6 import isValid

Wanted = Callable[[], bool]
"""whether anybody still waits for the answer"""
Work = Callable[[Wanted], Iterator[object]]
log = logging.getLogger(__name__)


class _Post(QObject):
    """Takes answers from threads over to the interface's. It lives as long as the program: a thread never
    touches what a window takes along when it is closed."""

    brought = Signal(object, int, object, str)
    ended = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.under_way: dict[object, tuple[BackgroundTask, Work]] = {}
        """what threads work for and on, so that none of them is the last to let go of it: it may hold
        widgets"""
        self.brought.connect(self.hand_over)
        self.ended.connect(self.let_go)

    def let_go(self, ticket: object) -> None:
        """On the interface's thread: a thread has ended."""
        self.under_way.pop(ticket, None)

    def hand_over(self, task: "weakref.ref[BackgroundTask]", number: int, answer: object, why: str) -> None:
        """On the interface's thread: to the task, if its window is still there."""
        waiting = task()
        if waiting is not None and isValid(waiting):
            waiting.take(number, answer, why)


_post: list[_Post] = []


class BackgroundTask(QObject):
    """Runs a function of immutable values in a thread of its own, and hands
    its answers over on the interface's."""

    answered = Signal(object)
    failed = Signal(str)

    def __init__(self, name: str, parent: QObject | None = None):
        super().__init__(parent)
        self._name = name
        self._number = 0
        self._thread: threading.Thread | None = None
        if not _post:
            _post.append(_Post())
        self._self = weakref.ref(self)

    def ask(self, work: Callable[[], object]) -> None:
        """Asks for one answer."""
        self.ask_for_all(lambda _: iter((work(),)))

    def ask_for_all(self, work: Work) -> None:
        """Asks for answers that come one after another, until nobody waits for them any more."""
        self._number += 1
        ticket = object()
        _post[0].under_way[ticket] = self, work
        self._thread = threading.Thread(
            target=self._run, args=(self._number, ticket), name=self._name, daemon=True
        )
        self._thread.start()

    def _run(self, number: int, ticket: object) -> None:
        self._go_through(number, ticket)
        _post[0].ended.emit(ticket)

    def _go_through(self, number: int, ticket: object) -> None:
        def wanted() -> bool:
            return number == self._number and isValid(self)  # else its window has been closed

        try:
            for answer in _post[0].under_way[ticket][1](wanted):
                self._tell(number, answer)
                if not wanted():
                    return
        except Exception as error:  # whatever goes wrong there, the window goes on
            log.exception("%s failed", self._name)
            self._tell(number, None, f"{type(error).__name__}: {error}")

    def _tell(self, number: int, answer: object, why: str = "") -> None:
        _post[0].brought.emit(self._self, number, answer, why)

    def take(self, number: int, answer: object, why: str) -> None:
        """An answer has come; one to an earlier question is dropped."""
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

"""Rings of objects are cleared away on the interface's thread only.

Python looks for them on whatever thread happens to allocate. A ring with a widget in it would so be taken
down by a thread that works something out: the toolkit then changes its lists of connections from two threads
at once, which may hang or end the program.
"""

import gc

from PySide6.QtCore import QCoreApplication, QTimer

EVERY_MS = 400

_timers: list[QTimer] = []


def keep_to_this_thread() -> None:
    """From now on a timer of the interface does what the collector would do by itself."""
    gc.disable()
    if not _timers:
        timer = QTimer(QCoreApplication.instance())
        timer.timeout.connect(tidy)
        timer.start(EVERY_MS)
        _timers.append(timer)


def tidy() -> None:
    """Collects the generations that are due, as the collector itself decides it."""
    due = [count > most for count, most in zip(gc.get_count(), gc.get_threshold(), strict=True)]
    if due[0]:
        gc.collect(2 if all(due) else 1 if due[1] else 0)


def settle() -> None:
    """Ends start-up: what is there now stays, and is not looked through again. Without this a full collection
    now and then takes longer than a frame."""
    gc.collect()
    gc.freeze()

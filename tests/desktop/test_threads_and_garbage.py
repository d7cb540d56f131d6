"""What threads work out may hold widgets; only the interface's thread takes them down."""

import gc
import threading

import pytest
from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from knotplan.desktop import garbage
from knotplan.desktop.background_task import BackgroundTask, _post

ROUNDS = 200


class Watched(QWidget):
    """Notes on which thread it goes."""

    gone_on: list[str]

    def __del__(self) -> None:
        self.gone_on.append(threading.current_thread().name)


@pytest.fixture
def gone(qapp) -> list[str]:
    Watched.gone_on = []
    return Watched.gone_on


def rings(count: int) -> None:
    for _ in range(count):
        widget = Watched()
        widget.itself = widget


def make_much() -> int:
    """Enough for the collector to set out many times, if it did so by itself."""
    kept = []
    for _ in range(100_000):
        one: list[object] = []
        one.append(one)
        kept.append(one)
    return len(kept)


def test_rings_with_widgets_never_go_on_a_thread(qtbot, gone: list[str]) -> None:
    owner = QObject()
    answers: list[object] = []
    task = BackgroundTask("makes much", owner)
    task.answered.connect(answers.append)
    rings(ROUNDS)
    task.ask(make_much)
    qtbot.waitUntil(lambda: bool(answers), timeout=60_000)
    assert "makes much" not in gone
    gc.collect()
    assert len(gone) == ROUNDS and set(gone) == {"MainThread"}


def test_the_last_to_let_go_of_what_was_asked_is_the_interface(qtbot, gone: list[str]) -> None:
    owner = QObject()
    for _ in range(20):
        widget = Watched()
        task = BackgroundTask("holds a widget", owner)
        task.ask(lambda held=widget: held is not None)
        del widget
        task.wait()
    qtbot.waitUntil(lambda: len(gone) == 20, timeout=20_000)
    assert set(gone) == {"MainThread"} and not _post[0].under_way


def test_the_window_s_own_timer_collects_in_time(qtbot, gone: list[str]) -> None:
    garbage.keep_to_this_thread()
    assert not gc.isenabled()
    rings(ROUNDS)
    kept = [[] for _ in range(5000)]  # more than the collector's threshold
    qtbot.waitUntil(lambda: len(gone) == ROUNDS, timeout=20_000)
    assert len(kept) == 5000 and set(gone) == {"MainThread"}

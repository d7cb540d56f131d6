"""A real window on a plan, offscreen, with folders of its own."""

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtPrintSupport import QPrintDialog
from PySide6.QtWidgets import QApplication, QDialog, QWidget

from knotplan.catalog.load import shipped
from knotplan.core.plan.document import Plan
from knotplan.desktop.app import make_window
from knotplan.desktop.settings import Settings
from knotplan.desktop.window import MainWindow
from knotplan.desktop.wire.bench_screen import BenchScreen
from knotplan.examples import example
from knotplan.exchange.recovery import Recovery


class Windows(QObject):
    """Notes plain widgets that are shown as windows of their own."""

    def __init__(self, stray: list[QWidget]):
        super().__init__()
        self.stray = stray

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            event.type() == QEvent.Type.Show
            and isinstance(watched, QWidget)
            and watched.windowType() == Qt.WindowType.Window
        ):
            meant = isinstance(watched, MainWindow | QDialog | BenchScreen)
            self.stray.extend([] if meant else [watched])
        return False


Open = Callable[..., MainWindow]


@pytest.fixture(autouse=True)
def _no_dialog_waits_for_a_person(monkeypatch: pytest.MonkeyPatch) -> None:
    """A dialog that a test did not expect fails it, instead of waiting for ever."""

    def unexpected(self: QDialog, *_: object) -> None:
        raise AssertionError(f"nobody answers this dialog: {self}")

    monkeypatch.setattr(QDialog, "exec", unexpected)
    monkeypatch.setattr(QPrintDialog, "exec", unexpected)


@pytest.fixture
def open_window(qtbot, tmp_path: Path) -> Iterator[Open]:
    """Opens windows as the program does, and sees to it that none is left."""
    made: list[MainWindow] = []

    def open_(
        plan: Plan | str = "harbour-light", path: Path | None = None, *, complete: bool = True
    ) -> MainWindow:
        plan = example(plan, shipped()) if isinstance(plan, str) else plan
        settings = Settings(tmp_path / "config")
        settings.look = "light"
        window = make_window(plan, path, settings, shipped(), Recovery(tmp_path / "work"))
        made.append(window)
        window.resize(1280, 800)  # the screen of the tests is smaller
        window.show()
        window.activateWindow()
        qtbot.waitUntil(lambda: window.isActiveWindow() and window.isVisible())
        window.session.load_engine(wait=True)
        if complete:
            window.complete()
            window.side.findings.settle()
        return window

    stray: list[QWidget] = []
    watch = Windows(stray)
    QApplication.instance().installEventFilter(watch)
    yield open_
    QApplication.instance().removeEventFilter(watch)
    assert not stray, "a widget was shown before it had a parent, and flashed as a window"
    for window in made:
        window.session.saved = window.session.plan
        window.close()
        window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()
    assert not [w for w in QApplication.topLevelWidgets() if isinstance(w, MainWindow)]


@pytest.fixture
def window(open_window: Open) -> MainWindow:
    return open_window()


@pytest.fixture
def draft(open_window: Open) -> MainWindow:
    return open_window("harbour-light-draft")

"""Tab reaches everything that takes the keyboard, in every view and dialog, and comes out again."""

from collections.abc import Callable

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QMenuBar, QWidget

from knotplan.desktop.views import VIEWS
from knotplan.desktop.window import MainWindow

MOST = 400
"""presses of Tab before a walk is given up"""


def takes_keyboard(widget: QWidget) -> bool:
    tab = bool(widget.focusPolicy() & Qt.FocusPolicy.TabFocus)
    return tab and widget.isVisible() and widget.isEnabled() and not isinstance(widget, QMenuBar)


def named(widget: QWidget) -> str:
    return f"{type(widget).__name__} {widget.objectName()} {widget.accessibleName()}"


def walk(start: QWidget, key: Qt.Key) -> list[QWidget]:
    """The widgets that have the keyboard one after another, until the first comes again."""
    start.setFocus(Qt.FocusReason.TabFocusReason)
    QApplication.processEvents()
    first = QApplication.focusWidget()
    assert first is not None
    seen = [first]
    for _ in range(MOST):
        QTest.keyClick(QApplication.focusWidget(), key)
        now = QApplication.focusWidget()
        assert now is not None, f"the keyboard is lost after {named(seen[-1])}"
        if now is first:
            return seen
        assert now is not seen[-1], f"Tab does not leave {named(now)}"
        seen.append(now)
    raise AssertionError(f"no way round: {[named(w) for w in seen[-6:]]}")


def check(window: QWidget, start: QWidget) -> None:
    reached = walk(start, Qt.Key.Key_Tab)
    back = walk(start, Qt.Key.Key_Backtab)
    wanted = {w for w in window.findChildren(QWidget) if w.window() is window and takes_keyboard(w)}
    # of a group of buttons that exclude one another the toolkit reaches the one that is chosen
    missing = {named(w) for w in wanted - set(reached) if w.focusProxy() is None and not _in_group(w)}
    assert not missing
    assert set(back) == set(reached), "backwards the same"


def _in_group(widget: QWidget) -> bool:
    group = getattr(widget, "group", None)
    return bool(callable(group) and group() is not None) or getattr(widget, "autoExclusive", bool)()


@pytest.mark.parametrize("view", [view.id for view in VIEWS])
def test_tab_reaches_everything_in_every_view(draft: MainWindow, view: str) -> None:
    draft.show_view(view)
    QApplication.processEvents()
    check(draft, draft.rail.buttons[0])


@pytest.mark.parametrize("kind", ["part", "lead", "pin", "several"])
def test_tab_reaches_everything_for_whatever_is_selected(draft: MainWindow, kind: str) -> None:
    if kind == "several":
        draft.session.select_parts(["lamp", "flag"])
    else:
        draft.session.select(kind, {"part": "lamp", "lead": "lamp.anode", "pin": "board.p7"}[kind])
    QApplication.processEvents()
    check(draft, draft.loom)


DIALOGS = (
    "values",
    "assumptions",
    "mend",
    "history",
    "new",
    "chart",
    "move",
    "board-new",
    "part-new",
    "explain",
    "print-preview",
)


@pytest.mark.qt_log_ignore("This plugin does not support", extend=True)  # a window without a screen
@pytest.mark.parametrize("action", DIALOGS)
def test_tab_goes_round_in_every_dialog(draft: MainWindow, monkeypatch, action: str) -> None:
    walked: list[str] = []

    def shown(dialog: QDialog) -> int:
        dialog.show()
        QTest.qWaitForWindowActive(dialog)
        start = dialog.focusWidget() or next(w for w in dialog.findChildren(QWidget) if takes_keyboard(w))
        check(dialog, start)
        walked.append(type(dialog).__name__)
        dialog.hide()
        return 0

    monkeypatch.setattr(QDialog, "exec", shown)
    found: Callable[[], None] = draft.actions_.by_id[action].trigger
    found()
    assert walked

"""Random keys, clicks, drags, wheels, sizes, menu actions and dialogs answered at random, in the real window.

    tools/monkey.py --seed 3 --actions 2000 --scene harbour-light-draft

Ends with 0 when nothing happened that must not: no exception, no warning of the toolkit, no
widget left over, no plan that does not open again, no more memory than allowed. What it did
last stands in the trace that it names.
"""

import argparse
import faulthandler
import os
import random
import sys
import tempfile
import traceback
from pathlib import Path
from types import TracebackType
from typing import Any

MOST_MB = 1500
MOST_HIDDEN = 5
"""dialogs that have been answered and wait to be deleted"""
KEPT = 60
"""actions of the trace that are kept"""


def home() -> Path:
    """Folders of its own: nothing of the maker's is read or written."""
    folder = Path(tempfile.mkdtemp(prefix="knot-monkey-"))
    for name in ("DATA", "CACHE", "STATE", "CONFIG"):
        os.environ[f"XDG_{name}_HOME"] = str(folder / name.lower())
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    return folder


HOME = home()

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer, qInstallMessageHandler
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtPrintSupport import QPrintDialog
from PySide6.QtTest import QAbstractItemModelTester, QTest
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QDialog,
    QFileDialog,
    QMenu,
    QMessageBox,
    QWidget,
)
from shiboken6 import isValid

from knotplan.catalog.load import everything
from knotplan.core.plan.document import Plan
from knotplan.core.plan.validity.faults import faults
from knotplan.desktop.app import application, make_window
from knotplan.desktop.settings import Settings
from knotplan.desktop.window import MainWindow
from knotplan.examples import example, names
from knotplan.exchange.plan_file import dumps, loads, save
from knotplan.exchange.recovery import Recovery

KEYS = [
    *range(Qt.Key.Key_A, Qt.Key.Key_Z + 1),
    *range(Qt.Key.Key_0, Qt.Key.Key_9 + 1),
    *range(Qt.Key.Key_F1, Qt.Key.Key_F12 + 1),
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Return,
    Qt.Key.Key_Escape,
    Qt.Key.Key_Tab,
    Qt.Key.Key_Backtab,
    Qt.Key.Key_Space,
    Qt.Key.Key_Delete,
    Qt.Key.Key_Backspace,
    Qt.Key.Key_Slash,
    Qt.Key.Key_Home,
    Qt.Key.Key_End,
    Qt.Key.Key_PageUp,
    Qt.Key.Key_PageDown,
    Qt.Key.Key_Plus,
    Qt.Key.Key_Minus,
]
MODIFIERS = [Qt.KeyboardModifier.NoModifier] * 7 + [
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
]
TYPED = (
    "servo",
    "led",
    "12",
    "GND",
    "A0",
    "=1+1",
    "4K7",
    "nonsense",
    "\u202e\u00e9",
    "1e999",
    "-5",
    "100n",
    "lamp",
)
SIZES = ((1024, 640), (1280, 800), (1920, 1080), (1100, 1000))
PLATFORM = "This plugin does not support"
"""what the platform without a screen cannot do"""
LONGEST = 40
"""steps that a dialog stays open before it is closed with Escape"""


class Monkey:
    """One run in one window."""

    def __init__(self, seed: int, actions: int, scene: str, trace: Path):
        self.r = random.Random(seed)
        self.left, self.scene, self.trace = actions, scene, trace
        self.said: list[str] = []
        self.wrong: list[str] = []
        self.catalog = everything()
        self.files = self._files()
        self.in_dialog = 0
        self.window = self._open()

    def _files(self) -> list[Path]:
        """What file dialogs are answered with: good and bad ones, and none."""
        good, bad = HOME / "good.knot.json", HOME / "bad.knot.json"
        save(example("seed-drawers", self.catalog), good)
        bad.write_bytes(dumps(example("seed-drawers", self.catalog)).replace(b'"led"', b'"ledd"'))
        (HOME / "folder").mkdir(exist_ok=True)
        table = HOME / "table.csv"
        table.write_text("Pin,Name\n1,GND\n2,D2\n3,D3\n4,5V\n")
        return [good, bad, table, HOME / "new", HOME / "folder", HOME / "no" / "such.json"]

    def _open(self) -> MainWindow:
        boards = self.catalog.board_ids()
        plan = Plan(self.scene) if self.scene in boards else example(self.scene, self.catalog)
        window = make_window(plan, None, Settings(HOME / "settings"), self.catalog, Recovery(HOME / "work"))
        window.show()
        QTest.qWaitForWindowExposed(window)
        window.complete()
        window.session.load_engine(wait=True)
        for action in window.actions_.all():
            if action.objectName() == "quit":  # it ends the program, which is tried by itself
                action.setEnabled(False)
        return window

    # --- what happens ---------------------------------------------------------------------------

    def step(self) -> None:
        """One action; the next is arranged for before, so that a dialog that waits is answered too."""
        if self.left <= 0 or self.wrong:
            self._end()
            return
        self.left -= 1
        QTimer.singleShot(0, self.step)
        modal = QApplication.activePopupWidget() or QApplication.activeModalWidget()
        modal = None if modal is self.window else modal
        self.in_dialog = self.in_dialog + 1 if modal is not None else 0
        if modal is not None and self.in_dialog > LONGEST:
            self._note("close it", modal)
            self.in_dialog = 0
            if isinstance(modal, QMenu | QDialog):
                modal.close() if isinstance(modal, QMenu) else modal.reject()
            return
        if self.left % 100 == 0:
            self._look()
        if self.left % 5 == 0:
            self._watch_models(modal or self.window)
        ways = [self.key] * 6 + [self.click] * 6 + [self.drag] * 2 + [self.wheel, self.text, self.rest]
        ways += [self.resize, self.action, self.action, self.undo] if modal is None else []
        self.r.choice(ways)(modal or self.window)

    def _note(self, what: str, on: Any = None) -> None:
        name = (
            f" on {type(on).__name__} {on.objectName()!r}"
            if isinstance(on, QWidget)
            else f" {on!r}"
            if on is not None
            else ""
        )
        self.said.append(what + name)
        if len(self.said) % 10 == 0:
            self.trace.write_text("\n".join(self.said[-KEPT:]))

    def _target(self, inside: QWidget) -> tuple[QWidget, QPoint]:
        """Something that can be seen, and a place on it."""
        seen = [w for w in inside.findChildren(QWidget) if w.isVisible() and w.width() > 2 and w.height() > 2]
        target = self.r.choice([inside, *seen, *seen])
        return target, QPoint(self.r.randrange(target.width()), self.r.randrange(target.height()))

    def key(self, inside: QWidget) -> None:
        key, modifier = Qt.Key(self.r.choice(KEYS)), self.r.choice(MODIFIERS)
        target = QApplication.focusWidget() or inside
        self._note(f"key {key.name} {modifier.name}", target)
        QTest.keyPress(target, key, modifier)
        if isValid(target):  # a key may have closed what it was pressed in
            QTest.keyRelease(target, key, modifier)

    def text(self, inside: QWidget) -> None:
        target = QApplication.focusWidget() or inside
        typed = self.r.choice(TYPED)
        self._note(f"type {typed!r}", target)
        for letter in typed:  # QTest's own way ends the program at a letter that is not on its keyboard
            for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease) if isValid(target) else ():
                QApplication.sendEvent(target, QKeyEvent(kind, 0, Qt.KeyboardModifier.NoModifier, letter))

    def click(self, inside: QWidget) -> None:
        target, at = self._target(inside)
        button = self.r.choice(
            [Qt.MouseButton.LeftButton] * 8 + [Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton]
        )
        double = self.r.random() < 0.15
        self._note(f"{'double ' if double else ''}click {button.name} at {at.x()},{at.y()}", target)
        for press in [QTest.mousePress] + [QTest.mouseDClick] * double:
            if isValid(target):
                press(target, button, Qt.KeyboardModifier.NoModifier, at)
            if isValid(target):
                QTest.mouseRelease(target, button, Qt.KeyboardModifier.NoModifier, at)

    def drag(self, inside: QWidget) -> None:
        target, at = self._target(
            self.window.loom if self.r.random() < 0.6 and inside is self.window else inside
        )
        self._note(f"drag from {at.x()},{at.y()}", target)
        QTest.mousePress(target, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
        for _ in range(self.r.randrange(1, 5)):
            if not isValid(target):
                return
            at = QPoint(self.r.randrange(max(1, target.width())), self.r.randrange(max(1, target.height())))
            QTest.mouseMove(target, at)
            if self.r.random() < 0.1:
                self.undo(inside)
        if isValid(target):
            QTest.mouseRelease(target, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)

    def wheel(self, inside: QWidget) -> None:
        target, at = self._target(inside)
        by = QPoint(0, self.r.choice([-240, -120, 120, 240]))
        self._note(f"wheel {by.y()}", target)
        event = QWheelEvent(
            QPointF(at),
            QPointF(target.mapToGlobal(at)),
            by,
            by,
            Qt.MouseButton.NoButton,
            self.r.choice(MODIFIERS),
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(target, event)

    def rest(self, inside: QWidget) -> None:
        self._note("rest")
        QTest.qWait(self.r.choice([1, 20, 80]))

    def resize(self, inside: QWidget) -> None:
        size = self.r.choice(SIZES)
        self._note(f"resize to {size}")
        self.window.resize(*size)

    def undo(self, inside: QWidget) -> None:
        way = self.r.choice(["undo", "undo", "redo"])
        self._note(way)
        getattr(self.window.session, way)()

    def action(self, inside: QWidget) -> None:
        """A menu's action, as if chosen there."""
        able = [a for a in self.window.actions_.all() if a.isEnabled()]
        subs = [a for m in self.window.actions_.submenus.values() for a in m.actions() if a.isEnabled()]
        chosen = self.r.choice(self.r.choice([able, able, subs]) or able)
        self._note(f"action {chosen.text()!r}")
        chosen.trigger()

    # --- what must hold -------------------------------------------------------------------------

    def _watch_models(self, inside: QWidget) -> None:
        """The toolkit's own tester on every model of ours; it warns of what a model must not do."""
        for view in inside.findChildren(QAbstractItemView):
            model = view.model()
            if type(model).__module__.startswith("knotplan") and model.property("watched") is None:
                model.setProperty("watched", True)
                QAbstractItemModelTester(model, QAbstractItemModelTester.FailureReportingMode.Warning, model)

    def _look(self) -> None:
        plan = self.window.session.plan
        if found := list(faults(plan, self.catalog)):
            self.wrong.append(f"the plan is not valid: {found[0]}")
        elif dumps(loads(dumps(plan), self.catalog)) != dumps(plan):
            self.wrong.append("the plan does not open again as it was")
        gone = [type(d).__name__ for d in self.window.findChildren(QDialog) if not d.isVisible()]
        if len(gone) > MOST_HIDDEN:
            self.wrong.append(f"{len(gone)} dialogs are hidden and not gone: {', '.join(sorted(set(gone)))}")
        # not `ru_maxrss`, which remembers what the process was that started this one
        peak = next(
            line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM")
        )
        used = int(peak.split()[1]) // 1024
        if used > MOST_MB:
            self.wrong.append(f"{used} MB of memory are in use")

    def _end(self) -> None:
        """Closes whatever still waits for an answer, one after another, then ends."""
        waiting = QApplication.activePopupWidget() or QApplication.activeModalWidget()
        if waiting is None or waiting is self.window:
            QApplication.exit(0)  # to quit would have the window ask whether it may close
            return
        QTimer.singleShot(0, self._end)
        if isinstance(waiting, QMessageBox):
            self.r.choice(waiting.buttons()).click()
        else:
            waiting.close()

    def closed(self) -> None:
        """The window goes; nothing may be left over."""
        self._look()
        self.window.session.saved = self.window.session.plan
        self.window.session.suggester.stop()
        self.window.session.suggester.wait()
        self.window.close()
        self.window.deleteLater()
        for _ in range(3):
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            QApplication.processEvents()
        left = [w for w in QApplication.topLevelWidgets() if isinstance(w, MainWindow | QDialog)]
        if left:
            self.wrong.append(f"left over: {', '.join(type(w).__name__ for w in left)}")


def answer_files(monkey: Monkey) -> None:
    """File dialogs are the desktop's own; they are answered here."""

    def name(*_: object, **__: object) -> tuple[str, str]:
        return (str(monkey.r.choice(monkey.files)) if monkey.r.random() < 0.7 else ""), ""

    def folder(*_: object, **__: object) -> str:
        return str(HOME / "folder") if monkey.r.random() < 0.7 else ""

    dialogs: Any = QFileDialog
    dialogs.getOpenFileName = dialogs.getSaveFileName = name
    dialogs.getExistingDirectory = folder
    # the desktop's own dialog of printers is the toolkit's, with buttons that may not be pressed twice
    printers: Any = QPrintDialog
    printers.exec = lambda _: QDialog.DialogCode.Rejected


def run(seed: int, actions: int, scene: str, trace: Path) -> list[str]:
    """What went wrong in one run; nothing where all was well."""
    wrong: list[str] = []

    def caught(kind: type[BaseException], value: BaseException, trace: TracebackType | None) -> None:
        wrong.append("".join(traceback.format_exception(kind, value, trace)))

    sys.excepthook = caught
    qInstallMessageHandler(
        lambda _, __, text: wrong.append(f"the toolkit says: {text}") if PLATFORM not in text else None
    )
    app = application()
    monkey = Monkey(seed, actions, scene, trace)
    monkey.wrong = wrong
    answer_files(monkey)
    QTimer.singleShot(0, monkey.step)
    app.exec()
    monkey.closed()
    trace.write_text("\n".join([*monkey.said[-KEPT:], *wrong]))
    return wrong


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--seed", type=int, default=random.randrange(10**6))
    parser.add_argument("--actions", type=int, default=1000)
    parser.add_argument("--scene", default="", help="a scene or a board; at random if not given")
    parser.add_argument(
        "--seconds", type=float, default=600.0, help="a run that takes longer hangs: it ends, and says where"
    )
    parser.add_argument("--trace", type=Path, default=Path(tempfile.gettempdir()) / "knot-monkey.trace")
    given = parser.parse_args()
    faulthandler.enable()
    faulthandler.dump_traceback_later(given.seconds, exit=True)
    scenes = [*(n for n in names() if not n.startswith("organ")), *everything().board_ids()]
    scene = given.scene or random.Random(given.seed).choice(scenes)
    wrong = run(given.seed, given.actions, scene, given.trace)
    print(f"seed {given.seed}, {scene}, {given.actions} actions: {'all well' if not wrong else wrong[0]}")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())

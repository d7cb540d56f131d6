"""What nobody foresaw: one place that logs it, keeps all work aside, says so
plainly, and has the views drawn anew."""

import sys
import threading
from collections.abc import Callable
from time import monotonic
from types import TracebackType
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, QtMsgType, Signal, qInstallMessageHandler

if TYPE_CHECKING:
    from logging import Logger

    from knotplan.desktop.window import MainWindow

OFTEN, WITHIN_S = 4, 10.0
"""more failures than this within that time: the views are no longer drawn
anew each time, nor is it said again"""


class Guard(QObject):
    """Watches over one application; `tell` shows a message for a window."""

    _happened = Signal()

    def __init__(self, windows: Callable[[], "list[MainWindow]"]):
        super().__init__()
        self.windows = windows
        self.caught = 0
        self._times: list[float] = []
        self._telling = False
        self._happened.connect(self._recover, Qt.ConnectionType.QueuedConnection)

    def install(self) -> None:
        """From now on everything that nobody catches comes here: from slots,
        events and painting, and from threads."""
        sys.excepthook = self.take
        threading.excepthook = lambda args: self.take(args.exc_type, args.exc_value, args.exc_traceback)
        qInstallMessageHandler(lambda kind, _, text: _logged(kind, text))

    def take(
        self, kind: type[BaseException], value: BaseException | None, trace: TracebackType | None
    ) -> None:
        """One failure: logged and everything kept before anything else is tried."""
        if issubclass(kind, KeyboardInterrupt | SystemExit):
            sys.__excepthook__(kind, value or kind(), trace)
            return
        self.caught += 1
        _logger().critical("not caught", exc_info=(kind, value or kind(), trace))
        for window in self.windows():
            window.keep_now()
        self._happened.emit()

    def _recover(self) -> None:
        now = monotonic()
        self._times = [t for t in self._times if now - t < WITHIN_S] + [now]
        if len(self._times) > OFTEN:
            return
        for window in self.windows():
            window.draw_anew()
        if not self._telling:
            self._telling = True
            for window in self.windows()[:1]:
                window.tell_failure()
            self._telling = False


def _logger() -> "Logger":
    """Traces go to a file; what that needs is imported when something
    fails, and not before the first paint."""
    import logging

    from knotplan.exchange import log

    log.begin()
    return logging.getLogger("knotplan.guard")


def _logged(kind: QtMsgType, text: str) -> None:
    """What the toolkit has to say is for whoever mends the program."""
    import logging

    levels = {
        QtMsgType.QtCriticalMsg: logging.ERROR,
        QtMsgType.QtFatalMsg: logging.ERROR,
        QtMsgType.QtWarningMsg: logging.WARNING,
    }
    _logger().log(levels.get(kind, logging.DEBUG), "toolkit: %s", text)

"""Starting the window: what is needed for the first paint comes first, the rest right after it."""

import signal
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from knotplan.catalog.load import Catalog, everything
from knotplan.core.plan.document import Plan
from knotplan.desktop import garbage, theme
from knotplan.desktop.guard import Guard
from knotplan.desktop.session import Session
from knotplan.desktop.settings import Settings, work_folder
from knotplan.desktop.window import MainWindow
from knotplan.examples import example
from knotplan.exchange.plan_file import PlanFileError, load

if TYPE_CHECKING:
    from knotplan.exchange.recovery import Recovery


def application() -> QApplication:
    """The Qt application with our fonts."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    # named here, the style is the first that is made; the desktop's own would be made before it
    app = QApplication([*sys.argv[:1], "-style", "Fusion"])
    app.setApplicationName("knotplan")
    app.setApplicationDisplayName("Knot Plan")
    app.setDesktopFileName("example.knotplan.knotplan")  # integration/files.py
    theme.keep_calm(app)
    theme.load_fonts()
    garbage.keep_to_this_thread()
    return app


def make_window(
    plan: Plan, path: Path | None, settings: Settings, catalog: Catalog, recovery: "Recovery | None" = None
) -> MainWindow:
    """A window on a plan, as far as its first paint goes; `complete` makes the rest."""
    session = Session(catalog, plan, path)
    session.saved = plan  # a file, an example or an empty plan: nothing to lose yet
    return MainWindow(session, settings, recovery)


def run(path: Path | None = None, demo: bool = False, only_paint: Callable[[], None] | None = None) -> int:
    """Opens the window and stays until it is closed. Without a path the plan that was open last comes back;
    the first time, the demo plan is shown.

    With `only_paint` the program ends after the first paint, having called it."""
    app = application()
    catalog = everything()
    settings = Settings()
    problem: PlanFileError | OSError | None = None
    plan, origin = None, None
    if path is None and not demo:
        path = settings.last  # where one left off
    if path is not None and not demo:
        try:
            plan, origin = load(path, catalog), path
            settings.opened(path)
        except (PlanFileError, OSError) as error:
            problem = error
    window = make_window(plan or example("harbour-light", catalog), origin, settings, catalog)
    guard = Guard(lambda: [window])
    guard.install()
    leave_on_signals(app)
    window.show()

    def after_first_paint() -> None:
        if not window.loom.painted:
            QTimer.singleShot(0, after_first_paint)
            return
        if only_paint:
            only_paint()
            app.quit()
            return
        from knotplan.exchange import log

        garbage.settle()
        log.begin()
        window.session.load_engine()
        asked = recover(window, catalog)
        if not asked and path is None:
            window.greet()
        if problem is not None and path is not None:
            window.documents.refuse(path, problem)

    QTimer.singleShot(0, after_first_paint)
    code = app.exec()
    window.keep_now()
    return code


def recover(window: MainWindow, catalog: Catalog) -> bool:
    """Completes the window with a keeper of running work, and offers what a crash left behind; whether there
    was something."""
    from knotplan.desktop.commands.taking_up import offer
    from knotplan.exchange.recovery import Recovery

    window.recovery = Recovery(work_folder())
    window.complete()
    return offer(window.desk)


def leave_on_signals(app: QApplication) -> None:
    """Ctrl+C in the terminal and the end of the desktop's session close the program; what is not saved is
    kept aside. Python looks at signals only while it runs, hence the timer."""
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda got, _: app.exit(128 + got))
    breath = QTimer(app)
    breath.timeout.connect(lambda: None)
    breath.start(500)

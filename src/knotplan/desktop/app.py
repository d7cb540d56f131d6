"""Starting the window: what is needed for the first paint comes first, the engine right after it."""

import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from knotplan.catalog.load import Catalog, shipped
from knotplan.core.plan import Plan
from knotplan.desktop import theme
from knotplan.desktop.dialogs import ErrorDialog, ask_recover
from knotplan.desktop.session import Session
from knotplan.desktop.settings import Settings, work_folder
from knotplan.desktop.window import MainWindow
from knotplan.examples import example
from knotplan.exchange.plan_file import PlanFileError, load
from knotplan.exchange.recovery import Recovery


def application() -> QApplication:
    """The Qt application with our fonts."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    app = QApplication(sys.argv[:1])
    app.setApplicationName("knotplan")
    app.setApplicationDisplayName("Knot Plan")
    app.setDesktopFileName("knotplan")
    app.setStyle("Fusion")
    theme.load_fonts()
    return app


def make_window(plan: Plan, path: Path | None, settings: Settings, catalog: Catalog,
                recovery: Recovery | None = None) -> MainWindow:  # fmt: skip
    """A window on a plan; its engine is not loaded yet."""
    session = Session(catalog, plan, path)
    if path is None:
        session.saved = plan  # an example or an empty plan is nothing to lose
    return MainWindow(session, settings, recovery)


def run(path: Path | None = None, demo: bool = False) -> int:
    """Opens the window and stays until it is closed. Without a path the demo plan is shown."""
    app = application()
    catalog = shipped()
    settings = Settings()
    recovery = Recovery(work_folder())
    problem: PlanFileError | OSError | None = None
    plan, origin = example("harbour-light", catalog), None
    if path is not None and not demo:
        try:
            plan, origin = load(path, catalog), path
            settings.opened(path)
        except (PlanFileError, OSError) as error:
            problem = error
    window = make_window(plan, origin, settings, catalog, recovery)
    window.show()

    def after_first_paint() -> None:
        window.session.load_engine()
        if problem is not None and path is not None:
            ErrorDialog(path.name, problem, window).exec()
        offer_lost_work(window, recovery, catalog)

    QTimer.singleShot(0, after_first_paint)
    return app.exec()


def offer_lost_work(window: MainWindow, recovery: Recovery, catalog: Catalog) -> None:
    """Takes up, if wanted, what a crash left behind; it counts as not saved."""
    lost = recovery.lost(catalog)
    if not lost:
        return
    newest = lost[0]
    where = f" ({newest.origin})" if newest.origin else ""
    if ask_recover([f"{newest.plan.title}{where}"], window):
        window.session.replace_document(newest.plan, newest.origin, saved=False)
        window.keep_aside()
    for work in lost:
        work.kept.unlink(missing_ok=True)

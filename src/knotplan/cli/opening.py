"""Opens the window, with nothing imported that its first picture does not need."""

import gc
import os
import sys
import time
from pathlib import Path
from typing import NoReturn

CANNOT = 2
"""exit status where there can be no window"""


def open_window(plan: Path | None = None, demo: bool = False, clock: bool = False) -> NoReturn:
    """The window, on a plan, on the demo or on what was open last; `clock`: print the time of the first paint
    and quit."""
    if not any(os.environ.get(name) for name in ("WAYLAND_DISPLAY", "DISPLAY", "QT_QPA_PLATFORM")):
        _stop(
            "knotplan: there is no display to open a window on. Everything else works without one: see "
            "knotplan --help."
        )
    # start-up makes a great many lasting objects, and the toolkit's modules most of them: looking through
    # them again and again for garbage would take a third of its time (garbage.settle ends this)
    gc.disable()
    try:
        from knotplan.desktop.app import run
    except ImportError as error:
        gc.enable()
        _stop(
            "knotplan: the window needs PySide6, which is missing or lacks something of the system: "
            f"{error}\nInstall it with: pip install 'knotplan[desktop]'. Everything but the window, "
            "PDF and PNG "
            "works without it."
        )
    raise SystemExit(run(plan, demo, (lambda: print(time.monotonic(), flush=True)) if clock else None))


def _stop(message: str) -> NoReturn:
    print(message, file=sys.stderr)
    raise SystemExit(CANNOT)

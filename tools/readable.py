"""How small the smallest words on the bench are, for each scene at each size of the window.

`python -m tools.readable` writes the table that docs/dev/measured.md has.
"""

import os
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from knotplan.desktop.window import MainWindow

SIZES = ((1024, 640), (1280, 800), (1366, 768), (1920, 1080))


def smallest_text(window: "MainWindow") -> float:
    """The size in pixels of the smallest words that are painted on the bench: their size in the picture,
    times the scale of the view."""
    from knotplan.core.drawing.shapes import Text

    loom = window.loom
    sizes = [s.size for group in loom.layers() for s in group.shapes if isinstance(s, Text)]
    return min(sizes) * loom.scale


def main() -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtWidgets import QApplication

    from knotplan.catalog.load import shipped
    from knotplan.desktop.app import application, make_window
    from knotplan.desktop.settings import Settings
    from knotplan.examples import example, names
    from knotplan.exchange.recovery import Recovery

    application()
    print("| scene |", " | ".join(f"{w} × {h}" for w, h in SIZES), "|")
    print("|---|", "|".join("---" for _ in SIZES), "|", sep="")
    with tempfile.TemporaryDirectory() as folder:
        for name in names():
            row = []
            for size in SIZES:
                place = Path(folder) / f"{name}-{size[0]}"
                window = make_window(
                    example(name, shipped()), None, Settings(place), shipped(), Recovery(place / "work")
                )
                window.resize(*size)
                window.show()
                QApplication.processEvents()
                row.append(f"{smallest_text(window):.1f}")
                window.hide()
            print(f"| {name} |", " | ".join(row), "|")


if __name__ == "__main__":
    main()

"""Paints the program's icons in the sizes that desktops ask for, from their drawings.

python -m tools.make_icons
"""

from pathlib import Path

from PySide6.QtCore import QSize
from PySide6.QtGui import QGuiApplication, QImageReader

ICONS = Path(__file__).parent.parent / "src/knotplan/integration/icons"
SIZES = (16, 22, 24, 32, 48, 64, 128, 256)


def main() -> None:
    application = QGuiApplication([])
    for name in ("knotplan", "knotplan-plan"):
        for size in SIZES:
            reader = QImageReader(str(ICONS / f"{name}.svg"))
            reader.setScaledSize(QSize(size, size))
            reader.read().save(str(ICONS / f"{name}-{size}.png"))
    application.quit()


if __name__ == "__main__":
    main()

"""Writes `core/drawing/letters.py`: the advance widths of the interface font, so that
the core can lay out text without Qt."""

import os
import pprint
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtGui import QFont, QFontMetricsF

from knotplan.desktop.app import application

LETTERS = [chr(c) for c in range(32, 127)] + list("–—…“”’·×ΩµμφÄÖÜäöüß°±→↑↓≤≥√Δ✕²")
HEAD = (
    '"""Advance widths of the interface font in thousandths of its size; made by tools/make_letters.py."""\n'
)


def widths(bold: bool) -> dict[str, int]:
    font = QFont("Inter")
    font.setPixelSize(1000)
    font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    metrics = QFontMetricsF(font)
    return {c: round(metrics.horizontalAdvance(c)) for c in LETTERS}


def main() -> None:
    application()
    tables = [
        f"{name} = {pprint.pformat(widths(bold), compact=True, width=120, sort_dicts=False)}\n"
        for name, bold in (("REGULAR", False), ("BOLD", True))
    ]
    target = Path(__file__).parents[1] / "src/knotplan/core/drawing/letters.py"
    target.write_text("\n".join([HEAD, *tables]), "utf-8")
    print(f"wrote {target}")


if __name__ == "__main__":
    main()

"""The widths by which the core lays out text, against the toolkit's own measure of the font that ships."""

import pytest
from PySide6.QtGui import QFontMetricsF

from knotplan.core.drawing.letters import BOLD, REGULAR
from knotplan.core.drawing.shapes import text_width
from knotplan.desktop.paint import interface_font


@pytest.mark.parametrize("bold", [False, True])
def test_every_letter_is_as_wide_as_the_font_has_it(qapp, bold: bool) -> None:
    metrics = QFontMetricsF(interface_font(1000, bold))
    for letter, width in (BOLD if bold else REGULAR).items():
        assert metrics.horizontalAdvance(letter) == pytest.approx(width, abs=1), letter


@pytest.mark.parametrize(
    "text", ["GND pos 28", "wall supply with a USB plug, 5 V", "Needs pulses at 50 Hz", "180 Ω", "94 µA"]
)
def test_lines_are_as_wide_as_they_are_painted(qapp, text: str) -> None:
    """Kerning, which the core leaves out, takes at most 3 %."""
    painted = QFontMetricsF(interface_font(1300)).horizontalAdvance(text) / 100
    assert text_width(text, 13) == pytest.approx(painted, rel=0.03)

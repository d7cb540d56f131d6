"""What is drawn on the bench can be read: measured from the picture's shapes and the view's scale."""

import pytest
from PySide6.QtWidgets import QApplication
from tools.readable import smallest_text

from knotplan.desktop.window import MainWindow
from knotplan.examples import SCENES

SMALL = [scene for scene in SCENES if scene != "organ-shutters"]
LEAST = {(1024, 640): 9.5, (1280, 800): 11.0, (1366, 768): 10.8, (1920, 1080): 11.5}
"""pixels, by size of the window"""


@pytest.mark.parametrize("size", LEAST)
@pytest.mark.parametrize("name", [f"{scene}{tail}" for scene in SMALL for tail in ("", "-draft")])
def test_words_on_the_bench_can_be_read_through_every_lens(open_window, name: str, size) -> None:
    window: MainWindow = open_window(name)
    window.resize(*size)
    QApplication.processEvents()
    for lens in ("fit", "volts", "load", "power-on", "sharing"):
        window.session.look_through(lens)
        assert not window.loom.far, "in full, not from afar"
        assert smallest_text(window) >= LEAST[size], lens


@pytest.mark.parametrize("size", LEAST)
def test_from_afar_names_can_be_read(open_window, size) -> None:
    window: MainWindow = open_window("organ-shutters")
    window.resize(*size)
    QApplication.processEvents()
    assert smallest_text(window) >= 11


def test_what_becomes_too_small_is_left_out_never_made_tiny(open_window) -> None:
    """From far in to far out: at every step words are drawn that can be read, or none."""
    window: MainWindow = open_window("harbour-light")
    QApplication.processEvents()
    drawn = set()
    for _ in range(14):
        window.loom.zoom(1 / 1.15)
        assert smallest_text(window) >= 8.9
        drawn.add(window.loom.far)
    assert drawn == {True, False}, "in full, then from afar"

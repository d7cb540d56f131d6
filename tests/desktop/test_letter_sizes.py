"""The interface in the desktop's letters: from 9 to 18 points nothing is cut off, in any view or dialog."""

from pathlib import Path

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtGui import QFont, QFontDatabase
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QDialogButtonBox,
    QStyle,
    QWidget,
)

from knotplan.core.drawing.palette import DARK, DARK_STRONG, LIGHT, LIGHT_STRONG
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.desktop import lettering, theme
from knotplan.desktop import paint as brush
from knotplan.desktop.panels import fields
from knotplan.desktop.views import VIEWS
from knotplan.desktop.window import MainWindow
from tests.desktop.cut_off import PaintedTexts, cut_off
from tests.desktop.test_keyboard_walk import DIALOGS

OURS, WIDE = brush.FAMILY, "DejaVu Serif"
SIZES = (
    (9, OURS, 1280, 800),
    (10, OURS, 1024, 640),
    (13, WIDE, 1280, 800),
    (18, OURS, 1280, 800),
    (18, WIDE, 1920, 1080),
)
"""points, family (where it is not there, the toolkit takes another), and the window"""


@pytest.fixture(autouse=True)
def _usual_letters_afterwards():
    yield
    lettering.take(lettering.Letters())
    theme.apply(theme.current())


@pytest.fixture
def painted(monkeypatch: pytest.MonkeyPatch) -> PaintedTexts:
    texts = PaintedTexts()
    monkeypatch.setattr(brush, "_text", texts.note)
    return texts


def letter(window: MainWindow, points: int, family: str = OURS, wide: int = 1280, high: int = 800) -> None:
    window.resize(wide, high)
    window.take_letters(lettering.of_points(points, family))
    window.side.findings.settle()
    QApplication.processEvents()


def check(window: QWidget, painted: PaintedTexts) -> None:
    assert faults(window, painted) == []


def faults(window: QWidget, painted: PaintedTexts) -> list[str]:
    for _ in range(4):  # each layout asks the one around it
        QTest.qWait(10)
    window.grab()
    return [*cut_off(window), *painted.bad]


@pytest.mark.parametrize(("points", "family", "wide", "high"), SIZES)
@pytest.mark.parametrize("view", [view.id for view in VIEWS])
def test_nothing_is_cut_off_in_any_view(
    draft, painted, view: str, points: int, family: str, wide: int, high: int
) -> None:
    letter(draft, points, family, wide, high)
    draft.show_view(view)
    check(draft, painted)


@pytest.mark.parametrize(("points", "family", "wide", "high"), SIZES)
@pytest.mark.parametrize("kind", ["part", "lead", "pin", "several", "suggestion"])
def test_nothing_is_cut_off_for_whatever_is_selected(
    draft, painted, kind: str, points: int, family: str, wide: int, high: int
) -> None:
    letter(draft, points, family, wide, high)
    if kind == "several":
        draft.session.select_parts(["lamp", "flag"])
    elif kind == "suggestion":
        draft.actions_.by_id["suggest"].trigger()
        draft.session.suggester.wait()
    else:
        draft.session.select(kind, {"part": "lamp", "lead": "lamp.anode", "pin": "board.p7"}[kind])
    check(draft, painted)
    draft.budgets.fold(False)
    draft.lenses.key.setChecked(True)
    check(draft, painted)


@pytest.mark.parametrize(("points", "family", "wide", "high"), SIZES)
def test_nothing_is_cut_off_while_much_is_to_do(
    open_window, painted, points: int, family: str, wide: int, high: int
) -> None:
    """Many leads to tie and something besides: the longest that the line of what is to do can say."""
    plan = Plan("bowline-40")
    for k in range(40):
        plan = edits.add_part(plan, "rgb-led", f"A light with a rather long name {k}")
    window = open_window(plan)
    letter(window, points, family, wide, high)
    check(window, painted)
    window.side.findings.to_do.head.setChecked(True)
    check(window, painted)


@pytest.mark.qt_log_ignore("This plugin does not support", extend=True)  # a window without a screen
@pytest.mark.parametrize("points", [9, 18])
@pytest.mark.parametrize("action", DIALOGS)
def test_nothing_is_cut_off_in_any_dialog(draft, painted, monkeypatch, action: str, points: int) -> None:
    found: list[list[str]] = []

    def shown(dialog: QDialog) -> int:
        dialog.show()
        QTest.qWaitForWindowActive(dialog)
        found.append(faults(dialog, painted))
        dialog.hide()
        return 0

    monkeypatch.setattr(QDialog, "exec", shown)
    letter(draft, points)
    draft.actions_.by_id[action].trigger()
    assert found == [[]]


def test_the_check_sees_what_is_cut_off(draft: MainWindow, painted: PaintedTexts) -> None:
    """A window without its layouts' care: everything as it was at usual letters."""
    letter(draft, 18)
    draft.budgets.setFixedHeight(10)
    draft.side.findings.mend.setFixedWidth(20)
    draft.grab()
    assert any("mendAll" in said for said in cut_off(draft))
    assert any("BudgetBar" in said for said in painted.bad)


@pytest.mark.parametrize("points", [9, 18])
def test_a_drop_down_with_room_for_its_text_shows_all_of_it(draft: MainWindow, monkeypatch, points) -> None:
    """Painted as the toolkit does, it is as if the room had been asked for."""
    letter(draft, points)
    field = fields.choice("size", "", [("a", "as the parts are")], "a", lambda _: None)
    field.setParent(draft)
    room = field.fontMetrics().horizontalAdvance("as the parts are") + lettering.px(fields.AROUND)
    for more in (1, 2, 9, 40):
        field.resize(room + more, field.sizeHint().height())
        plainly = field.grab().toImage()
        with monkeypatch.context() as patched:
            patched.setattr(fields, "AROUND", 10**6)
            assert field.grab().toImage() == plainly


def test_the_desktop_s_letters_are_taken_when_they_change(draft: MainWindow, monkeypatch) -> None:
    assert draft.font().family() == brush.FAMILY, "where no desktop says anything they are our own"
    high = draft.budgets.height()
    monkeypatch.setattr(QFontDatabase, "systemFont", lambda _: QFont("DejaVu Serif", 15))
    QApplication.sendEvent(draft, QEvent(QEvent.Type.ThemeChange))
    assert (draft.font().family(), draft.font().pixelSize()) == ("DejaVu Serif", 20)
    assert draft.bar.search.font().pixelSize() == 20
    assert draft.budgets.height() > 1.4 * high, "what is painted grows along"
    draft.set_letters("9")
    assert (draft.font().family(), draft.font().pixelSize()) == (brush.FAMILY, 12)
    QApplication.sendEvent(draft, QEvent(QEvent.Type.ThemeChange))
    assert draft.font().pixelSize() == 12, "who has chosen keeps the choice"


def test_letters_beyond_what_the_layout_holds_are_brought_within(monkeypatch) -> None:
    for said, pixels in ((4, 12), (9.5, 13), (40, 24)):
        font = QFont("DejaVu Sans")
        font.setPointSizeF(said)
        monkeypatch.setattr(QFontDatabase, "systemFont", lambda _, font=font: font)
        assert lettering.of_desktop() == lettering.Letters("DejaVu Sans", pixels)


def test_a_desktop_that_wants_contrast_gets_it(draft: MainWindow, monkeypatch) -> None:
    draft.set_look("system")
    for dark, strong, palette in (
        (False, True, LIGHT_STRONG),
        (True, True, DARK_STRONG),
        (True, False, DARK),
        (False, False, LIGHT),
    ):
        monkeypatch.setattr(theme, "desktop_is_dark", lambda dark=dark: dark)
        monkeypatch.setattr(theme, "desktop_wants_contrast", lambda strong=strong: strong)
        QApplication.sendEvent(draft, QEvent(QEvent.Type.ThemeChange))
        assert draft.palette_now == palette and draft.loom.p == palette
    draft.set_look("dark-strong")
    QApplication.sendEvent(draft, QEvent(QEvent.Type.ThemeChange))
    assert draft.palette_now == DARK_STRONG, "who has chosen keeps the choice"


def test_nothing_moves_by_itself_and_no_button_has_a_picture(draft: MainWindow) -> None:
    assert not any(QApplication.isEffectEnabled(effect) for effect in theme.MOTIONS)
    sources = [path.read_text("utf-8") for path in Path(theme.__file__).parent.rglob("*.py")]
    for moving in ("Animation(", "QTimeLine", "QProgressBar", "QMovie"):
        assert not any(moving in text for text in sources), moving
    box = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
    hint = QStyle.StyleHint.SH_DialogButtonBox_ButtonsHaveIcons
    assert not box.style().styleHint(hint, None, box)
    assert all(button.icon().isNull() for button in box.buttons())
    box.deleteLater()

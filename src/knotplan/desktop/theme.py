"""Our look as Qt's palette, fonts and style sheet."""

from collections.abc import Callable
from pathlib import Path
from string import Template

from msgspec.structs import fields
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from knotplan.core.drawing.palette import DARK, DARK_STRONG, LIGHT, LIGHT_STRONG, Palette
from knotplan.desktop import lettering

HERE = Path(__file__).parent


def load_fonts() -> None:
    """The interface font ships with the program, so that it looks alike everywhere."""
    for file in ("Inter-Regular.otf", "Inter-SemiBold.otf"):
        QFontDatabase.addApplicationFont(str(HERE / "fonts" / file))
    lettering.take(lettering.Letters())


def desktop_is_dark() -> bool:
    """What the desktop says now."""
    return QApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark


def desktop_wants_contrast() -> bool:
    """What the desktop says now."""
    hints = QApplication.styleHints()  # held, or what it gives goes with it
    return hints.accessibility().contrastPreference() == Qt.ContrastPreference.HighContrast


PALETTES = {"light": LIGHT, "dark": DARK, "light-strong": LIGHT_STRONG, "dark-strong": DARK_STRONG}


def palette_for(choice: str) -> Palette:
    """The colours of one of `PALETTES` or, for "system", what the desktop says."""
    if choice not in PALETTES:
        shade = "dark" if desktop_is_dark() else "light"
        choice = f"{shade}-strong" if desktop_wants_contrast() else shade
    return PALETTES[choice]


def when_the_desktop_changes(do: Callable[[], object]) -> None:
    """Calls when the desktop becomes light or dark, or wants more contrast or less."""
    hints = QApplication.styleHints()
    hints.colorSchemeChanged.connect(do)
    hints.accessibility().contrastPreferenceChanged.connect(do)


def keep_calm(app: QApplication) -> None:
    """Nothing moves by itself: who wants less motion has nothing to set."""
    for effect in MOTIONS:
        app.setEffectEnabled(effect, False)


MOTIONS = (
    Qt.UIEffect.UI_AnimateMenu,
    Qt.UIEffect.UI_FadeMenu,
    Qt.UIEffect.UI_AnimateCombo,
    Qt.UIEffect.UI_AnimateTooltip,
    Qt.UIEffect.UI_FadeTooltip,
    Qt.UIEffect.UI_AnimateToolBox,
)


_now: list[Palette] = [LIGHT]


def current() -> Palette:
    """The colours that the application has."""
    return _now[0]


def apply(p: Palette) -> None:
    """Gives the whole application these colours."""
    _now[0] = p
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    q = QPalette()
    roles = {
        QPalette.ColorRole.Window: p.cloth,
        QPalette.ColorRole.WindowText: p.ink,
        QPalette.ColorRole.Base: p.card,
        QPalette.ColorRole.AlternateBase: p.cloth,
        QPalette.ColorRole.Text: p.ink,
        QPalette.ColorRole.Button: p.card,
        QPalette.ColorRole.ButtonText: p.ink,
        QPalette.ColorRole.Highlight: p.active,
        QPalette.ColorRole.HighlightedText: p.card,
        QPalette.ColorRole.ToolTipBase: p.inverse,
        QPalette.ColorRole.ToolTipText: p.inverse_text,
        QPalette.ColorRole.PlaceholderText: p.faint,
        QPalette.ColorRole.Link: p.active,
    }
    for role, value in roles.items():
        q.setColor(role, QColor(value))
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText, QPalette.ColorRole.WindowText):
        q.setColor(QPalette.ColorGroup.Disabled, role, QColor(p.faint))
    app.setPalette(q)
    app.setStyleSheet(_sheet(p))


def _sheet(p: Palette) -> str:
    arrow = (HERE / "icons" / ("down-dark.svg" if p in (DARK, DARK_STRONG) else "down-light.svg")).as_posix()
    colours = {f.name: getattr(p, f.name) for f in fields(p)}
    sheet = Template((HERE / "look.qss").read_text("utf-8")).substitute(colours, arrow=arrow)
    return lettering.in_sheet(sheet)

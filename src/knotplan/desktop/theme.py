"""Our look as Qt's palette, fonts and style sheet."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from knotplan.core.loom.palette import DARK, LIGHT, Palette
from knotplan.desktop.paint import FAMILY

FONTS = Path(__file__).parent / "fonts"
ICONS = Path(__file__).parent / "icons"


def load_fonts() -> None:
    """The interface font ships with the program, so that it looks alike everywhere."""
    for file in ("Inter-Regular.otf", "Inter-SemiBold.otf"):
        QFontDatabase.addApplicationFont(str(FONTS / file))
    font = QFont(FAMILY)
    font.setPixelSize(13)
    QApplication.setFont(font)


def palette_for(choice: str) -> Palette:
    """The colours of "light", "dark" or, for "system", what the desktop says."""
    if choice == "system":
        scheme = QApplication.styleHints().colorScheme()
        choice = "dark" if scheme == Qt.ColorScheme.Dark else "light"
    return DARK if choice == "dark" else LIGHT


def apply(p: Palette) -> None:
    """Gives the whole application these colours."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    q = QPalette()
    roles = {
        QPalette.ColorRole.Window: p.cloth, QPalette.ColorRole.WindowText: p.ink, QPalette.ColorRole.Base: p.card,
        QPalette.ColorRole.AlternateBase: p.cloth, QPalette.ColorRole.Text: p.ink, QPalette.ColorRole.Button: p.card,
        QPalette.ColorRole.ButtonText: p.ink, QPalette.ColorRole.Highlight: p.active,
        QPalette.ColorRole.HighlightedText: p.card, QPalette.ColorRole.ToolTipBase: p.inverse,
        QPalette.ColorRole.ToolTipText: p.inverse_text, QPalette.ColorRole.PlaceholderText: p.faint,
        QPalette.ColorRole.Link: p.active,
    }  # fmt: skip
    for role, value in roles.items():
        q.setColor(role, QColor(value))
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText, QPalette.ColorRole.WindowText):
        q.setColor(QPalette.ColorGroup.Disabled, role, QColor(p.faint))
    app.setPalette(q)
    app.setStyleSheet(_sheet(p))


def _sheet(p: Palette) -> str:
    arrow = (ICONS / ("down-dark.svg" if p is DARK else "down-light.svg")).as_posix()
    return f"""
QToolTip {{ background: {p.inverse}; color: {p.inverse_text}; border: 0; padding: 6px 8px; }}
#bar {{ background: {p.card}; border-bottom: 1px solid {p.edge}; }}
#rail {{ background: {p.cloth}; border-right: 1px solid {p.edge}; }}
#side, #side QScrollArea, #side QScrollArea > QWidget > QWidget {{ background: {p.card}; }}
#planTitle {{ font-size: 16px; font-weight: 600; border: 1px solid transparent; background: transparent; padding: 2px 4px; }}
#planTitle:hover, #planTitle:focus {{ border: 1px solid {p.edge}; border-radius: 5px; background: {p.card}; }}
QLabel[tone="faint"] {{ color: {p.faint}; }}
QLabel[tone="head"] {{ font-size: 15px; font-weight: 600; }}
QLabel[tone="strong"] {{ font-weight: 600; }}
QLabel[tone="stop"] {{ color: {p.stop}; font-weight: 600; }}
QLabel[tone="care"] {{ color: {p.care_text}; font-weight: 600; }}
QPushButton {{ background: {p.card}; border: 1px solid {p.edge}; border-radius: 6px; padding: 5px 11px; color: {p.ink}; }}
QPushButton:hover {{ border-color: {p.active}; }}
QPushButton:focus {{ border: 2px solid {p.active}; padding: 4px 10px; }}
QPushButton:disabled {{ color: {p.faint}; }}
QPushButton[kind="main"] {{ background: {p.active}; color: {p.card}; border-color: {p.active}; font-weight: 600; }}
QPushButton[kind="remedy"] {{ background: {p.active_soft}; color: {p.active}; border-color: {p.active_soft}; text-align: left; padding: 4px 10px; font-weight: 600; }}
QPushButton[kind="remedy"]:hover, QPushButton[kind="remedy"]:focus {{ border-color: {p.active}; }}
QPushButton[kind="quiet"] {{ background: transparent; border-color: transparent; color: {p.faint}; padding: 3px 7px; }}
QPushButton[kind="quiet"]:hover, QPushButton[kind="quiet"]:focus {{ color: {p.active}; border-color: {p.edge}; }}
QPushButton[kind="segment"] {{ padding: 4px 10px; }}
QPushButton[kind="segment"]:checked {{ background: {p.active}; color: {p.card}; border-color: {p.active}; font-weight: 600; }}
QPushButton[kind="chip"]:checked {{ background: {p.active_soft}; color: {p.active}; border-color: {p.active}; font-weight: 600; }}
QPushButton[kind="chip"] {{ border-radius: 13px; padding: 4px 13px; }}
QLineEdit, QComboBox, QPlainTextEdit {{ background: {p.card}; border: 1px solid {p.edge}; border-radius: 6px; padding: 4px 8px; color: {p.ink}; selection-background-color: {p.active}; selection-color: {p.card}; }}
QLineEdit:focus, QComboBox:focus, QPlainTextEdit:focus {{ border: 2px solid {p.active}; padding: 3px 7px; }}
QComboBox::drop-down {{ border: 0; width: 22px; }}
QComboBox::down-arrow {{ image: url({arrow}); width: 12px; height: 12px; }}
QListWidget::item {{ padding: 5px 8px; border-radius: 6px; color: {p.ink}; }}
QListWidget::item:selected {{ background: {p.active_soft}; color: {p.ink}; }}
#inspector, #findings {{ border-left: 1px solid {p.edge}; }}
QComboBox QAbstractItemView {{ background: {p.card}; color: {p.ink}; selection-background-color: {p.active_soft}; selection-color: {p.ink}; border: 1px solid {p.edge}; }}
QListWidget {{ background: {p.card}; border: 1px solid {p.edge}; border-radius: 6px; outline: 0; }}
QListWidget#offers, QListWidget#leadsFor {{ border: 0; }}
QMenuBar {{ background: {p.card}; color: {p.ink}; }}
QMenuBar::item {{ padding: 4px 9px; background: transparent; }}
QMenuBar::item:selected, QMenu::item:selected {{ background: {p.active_soft}; color: {p.ink}; }}
QMenu {{ background: {p.card}; border: 1px solid {p.edge}; padding: 4px; color: {p.ink}; }}
QMenu::item {{ padding: 5px 26px 5px 22px; }}
QMenu::item:disabled {{ color: {p.faint}; }}
QMenu::separator {{ height: 1px; background: {p.edge}; margin: 4px 8px; }}
QFrame[kind="finding"] {{ background: {p.card}; border: 1px solid {p.edge}; border-radius: 8px; }}
QFrame[kind="finding"][chosen="true"] {{ border: 2px solid {p.active}; }}
QFrame[kind="preview"] {{ background: {p.active_soft}; border: 0; border-radius: 6px; }}
QFrame[kind="rule"] {{ background: {p.edge}; border: 0; }}
QFrame#popup {{ background: {p.card}; border: 1px solid {p.active}; border-radius: 8px; }}
QFrame#toast {{ background: {p.inverse}; border-radius: 8px; }}
QFrame#toast QLabel {{ color: {p.inverse_text}; }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
QScrollBar::handle:vertical {{ background: {p.edge}; border-radius: 4px; min-height: 28px; margin: 1px 2px; }}
QScrollBar::handle:vertical:hover {{ background: {p.faint}; }}
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; height: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; }}
QScrollBar::handle:horizontal {{ background: {p.edge}; border-radius: 4px; min-width: 28px; margin: 2px 1px; }}
QScrollArea {{ border: 0; }}
"""

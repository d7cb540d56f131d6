"""Tooltips say what files say, as plain text: the toolkit would take
whatever looks like markup for markup."""

from html import escape

from PySide6.QtGui import Qt


def tip_text(text: str) -> str:
    """The text of a tooltip, shown to the letter."""
    if not Qt.mightBeRichText(text):
        return text
    return f'<p style="white-space:pre-wrap">{escape(text)}</p>'


def tip_below(text: str, tip: str) -> str:
    """A text to the letter, and below it a tooltip as it is."""
    more = tip if Qt.mightBeRichText(tip) else escape(tip)
    return f"<p>{escape(text)}</p><p>{more}</p>"

"""What a view is to the window: its name, its question, its icon, and how it is made."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct
from PySide6.QtGui import QPainterPath, QResizeEvent
from PySide6.QtWidgets import QWidget

from knotplan.core.drawing.palette import Palette

if TYPE_CHECKING:
    from knotplan.desktop.desk import Desk

Icon = Callable[[QPainterPath, float, float], None]
"""puts an icon about thirty pixels wide around a middle into a path"""


class Page(QWidget):
    """The widget of a view."""

    def set_palette(self, palette: Palette) -> None:
        """Takes other colours; what paints nothing by hand has nothing to do."""

    def fill_screen(self) -> bool:
        """Fills the whole screen in a way of its own; false where it has none."""
        return False

    def suit(self) -> None:
        """Shares its width out anew: the page or the letters have another size."""

    @property
    def room(self) -> int:
        """The width that can be seen at once, pixels."""
        holder = self.parentWidget()
        return holder.width() if holder else self.width()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.suit()


class View(Struct, frozen=True):
    """One entry of the rail and of the View menu."""

    id: str
    text: str
    """with the mark that menus need: "Po&wer" """
    keys: str
    question: str
    icon: Icon
    make: "Callable[[Desk], Page] | None" = None
    """makes the page when it is first looked at; nothing for the bench, which the window begins with"""

    @property
    def title(self) -> str:
        return self.text.replace("&", "")

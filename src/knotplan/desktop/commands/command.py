"""An action as one record: its words, its keys, what it does and when it can be done."""

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu

from knotplan.desktop.desk import Desk


def always(_: Desk) -> bool:
    return True


class Command(Struct, frozen=True):
    """A line of a menu."""

    id: str
    text: str
    """with the mark that menus need: "&Open …" """
    keys: str
    tip: str
    do: Callable[[Desk], object]
    enabled: Callable[[Desk], bool] = always
    now: Callable[[Desk], str] | None = None
    """its text, where that changes"""
    also: str = ""
    """other keys that do the same, where letters begin a name"""

    @property
    def name(self) -> str:
        """The text without the marks that menus need."""
        return self.text.replace("&", "").removesuffix(" …")


class Submenu(Struct, frozen=True):
    """A line of a menu that opens another one."""

    id: str
    text: str
    tip: str
    fill: Callable[[QMenu, Desk], None]
    changes: bool = False
    """what is in it is put together anew whenever it opens"""
    enabled: Callable[[Desk], bool] = always


class Line(Struct, frozen=True):
    """A line between actions that belong together."""


class Menu(Struct, frozen=True):
    """A menu of the window."""

    title: str
    entries: tuple[Command | Submenu | Line, ...]

    @property
    def commands(self) -> list[Command]:
        return [entry for entry in self.entries if isinstance(entry, Command)]


LINE = Line()


def add_entry(menu: QMenu, text: str, do: Callable[[], object]) -> QAction:
    """A line of a submenu."""
    action = menu.addAction(text)
    # not connected itself: the signal brings a state along that `do` does not take
    action.triggered.connect(lambda _=False: do())
    return action

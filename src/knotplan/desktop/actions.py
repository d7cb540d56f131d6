"""The window's actions, made of the records of `commands`."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from knotplan.desktop.commands import CONTEXT, MENUS
from knotplan.desktop.commands.command import Command, Submenu, always
from knotplan.desktop.desk import Desk


class Actions:
    """Made once for a window."""

    def __init__(self, window: QMainWindow, menus: list[QMenu], desk: Desk):
        self._window, self._desk = window, desk
        self.by_id: dict[str, QAction] = {}
        self.submenus: dict[str, QMenu] = {}
        self._commands: list[Command] = []
        self._opened: list[Submenu] = []
        for menu, record in zip(menus, MENUS, strict=True):
            menu.setToolTipsVisible(True)
            for entry in record.entries:
                if isinstance(entry, Command):
                    menu.addAction(self._action(entry))
                elif isinstance(entry, Submenu):
                    self._submenu(menu, entry)
                else:
                    menu.addSeparator()

    def _action(self, command: Command) -> QAction:
        action = QAction(command.text, self._window)
        action.setObjectName(command.id)
        action.setToolTip(command.tip)
        action.setStatusTip(command.tip)
        if command.keys:
            action.setShortcuts([QKeySequence(keys) for keys in (command.keys, command.also) if keys])
        if command.keys == "Space":  # elsewhere it presses what has the keyboard
            action.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        action.triggered.connect(lambda _=False: command.do(self._desk))
        self.by_id[command.id] = action
        self._commands.append(command)
        return action

    def _submenu(self, menu: QMenu, entry: Submenu) -> None:
        submenu = menu.addMenu(entry.text)
        submenu.setToolTip(entry.tip)
        self.submenus[entry.id] = submenu
        self._opened.append(entry)
        if entry.changes:
            submenu.aboutToShow.connect(lambda: self.fill(entry))
        self.fill(entry)

    def fill(self, entry: Submenu) -> None:
        """Puts a submenu together anew."""
        menu = self.submenus[entry.id]
        menu.clear()
        entry.fill(menu, self._desk)

    def refresh(self) -> None:
        """Which actions make sense for what is selected, and how they are called now."""
        for command in self._commands:
            action = self.by_id[command.id]
            if command.enabled is not always:
                action.setEnabled(command.enabled(self._desk))
            if command.now is not None:
                action.setText(command.now(self._desk))
        for entry in self._opened:
            if entry.enabled is not always:
                self.submenus[entry.id].setEnabled(entry.enabled(self._desk))

    def context_menu(self, at: QPoint) -> None:
        """What can be done with the thing under the pointer."""
        menu, kind = QMenu(self._window), self._desk.session.selection.kind
        for name in CONTEXT[kind]:
            menu.addAction(self.by_id[name])
        for name in ("colour", "bead", "place"):
            if self.submenus[name].isEnabled() and kind:
                menu.addMenu(self.submenus[name])
        menu.exec(at)
        menu.deleteLater()

    def all(self) -> list[QAction]:
        return list(self.by_id.values())

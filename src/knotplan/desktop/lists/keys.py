"""Keys that a list takes for itself, before they are commands of the window."""

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractItemView


class ListKeys(QObject):
    """`takes` says which keys, `act` does what they are for."""

    def __init__(self, view: QAbstractItemView):
        super().__init__(view)
        self.view = view
        view.installEventFilter(self)

    def takes(self, event: QKeyEvent) -> bool:
        raise NotImplementedError

    def act(self, event: QKeyEvent) -> None:
        raise NotImplementedError

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QKeyEvent) or not self.takes(event):
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # or the window's command is done instead
            return False
        if event.type() != QEvent.Type.KeyPress:
            return False
        self.act(event)
        return True

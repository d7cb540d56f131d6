"""Who types in a list sees only what has these words."""

from collections.abc import Iterator

from PySide6.QtCore import QEvent, QModelIndex, QObject, Qt
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent, QKeyEvent
from PySide6.QtWidgets import QAbstractItemView, QLabel, QLineEdit
from shiboken6 import isValid

from knotplan.desktop.lists.keys import ListKeys
from knotplan.desktop.lists.rows import columns_of, every_row, hide, is_hidden, words_of

MOST = 60
"""letters of a filter"""
HELD = (
    Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
)


def is_letter(event: QKeyEvent, begun: str) -> bool:
    """Something is typed, and no command given. A first blank is none: it ticks, or marks; nor a first "/",
    which finds anything anywhere."""
    typed = event.text()
    if not typed or not typed.isprintable() or event.modifiers() & HELD:
        return False
    return bool(begun) or typed not in (" ", "/")


class TypedInto(ListKeys):
    """Who types in a list types into the field that filters it."""

    def __init__(self, view: QAbstractItemView, field: QLineEdit):
        super().__init__(view)
        self.field = field

    def takes(self, event: QKeyEvent) -> bool:
        return is_letter(event, self.field.text())

    def act(self, event: QKeyEvent) -> None:
        self.field.setFocus()
        self.field.setText(self.field.text() + event.text())
        self.field.textEdited.emit(self.field.text())


class TypedFilter(ListKeys):
    """Letters narrow the list, Backspace widens it, Escape shows all. What was typed is shown below."""

    def __init__(self, view: QAbstractItemView, follow: bool = True):
        super().__init__(view)
        self.text, self._follow = "", follow
        self._note = QLabel(view)
        self._note.setObjectName("bubble")
        self._note.setTextFormat(Qt.TextFormat.PlainText)
        self._note.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._note.hide()
        model = view.model()
        for changed in (model.modelReset, model.rowsInserted, model.layoutChanged):
            changed.connect(self._again)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self._place()
        return super().eventFilter(watched, event)

    def takes(self, event: QKeyEvent) -> bool:
        if event.key() in (Qt.Key.Key_Backspace, Qt.Key.Key_Escape):
            return bool(self.text)
        return is_letter(event, self.text)

    def act(self, event: QKeyEvent) -> None:
        match event.key():
            case Qt.Key.Key_Escape:
                self.show_all()
            case Qt.Key.Key_Backspace:
                self._narrow(self.text[:-1])
            case _:
                self._narrow((self.text + event.text())[:MOST])

    def show_all(self) -> None:
        """No filter any more."""
        self._narrow("")

    def _narrow(self, text: str) -> None:
        self.text = text
        self._apply()
        at = self.view.currentIndex()
        if self._follow and (not at.isValid() or is_hidden(self.view, at)):
            self._to_first()
        self._say()

    def _again(self) -> None:
        """The list has other rows."""
        if self.text and isValid(self.view):  # a list that goes empties itself first
            self._apply()
            self._say()

    def _apply(self) -> None:
        model, columns, wanted = self.view.model(), columns_of(self.view), self.text.casefold().split()
        kept: set[QModelIndex] = set()
        rows = list(every_row(model))
        for at in rows:
            said = " ".join(words_of(self.view, at, columns)).casefold()
            if all(word in said for word in wanted):
                kept.update(_with_those_above(at))
        for at in rows:
            hide(self.view, at, at not in kept)

    def _to_first(self) -> None:
        first = next((at for at in every_row(self.view.model()) if not is_hidden(self.view, at)), None)
        if first is not None:
            self.view.setCurrentIndex(first)

    def _say(self) -> None:
        self._note.setVisible(bool(self.text))
        if not self.text:
            return
        left = sum(not is_hidden(self.view, at) for at in every_row(self.view.model()))
        words = f"{left} with “{self.text}”   Esc shows all"
        self._note.setText(words)
        self._place()
        QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(self.view, words))

    def _place(self) -> None:
        self._note.adjustSize()
        room = self.view.rect()
        wide = min(self._note.width(), room.width() - 8)
        self._note.setGeometry(
            room.right() - wide - 4, room.bottom() - self._note.height() - 4, wide, self._note.height()
        )
        self._note.raise_()


def _with_those_above(at: QModelIndex) -> Iterator[QModelIndex]:
    """A row of a tree, and all that it hangs on."""
    while at.isValid():
        yield at
        at = at.parent()

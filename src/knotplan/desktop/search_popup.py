"""The list below the search field."""

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QFrame, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from knotplan.desktop.search import Entry
from knotplan.desktop.tips import tip_text


class SearchPopup(QFrame):
    """What was found, over everything else; the keyboard stays in the field."""

    chosen = Signal(object)

    def __init__(self, window: QWidget):
        super().__init__(window)
        self.setObjectName("popup")
        self.list = QListWidget()
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setAccessibleName("Found")
        self.list.itemClicked.connect(lambda item: self.chosen.emit(item.data(Qt.ItemDataRole.UserRole)))
        box = QVBoxLayout(self)
        box.setContentsMargins(6, 6, 6, 6)
        box.addWidget(self.list)
        self.hide()

    def show_entries(self, entries: list[Entry], nothing: str, at: QPoint, wide: int) -> None:
        """Shows entries at a place in the window; `nothing` where there are none."""
        self.list.clear()
        for entry in entries:
            item = QListWidgetItem(entry.text)
            item.setData(Qt.ItemDataRole.UserRole, entry)
            item.setToolTip(tip_text(entry.text))
            self.list.addItem(item)
        if not entries:
            item = QListWidgetItem(nothing)
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        tall = sum(self.list.sizeHintForRow(k) for k in range(self.list.count())) + 18
        self.setGeometry(at.x(), at.y(), wide, tall)
        self.raise_()
        self.show()

    def current(self) -> Entry | None:
        """The highlighted entry."""
        item = self.list.currentItem() if self.isVisible() else None
        data = item.data(Qt.ItemDataRole.UserRole) if item else None
        return data if isinstance(data, Entry) else None

    def step(self, by: int) -> None:
        self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + by)))

    def entries(self) -> list[Entry]:
        """What is shown."""
        items = (self.list.item(k).data(Qt.ItemDataRole.UserRole) for k in range(self.list.count()))
        return [e for e in items if isinstance(e, Entry)]

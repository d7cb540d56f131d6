"""The list below the search field, and beside it a picture of the part that would be added."""

from collections.abc import Sequence

from PySide6.QtCore import QMimeData, QPoint, Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QListWidget, QListWidgetItem, QWidget

from knotplan.desktop.part_drag import PART_MIME, Dragged, as_bytes
from knotplan.desktop.part_preview import PartPreview
from knotplan.desktop.search import Entry
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

MARGIN, TALLEST = 12, 520


class FoundList(QListWidget):
    """Entries; those of parts can be dragged onto the bench, or onto a pin."""

    def mimeData(self, items: Sequence[QListWidgetItem]) -> QMimeData:
        data = QMimeData()
        for item in items:
            entry = item.data(Qt.ItemDataRole.UserRole)
            if isinstance(entry, Entry) and entry.part is not None:
                offer = entry.part.offer
                what = Dragged(offer.part, offer.name, offer.params, entry.part.count)
                data.setData(PART_MIME, as_bytes(what))
                data.setText(offer.text)
        return data


class SearchPopup(QFrame):
    """What was found, over everything else; the keyboard stays in the field."""

    chosen = Signal(object)

    def __init__(self, session: Session, window: QWidget):
        super().__init__(window)
        self.setObjectName("popup")
        self.list = FoundList()
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setAccessibleName("Found")
        self.list.setDragEnabled(True)
        self.list.itemClicked.connect(lambda item: self.chosen.emit(item.data(Qt.ItemDataRole.UserRole)))
        self.list.currentRowChanged.connect(lambda _: self._picture())
        self.preview = PartPreview(session)
        box = QHBoxLayout(self)
        box.setContentsMargins(6, 6, 6, 6)
        box.addWidget(self.list, 1)
        box.addWidget(self.preview)
        self.hide()

    def show_entries(self, entries: list[Entry], nothing: str, at: QPoint, wide: int) -> None:
        """Shows entries below a place in the window; `nothing` where there are none."""
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
        parts = any(entry.part is not None for entry in entries)
        self.preview.setVisible(parts)
        self.list.setCurrentRow(0)
        rows = sum(self.list.sizeHintForRow(k) for k in range(self.list.count())) + 18
        window = self.parentWidget()
        room = (window.height() if window else TALLEST) - at.y() - MARGIN
        tall = min(max(rows, self.preview.minimumHeight() + 12 if parts else 0), TALLEST, room)
        more = self.preview.minimumWidth() if parts else 0
        left = max(MARGIN, at.x() - more)
        self.setGeometry(left, at.y(), wide + at.x() - left, tall)
        self.raise_()
        self.show()
        self._picture()

    def _picture(self) -> None:
        entry = self._entry()
        if self.preview.isVisibleTo(self):
            self.preview.show_part(entry.part if entry else None)

    def _entry(self) -> Entry | None:
        item = self.list.currentItem()
        data = item.data(Qt.ItemDataRole.UserRole) if item else None
        return data if isinstance(data, Entry) else None

    def current(self) -> Entry | None:
        """The highlighted entry."""
        return self._entry() if self.isVisible() else None

    def step(self, by: int) -> None:
        self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + by)))

    def entries(self) -> list[Entry]:
        """What is shown."""
        items = (self.list.item(k).data(Qt.ItemDataRole.UserRole) for k in range(self.list.count()))
        return [e for e in items if isinstance(e, Entry)]

"""A layout that puts widgets side by side, and goes on in another line where there is no room."""

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem

GAP = 6


class Flow(QLayout):
    """Each widget as large as it likes to be, or as wide as the line where it is wider than that."""

    def __init__(self) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._flow(QRect(0, 0, width, 0), place=False)

    def setGeometry(self, area: QRect) -> None:
        super().setGeometry(area)
        self._flow(area, place=True)

    def sizeHint(self) -> QSize:
        """All in one line."""
        hints = [item.sizeHint() for item in self._shown()]
        wide = sum(hint.width() for hint in hints) + GAP * max(0, len(hints) - 1)
        return QSize(wide, max((hint.height() for hint in hints), default=0))

    def minimumSize(self) -> QSize:
        """Each in a line of its own."""
        least = [item.minimumSize() for item in self._shown()]
        return QSize(max((s.width() for s in least), default=0), max((s.height() for s in least), default=0))

    def _shown(self) -> list[QLayoutItem]:
        return [item for item in self._items if not item.isEmpty()]

    def _flow(self, area: QRect, place: bool) -> int:
        """Puts everything in its place; returns the height that it takes."""
        y = area.y()
        for line in self._lines(area.width()):
            high = max(size.height() for _, size in line)
            x = area.x()
            for item, size in line:
                if place:
                    item.setGeometry(QRect(x, y + (high - size.height()) // 2, size.width(), size.height()))
                x += size.width() + GAP
            y += high + GAP
        return max(0, y - GAP - area.y())

    def _lines(self, room: int) -> list[list[tuple[QLayoutItem, QSize]]]:
        """What stands in each line, with its size."""
        lines: list[list[tuple[QLayoutItem, QSize]]] = []
        x = 0
        for item in self._shown():
            hint = item.sizeHint()
            size = QSize(min(hint.width(), max(room, item.minimumSize().width())), hint.height())
            if not lines or x + size.width() > room:
                lines.append([])
                x = 0
            lines[-1].append((item, size))
            x += size.width() + GAP
        return lines

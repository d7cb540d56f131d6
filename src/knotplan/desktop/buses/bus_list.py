"""The list of buses, each with what is on it and what the checks say."""

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from knotplan.core.buses.overview import Entry
from knotplan.core.loom.marks import severity
from knotplan.core.loom.palette import Palette
from knotplan.core.loom.shapes import Text, shortened
from knotplan.desktop.paint import colour, paint

ROW = 46
ENTRY = Qt.ItemDataRole.UserRole
KINDS = {"i2c": "I2C", "spi": "SPI", "uart": "UART", "line": "One line"}


class Delegate(QStyledItemDelegate):
    """Two lines, a mark for the gravest finding; branches behind switches stand further in."""

    def __init__(self, view: "BusList"):
        super().__init__(view)
        self.view = view

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(60, ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        entry, p = index.data(ENTRY), self.view.p
        area = QRectF(option.rect).adjusted(2, 1, -2, -1)
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(p.active_soft))
            painter.drawRoundedRect(area, 6, 6)
        left = area.left() + 10 + 16 * min(entry.depth, 3)
        room = area.width() - (left - area.left()) - (28 if entry.worst else 8)
        ink = p.ink if entry.parts else p.faint
        paint(painter, [Text(left, area.top() + 18, shortened(entry.title, 13, room, True), 13, ink, True),
                        Text(left, area.top() + 35, shortened(entry.under, 11.5, room), 11.5, p.faint)])  # fmt: skip
        if entry.worst:
            paint(painter, severity(area.right() - 14, area.center().y(), entry.worst, p, 8))
        painter.restore()


class BusList(QListWidget):
    """Remade when the plan changes; what is chosen stays chosen."""

    chosen = Signal(object)

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.setObjectName("buses")
        self.setAccessibleName("Buses")
        self.setItemDelegate(Delegate(self))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.currentItemChanged.connect(lambda now, _: self.chosen.emit(now.data(ENTRY) if now else None))

    def fill(self, entries: list[Entry]) -> None:
        """Anew; the first with a device is chosen where nothing was."""
        now = self.entry()
        self.blockSignals(True)
        self.clear()
        for e in entries:
            item = QListWidgetItem(e.title)
            item.setData(ENTRY, e)
            item.setToolTip(f"{KINDS[e.kind]}: {e.title}, {e.under}")
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{e.title}, {e.under}" + (f", {e.worst}" if e.worst else ""))
            self.addItem(item)
        ids = [e.id for e in entries]
        first = next((k for k, e in enumerate(entries) if e.parts), 0)
        self.setCurrentRow(ids.index(now.id) if now is not None and now.id in ids else first if entries else -1)
        self.blockSignals(False)
        self.chosen.emit(self.entry())

    def entry(self) -> Entry | None:
        item = self.currentItem()
        found = item.data(ENTRY) if item is not None else None
        return found if isinstance(found, Entry) else None

    def choose(self, bus_id: str) -> None:
        for k in range(self.count()):
            if self.item(k).data(ENTRY).id == bus_id:
                self.setCurrentRow(k)

"""The list of buses, each with what is on it and what the checks say."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem

from knotplan.core.drawing.palette import Palette
from knotplan.core.text.buses import Entry
from knotplan.desktop.panels.two_lines import Index, TwoLineRow, TwoLines
from knotplan.desktop.tips import tip_text

ENTRY = Qt.ItemDataRole.UserRole
KINDS = {"i2c": "I2C", "spi": "SPI", "uart": "UART", "line": "One line"}


def _row(index: Index) -> TwoLineRow:
    """A mark for the gravest finding; branches behind switches stand further in."""
    e: Entry = index.data(ENTRY)
    return TwoLineRow(e.title, e.under, e.depth, not e.parts, e.worst or None)


class BusList(QListWidget):
    """Remade when the plan changes; what is chosen stays chosen."""

    chosen = Signal(object)

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.setObjectName("buses")
        self.setAccessibleName("Buses")
        self.setItemDelegate(TwoLines(self, lambda: self.p, _row))
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
            item.setToolTip(tip_text(f"{KINDS[e.kind]}: {e.title}, {e.under}"))
            item.setData(
                Qt.ItemDataRole.AccessibleTextRole,
                f"{e.title}, {e.under}" + (f", {e.worst}" if e.worst else ""),
            )
            self.addItem(item)
        ids = [e.id for e in entries]
        row = next((k for k, e in enumerate(entries) if e.parts), 0 if entries else -1)
        if now is not None and now.id in ids:
            row = ids.index(now.id)
        self.setCurrentRow(row)
        self.blockSignals(False)
        self.chosen.emit(self.entry())

    def entry(self) -> Entry | None:
        item = self.currentItem()
        data = item.data(ENTRY) if item is not None else None
        return data if isinstance(data, Entry) else None

    def choose(self, bus_id: str) -> None:
        for k in range(self.count()):
            if self.item(k).data(ENTRY).id == bus_id:
                self.setCurrentRow(k)

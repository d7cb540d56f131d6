"""The way back as a list: every step by its name, the one that the plan is at marked."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QListWidget, QVBoxLayout, QWidget

from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import label
from knotplan.desktop.session import Session

BEGINNING = "as it was opened"


class HistoryDialog(QDialog):
    """A step that is picked is gone to at once; later steps stay until something else is done."""

    def __init__(self, session: Session, parent: QWidget | None = None):
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("History")
        self.resize(420, 460)
        down = QVBoxLayout(self)
        down.addWidget(label("Pick a step to go back or forward to it. Nothing is lost by that.", "faint"))
        self.list = QListWidget()
        self.list.setAccessibleName("Steps, the first one on top")
        down.addWidget(self.list, 1)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        close.rejected.connect(self.reject)
        down.addWidget(close)
        titles, at = session.history()
        for title in (BEGINNING, *titles):
            self.list.addItem(title)
        equip(self.list, follow=False)
        self._mark(at)
        self.list.setCurrentRow(at)
        self.list.scrollToItem(self.list.item(at))
        self.list.currentRowChanged.connect(self._go)
        self.list.setFocus()

    def _go(self, step: int) -> None:
        self.session.go_to(step)
        self._mark(step)

    def _mark(self, at: int) -> None:
        """Steps that are not made now are pale."""
        for k in range(self.list.count()):
            item = self.list.item(k)
            item.setForeground(self.palette().placeholderText() if k > at else self.palette().text())
            font = item.font()
            font.setBold(k == at)
            item.setFont(font)
            item.setData(Qt.ItemDataRole.AccessibleDescriptionRole, "now" if k == at else "")

"""One of a few: buttons side by side where there is room, else a list to pick from."""

from collections.abc import Sequence

from msgspec import Struct
from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from knotplan.desktop.panels.fields import choice
from knotplan.desktop.tips import tip_text


class Segment(Struct, frozen=True):
    """One of them."""

    id: str
    text: str
    says: str
    """for those who cannot see it"""
    tip: str


class Segments(QWidget):
    """The buttons are `buttons`, the list is `picked`; one of the two is shown."""

    chosen = Signal(str)

    def __init__(self, name: str, says: str, tip: str, kind: str, spacing: int):
        super().__init__()
        self._kind = kind
        self.buttons = QWidget(self)
        self._row = QHBoxLayout(self.buttons)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(spacing)
        self.group = QButtonGroup(self)
        self.picked = choice(name, tip, (), "", self.chosen.emit)
        self.picked.setAccessibleName(says)
        self.picked.setParent(self)
        self.picked.hide()
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def fill(self, segments: Sequence[Segment]) -> None:
        """Other ones than before."""
        for old in self.group.buttons():
            self.group.removeButton(old)
            self._row.removeWidget(old)
            old.hide()
            old.deleteLater()
        self.picked.clear()
        for s in segments:
            button = QPushButton(s.text)
            button.setCheckable(True)
            button.setProperty("kind", self._kind)
            button.setProperty("segment", s.id)
            button.setAccessibleName(s.says)
            button.setToolTip(tip_text(s.tip))
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, k=s.id: self.chosen.emit(k))
            self.picked.addItem(s.text, s.id)
            self.group.addButton(button)
            self._row.addWidget(button)
            button.show()  # one that is not shown yet has no size to fit
        self.updateGeometry()
        self._fit()

    def choose(self, segment: str) -> None:
        """Shows which one it is."""
        for made in self.group.buttons():
            made.setChecked(made.property("segment") == segment)
        self.picked.setCurrentIndex(self.picked.findData(segment))

    def sizeHint(self) -> QSize:
        wide, narrow = self.buttons.sizeHint(), self.picked.sizeHint()
        return QSize(max(wide.width(), narrow.width()), max(wide.height(), narrow.height()))

    def minimumSizeHint(self) -> QSize:
        return QSize(self.picked.minimumSizeHint().width(), self.sizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        fits = self.buttons.sizeHint().width() <= self.width()
        self.buttons.setVisible(fits)
        self.picked.setVisible(not fits)
        shown = self.buttons if fits else self.picked
        wide = min(self.width(), shown.sizeHint().width())
        high = shown.sizeHint().height()
        shown.setGeometry(0, (self.height() - high) // 2, wide, high)

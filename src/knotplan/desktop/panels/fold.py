"""A line that opens into more; what was open stays open when the panel is remade."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QToolButton, QWidget

from knotplan.desktop.panels.fields import column_in
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text


class Fold(QWidget):
    """`make` gives what is inside, when it is first looked at."""

    def __init__(self, session: Session, name: str, text: str, tip: str, make: Callable[[], QWidget]):
        super().__init__()
        self.session, self.name, self._make = session, name, make
        self.body: QWidget | None = None
        self.head = QToolButton()
        self.head.setObjectName(name)
        self.head.setText(text)
        self.head.setAccessibleName(text)
        self.head.setToolTip(tip_text(tip))
        self.head.setCheckable(True)
        self.head.setArrowType(Qt.ArrowType.RightArrow)
        self.head.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.head.setProperty("kind", "quiet")
        self._column = column_in(self, 4)
        self._column.addWidget(self.head)
        self.head.toggled.connect(self._open)
        self.head.setChecked(name in session.opened_values)

    def _open(self, on: bool) -> None:
        (self.session.opened_values.add if on else self.session.opened_values.discard)(self.name)
        self.head.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        if on and self.body is None:
            self.body = self._make()
            self._column.addWidget(self.body)
        if self.body is not None:
            self.body.setVisible(on)

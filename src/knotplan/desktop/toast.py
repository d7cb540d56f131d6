"""A message in passing, over the bench."""

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget

from knotplan.desktop import lettering


class Toast(QFrame):
    """Shows a text for as long as it takes to read it."""

    def __init__(self, window: QWidget):
        super().__init__(window)
        self._window = window
        self.setObjectName("toast")
        self.text = QLabel()
        self.text.setWordWrap(True)
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        QVBoxLayout(self).addWidget(self.text)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def tell(self, text: str) -> None:
        self.text.setText(text)
        self.setAccessibleName(text)
        self.setFixedWidth(
            min(lettering.px(60 + 8 * len(text)), lettering.px(560), self._window.width() - 40)
        )
        self.adjustSize()
        self.place()
        self.show()
        self.raise_()
        self._timer.start(5000 + 40 * len(text))

    def place(self) -> None:
        window = self._window
        self.move(QPoint((window.width() - self.width()) // 2, window.height() - self.height() - 100))

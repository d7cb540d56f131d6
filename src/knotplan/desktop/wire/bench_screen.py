"""The step on a whole screen, for hands that are full: nothing else in sight, and the screen stays awake."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent, QKeyEvent
from PySide6.QtWidgets import QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.desktop.panels.fields import column_in, label
from knotplan.desktop.wire.keep_awake import KeepAwake
from knotplan.desktop.wire.sheet import StepSheet


class BenchScreen(QWidget):
    """Space and Backspace as in the view; Escape or F11 leaves."""

    closed = Signal()

    def __init__(self, palette: Palette, owner: QWidget):
        super().__init__(owner, Qt.WindowType.Window)
        self.setObjectName("benchScreen")
        self.setWindowTitle("Wire up")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.sheet = StepSheet(palette, on_bench=True)
        self.awake = KeepAwake()
        self.said = label("", "faint")
        self.said.setObjectName("awake")
        down = column_in(self, 6)
        down.setContentsMargins(14, 14, 14, 8)
        down.addWidget(self.sheet, 1)
        down.addWidget(self.said)
        self.sheet.left.connect(self.close)

    def begin(self) -> None:
        """Shows it, and asks the desktop to keep the screen awake."""
        why = self.awake.begin()
        keys = "Space or a click: done, next. Backspace: back. Escape: leave."
        self.said.setText(f"{keys} {why or 'The screen stays awake.'}")
        self.showFullScreen()
        self.sheet.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_F11):
            self.close()
        else:
            super().keyPressEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.awake.end()
        self.closed.emit()
        super().closeEvent(event)

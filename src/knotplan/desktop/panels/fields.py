"""The few building blocks that panels share."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.quantity.written import QuantityError, parse, show
from knotplan.desktop.tips import tip_text


def label(text: str, tone: str = "", wrap: bool = True) -> QLabel:
    """A text; `tone` is "head", "strong", "faint", "stop" or "care"."""
    made = QLabel(text)
    made.setProperty("tone", tone)
    made.setWordWrap(wrap)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return made


def button(text: str, name: str, tip: str, do: Callable[[], object], kind: str = "") -> QPushButton:
    """A button with accessible name, tooltip and style."""
    made = QPushButton(text)
    made.setObjectName(name)
    made.setAccessibleName(text)
    made.setToolTip(tip_text(tip))
    made.setProperty("kind", kind)
    made.setAutoDefault(True)  # Enter presses it, as Space does
    made.clicked.connect(lambda _=False: do())
    return made


def tick(text: str, name: str, tip: str, on: bool, do: Callable[[bool], object]) -> QCheckBox:
    """A box to tick, with accessible name and tooltip."""
    made = QCheckBox(text)
    made.setObjectName(name)
    made.setAccessibleName(text)
    made.setToolTip(tip_text(tip))
    made.setChecked(on)
    made.clicked.connect(lambda now: do(now))  # noqa: PLW0108  (the toolkit leaves the state out where it is not a plain function)
    return made


def put_in(area: QScrollArea, made: QWidget) -> None:
    """Other contents for a scroll area. The old ones go later: the change
    may come from a press on one of them."""
    old = area.takeWidget()
    area.setWidget(made)
    if old is not None:
        old.hide()
        old.deleteLater()


def column_in(owner: QWidget, spacing: int = 0) -> QVBoxLayout:
    """A layout down a widget, without margins."""
    layout = QVBoxLayout(owner)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(spacing)
    return layout


def column(*widgets: QWidget, spacing: int = 0) -> QWidget:
    """Widgets one below another."""
    made = QWidget()
    layout = column_in(made, spacing)
    for w in widgets:
        layout.addWidget(w)
    return made


def line() -> QFrame:
    made = QFrame()
    made.setProperty("kind", "rule")
    made.setFixedHeight(1)
    return made


def row(*widgets: QWidget, stretch: int = -1) -> QWidget:
    """Widgets side by side; `stretch` says which one grows (none: a space at the end)."""
    made = QWidget()
    layout = QHBoxLayout(made)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(6)
    for k, w in enumerate(widgets):
        layout.addWidget(w, 1 if k == stretch else 0)
    if stretch < 0:
        layout.addStretch(1)
    return made


def form() -> QFormLayout:
    made = QFormLayout()
    made.setContentsMargins(0, 0, 0, 0)
    made.setHorizontalSpacing(10)
    made.setVerticalSpacing(6)
    made.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
    return made


def choice(
    name: str, tip: str, options: Sequence[tuple[str, str]], now: str, chosen: Callable[[str], object]
) -> QComboBox:
    """A drop-down of (value, text)."""
    made = QComboBox()
    made.setObjectName(name)
    made.setAccessibleName(name)
    made.setToolTip(tip_text(tip))
    made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    made.setMinimumContentsLength(6)  # a long choice does not widen the panel
    for value, text in options:
        made.addItem(text, value)
    made.setCurrentIndex(max(0, made.findData(now)))
    made.activated.connect(lambda k: chosen(str(made.itemData(k))))
    return made


class TextField(QLineEdit):
    """A line that reports once when it is done, and only what changed."""

    def __init__(self, name: str, tip: str, text: str, done: Callable[[str], object]):
        super().__init__(text)
        self.setObjectName(name)
        self.setAccessibleName(name)
        self.setToolTip(tip_text(tip))
        self.setCursorPosition(0)  # of a long text, its beginning is shown
        self._was, self._done = text, done
        self.editingFinished.connect(self._finish)

    def _finish(self) -> None:
        if self.text() != self._was:
            self._was = self.text()
            self._done(self.text())


class QuantityField(QWidget):
    """A number with a unit: takes 12m, 0.012, 4K7; what it cannot read it keeps, and says why."""

    def __init__(
        self,
        name: str,
        tip: str,
        value: float,
        unit: str,
        done: Callable[[float], object],
        least: float | None = None,
        most: float | None = None,
    ):
        super().__init__()
        self._unit, self._least, self._most, self._report = unit, least, most, done
        self.line = TextField(name, tip, show(value, unit), self._parse)
        self.why = label("", "stop")
        self.why.hide()
        layout = column_in(self, 2)
        layout.addWidget(self.line)
        layout.addWidget(self.why)

    def _parse(self, text: str) -> None:
        try:
            value = parse(text, self._unit)
            if self._least is not None and value < self._least:
                raise QuantityError(f"at least {show(self._least, self._unit)}")
            if self._most is not None and value > self._most:
                raise QuantityError(f"at most {show(self._most, self._unit)}")
        except QuantityError as error:
            self.why.setText(str(error))
            self.why.show()
            self._bring_into_view()
            return
        self.why.hide()
        self._report(value)

    def _bring_into_view(self) -> None:
        """What is wrong may lie below the edge of a small window."""
        above = self.parentWidget()
        while above is not None and not isinstance(above, QScrollArea):
            above = above.parentWidget()
        if above is not None:
            # once the new line has found its place
            QTimer.singleShot(0, self, lambda: above.ensureWidgetVisible(self.why))

"""The few building blocks that panels share."""

from collections.abc import Callable, Sequence
from typing import TypeVar

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QHelpEvent, QPaintEvent
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QCheckBox,
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.quantity.written import QuantityError, parse, show
from knotplan.desktop.lettering import px
from knotplan.desktop.panels.flow import Flow
from knotplan.desktop.tips import tip_below, tip_text


def label(text: str, tone: str = "", wrap: bool = True) -> QLabel:
    """A text; `tone` is "head", "strong", "faint", "stop" or "care"."""
    widget = QLabel(text)
    widget.setProperty("tone", tone)
    widget.setWordWrap(wrap)
    widget.setTextFormat(Qt.TextFormat.PlainText)
    widget.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return widget


def button(text: str, name: str, tip: str, do: Callable[[], object], kind: str = "") -> QPushButton:
    """A button with accessible name, tooltip and style."""
    widget = QPushButton(text)
    widget.setObjectName(name)
    widget.setAccessibleName(text)
    widget.setToolTip(tip_text(tip))
    widget.setProperty("kind", kind)
    widget.setAutoDefault(True)  # Enter presses it, as Space does
    widget.clicked.connect(lambda _=False: do())
    return widget


def tick(text: str, name: str, tip: str, on: bool, do: Callable[[bool], object]) -> QCheckBox:
    """A box to tick, with accessible name and tooltip."""
    box = QCheckBox(text)
    box.setObjectName(name)
    box.setAccessibleName(text)
    box.setToolTip(tip_text(tip))
    box.setChecked(on)
    box.clicked.connect(lambda now: do(now))  # noqa: PLW0108  (the toolkit leaves the state out where it is not a plain function)
    return box


def put_in(area: QScrollArea, contents: QWidget) -> None:
    """Other contents for a scroll area. The old ones go later: the change
    may come from a press on one of them."""
    old = area.takeWidget()
    area.setWidget(contents)
    if old is not None:
        old.hide()
        old.deleteLater()


def clear_layout(layout: QLayout) -> None:
    """Takes everything out of a layout. It goes later, for the same reason."""
    while (item := layout.takeAt(0)) is not None:
        old = item.widget()
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
    widget = QWidget()
    layout = column_in(widget, spacing)
    for w in widgets:
        layout.addWidget(w)
    return widget


class Given(QWidget):
    """Takes the height that there is. Otherwise wrapped lines in it make what scrolls it as high as
    everything in it would like to be."""

    def hasHeightForWidth(self) -> bool:
        return False


def line() -> QFrame:
    frame = QFrame()
    frame.setProperty("kind", "rule")
    frame.setFixedHeight(1)
    return frame


def row(*widgets: QWidget, stretch: int = -1) -> QWidget:
    """Widgets side by side; `stretch` says which one grows. Without it they go on in another line where there
    is no room."""
    widget = QWidget()
    if stretch < 0:
        flow = Flow()
        widget.setLayout(flow)
        for w in widgets:
            flow.addWidget(w)
        return widget
    layout = QHBoxLayout(widget)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(6)
    for k, w in enumerate(widgets):
        layout.addWidget(w, 1 if k == stretch else 0)
    return widget


class Form(QFormLayout):
    """Names beside fields; resting on a name explains it as resting on its field does."""

    def addRow(self, *parts: object) -> None:
        super().addRow(*parts)  # type: ignore[call-overload]
        if len(parts) == 2 and isinstance(parts[1], QWidget):
            name, field = self.labelForField(parts[1]), parts[1]
            tips = (w.toolTip() for w in (field, *field.findChildren(QWidget)))
            if name is not None and not name.toolTip():
                name.setToolTip(next((tip for tip in tips if tip), ""))


def form() -> QFormLayout:
    layout = Form()
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setHorizontalSpacing(10)
    layout.setVerticalSpacing(6)
    layout.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
    layout.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapLongRows)
    return layout


AROUND = 60
"""frame and arrow of a drop-down take no more, pixels at usual letters"""


class Picked(QComboBox):
    """A drop-down that says so where its text does not fit, and whose tooltip has the whole of it."""

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.fontMetrics().horizontalAdvance(self.currentText()) < self.width() - px(AROUND):
            super().paintEvent(event)
            return
        # the first picture does not come here, and the enumerations of a style take time to be made
        from PySide6.QtWidgets import QStyle, QStyleOptionComboBox, QStylePainter

        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        box, part = QStyle.ComplexControl.CC_ComboBox, QStyle.SubControl.SC_ComboBoxEditField
        room = self.style().subControlRect(box, option, part, self).width() - 4
        whole = option.currentText
        option.currentText = self.fontMetrics().elidedText(whole, Qt.TextElideMode.ElideRight, room)
        painter = QStylePainter(self)
        painter.drawComplexControl(box, option)
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
        painter.end()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), tip_below(self.currentText(), self.toolTip()), self)
            return True
        return super().event(event)


Spin = TypeVar("Spin", bound=QAbstractSpinBox)


def with_margins(spin: Spin) -> Spin:
    """A field with a number that can be stepped, its text not against its edge (where a style sheet cannot
    put it)."""
    spin.lineEdit().setTextMargins(px(6), 0, px(2), 0)
    return spin


def choice(
    name: str, tip: str, options: Sequence[tuple[str, str]], now: str, chosen: Callable[[str], object]
) -> QComboBox:
    """A drop-down of (value, text)."""
    combo = Picked()
    combo.setObjectName(name)
    combo.setAccessibleName(name)
    combo.setToolTip(tip_text(tip))
    combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    combo.setMinimumContentsLength(6)  # a long choice does not widen the panel
    for value, text in options:
        combo.addItem(text, value)
    combo.setCurrentIndex(max(0, combo.findData(now)))
    combo.activated.connect(lambda k: chosen(str(combo.itemData(k))))
    return combo


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

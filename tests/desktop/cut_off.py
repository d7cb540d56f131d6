"""What is cut off in a window, told from the sizes of labels, controls and painted texts."""

from collections.abc import Iterator

from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractScrollArea,
    QComboBox,
    QGroupBox,
    QHeaderView,
    QLabel,
    QLineEdit,
    QScrollArea,
    QSplitterHandle,
    QWidget,
)

from knotplan.core.drawing.shapes import Shape, Text
from knotplan.desktop import paint as brush
from knotplan.desktop.panels.fields import Picked
from knotplan.desktop.rail import RailButton

SLACK = 1
"""pixels by which sizes may differ from rounding"""


def named(widget: QWidget) -> str:
    said = (
        getattr(widget, "text", lambda: "")() if not isinstance(widget, QComboBox) else widget.currentText()
    )
    return f"{type(widget).__name__} {widget.objectName()} {said!r}"


def cut_off(top: QWidget) -> Iterator[str]:
    """Every visible widget with less room than its words need, outside what holds it, or on another."""
    for widget in top.findChildren(QWidget):
        if widget.isVisible() and widget.window() is top:
            why = too_small(widget) or outside(widget)
            if why:
                yield f"{named(widget)}: {why}"
            yield from overlaps(widget)


def too_small(widget: QWidget) -> str:
    match widget:
        case QLabel() if widget.text():
            return _label(widget)
        case RailButton():
            return ""  # painted; its texts are looked at
        case QAbstractButton() if widget.text():
            return _against(widget, widget.sizeHint().width(), widget.sizeHint().height())
        case QScrollArea() if widget.widget() is not None:
            return _across(widget)
        case QComboBox():
            room = widget.width() - widget.minimumSizeHint().height()
            wide = widget.fontMetrics().horizontalAdvance(widget.currentText())
            tells = isinstance(widget, Picked)  # it elides, and has the whole in its tooltip
            return "" if wide <= room or tells else f"{wide} px of text in {room}"
        case QLineEdit():
            return _against(widget, 0, widget.fontMetrics().height())
        case QHeaderView():
            return _head(widget)
    return ""


def _label(label: QLabel) -> str:
    if not label.wordWrap():
        return _against(label, label.sizeHint().width(), label.sizeHint().height())
    widest = max(label.fontMetrics().horizontalAdvance(word) for word in label.text().split() or [""])
    return _against(label, widest, label.heightForWidth(label.width()))


def _against(widget: QWidget, wide: int, high: int) -> str:
    if wide > widget.width() + SLACK or high > widget.height() + SLACK:
        return f"needs {wide} by {high}, has {widget.width()} by {widget.height()}"
    return ""


def _across(area: QScrollArea) -> str:
    """What cannot be scrolled sideways must not be wider than what shows it."""
    never = area.horizontalScrollBarPolicy() == Qt.ScrollBarPolicy.ScrollBarAlwaysOff
    inside, room = area.widget().width(), area.viewport().width()
    return f"{inside} px in {room}" if never and inside > room + SLACK else ""


def _head(head: QHeaderView) -> str:
    for k in range(head.count()):
        if not head.isSectionHidden(k) and head.sectionSizeHint(k) > head.sectionSize(k) + SLACK:
            title = head.model().headerData(k, head.orientation())
            return f"head {title!r} needs {head.sectionSizeHint(k)}, has {head.sectionSize(k)}"
    return ""


def outside(widget: QWidget) -> str:
    """What lies outside its parent is cut off; what a scroll area holds can be brought into sight."""
    above = widget.parentWidget()
    if above is None or isinstance(widget, QSplitterHandle):
        return ""
    if isinstance(above.parentWidget(), QAbstractScrollArea):
        return ""
    room = above.rect().adjusted(-SLACK, -SLACK, SLACK, SLACK)
    return "" if room.contains(widget.geometry()) else f"lies at {widget.geometry()} in {above.rect()}"


def overlaps(above: QWidget) -> Iterator[str]:
    """Words and controls of one parent that lie on one another."""
    kinds = (QLabel, QAbstractButton, QComboBox, QLineEdit, QAbstractItemView)
    if isinstance(above, QAbstractItemView | QScrollArea | QGroupBox | QHeaderView):
        return
    children = [w for w in above.children() if isinstance(w, kinds) and w.isVisible() and not w.isWindow()]
    for k, a in enumerate(children):
        for b in children[k + 1 :]:
            if a.geometry().intersects(b.geometry().adjusted(SLACK, SLACK, -SLACK, -SLACK)):
                yield f"{named(a)} and {named(b)} lie on one another"


class PaintedTexts:
    """Notes texts that are painted beyond the edge of their widget."""

    def __init__(self) -> None:
        self.bad: list[str] = []
        self._real = brush._text

    def note(self, painter: QPainter, s: Shape, keep: bool, family: str) -> None:
        assert isinstance(s, Text)
        self._real(painter, s, keep, family)
        device = painter.device()
        if not isinstance(device, QWidget) or s.angle:
            return
        wide = brush.metrics(s.size, s.bold, family).horizontalAdvance(s.text) / brush.TENFOLD
        left = s.x - {"start": 0.0, "middle": wide / 2, "end": wide}[s.anchor]
        box = painter.worldTransform().mapRect(QRectF(left, s.y - s.size * 0.72, wide, s.size * 0.72))
        room = QRectF(QRect(0, 0, device.width(), device.height())).adjusted(-SLACK, -SLACK, SLACK, SLACK)
        in_list = isinstance(device.parentWidget(), QAbstractItemView)  # its rows are scrolled up and down
        inside = room.left() <= box.left() and box.right() <= room.right()
        inside = inside and (in_list or (room.top() <= box.top() and box.bottom() <= room.bottom()))
        if not inside:
            self.bad.append(f"{type(device).__name__}: {s.text!r} at {box} in {room}")

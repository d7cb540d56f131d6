"""What is said where the keyboard is, as plain text: every number on the screen can be taken along."""

from collections.abc import Iterator

from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QScrollArea,
    QWidget,
)

from knotplan.desktop.budget_bar import BudgetBar
from knotplan.desktop.buses.address_map import AddressMap
from knotplan.desktop.findings.card import FindingCard, explained
from knotplan.desktop.lists.rows import heads_of, rows_of
from knotplan.exchange.tables import as_tabbed

WHOLE = ("inspector", "powerDetail", "busSide", "timingSide")
"""panels that are taken as a whole"""


def said(widget: QWidget | None, otherwise: QWidget) -> str:
    """The words of a widget: a finding with its numbers, a budget as it adds up, the marked lines of a table,
    or everything on the panel around it; of the bench, what the inspector says."""
    if isinstance(widget, QLabel) and widget.hasSelectedText():
        return widget.selectedText()
    above = widget
    while above is not None:
        match above:
            case FindingCard():
                return explained(above.finding)
            case BudgetBar() | AddressMap():
                return above.said()
            case QAbstractItemView():
                rows = rows_of(above, only_marked=True) or rows_of(above)
                return as_tabbed(heads_of(above), rows) if rows else ""
            case QScrollArea() if above.objectName() in WHOLE:
                return "\n".join(_lines(above))
        above = above.parentWidget()
    return "\n".join(_lines(otherwise))


def _lines(panel: QWidget) -> Iterator[str]:
    """What a panel says, from above downwards; what stands side by side is one line."""
    words = [(w, text) for w in panel.findChildren(QWidget) if w.isVisible() and (text := _text(w))]
    placed = [(w.mapTo(panel, w.rect().topLeft()), w.height(), text) for w, text in words]
    placed.sort(key=lambda at: (at[0].y() + at[1] // 2, at[0].x()))
    line: list[tuple[int, str]] = []
    middle = None
    for corner, high, text in placed:
        here = corner.y() + high // 2
        if middle is not None and here - middle > high // 2:
            yield "\t".join(t for _, t in sorted(line))
            line = []
        line.append((corner.x(), text))
        middle = here
    if line:
        yield "\t".join(t for _, t in sorted(line))


def _text(widget: QWidget) -> str:
    match widget:
        case QLabel():
            return widget.text()
        case QCheckBox():
            return f"[{'x' if widget.isChecked() else ' '}] {widget.text()}"
        case QLineEdit() if not isinstance(widget.parentWidget(), QAbstractSpinBox | QComboBox):
            return widget.text()
        case QAbstractSpinBox():
            return widget.text()
        case QComboBox():
            return widget.currentText()
        case QPlainTextEdit():
            return widget.toPlainText()
        case QAbstractItemView():
            return as_tabbed(heads_of(widget), rows_of(widget)).rstrip("\n")
        case QAbstractButton() if widget.isCheckable() and widget.property("kind") == "quiet":
            return widget.text()  # the head of a line that opens
    return ""

"""What is still to be done, in one quiet line below the findings: an open ring, how many leads, *Suggest*."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from knotplan.core.check.report import Report
from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import Palette
from knotplan.core.quantity.written import counted
from knotplan.desktop.paint import paint
from knotplan.desktop.panels.fields import button
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

UNTIED = "lead-untied"


def to_do_words(report: Report) -> str:
    """What is left to do, as "3 leads to tie" or "3 to tie, 1 more"; nothing where nothing is left."""
    left = [f for f in report.findings if f.severity == "to-do"]
    leads = sum(f.rule == UNTIED for f in left)
    others = len(left) - leads
    if leads and others:  # there is little room beside *Suggest*
        return f"{leads} to tie, {others} more"
    if leads:
        return f"{counted(leads, 'lead')} to tie"
    return f"{counted(others, 'thing')} to do" if others else ""


class Ring(QWidget):
    """The mark of what is to be done."""

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.setFixedSize(QSize(18, 18))

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(painter, severity(9, 9, "to-do", self.p, 8))


class ToDo(QWidget):
    """Hidden while nothing is left."""

    suggest_wanted = Signal()
    opened = Signal()
    """the list is to be shown, or hidden"""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session = session
        self.setAccessibleName("To do")
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 2, 4, 2)
        across.setSpacing(6)
        self.ring = Ring(palette)
        across.addWidget(self.ring)
        self.head = QToolButton()
        self.head.setObjectName("toDo")
        self.head.setCheckable(True)
        self.head.setProperty("kind", "quiet")
        self.head.setToolTip(tip_text("Show what is left to be done, one by one"))
        self.head.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.head.setArrowType(Qt.ArrowType.RightArrow)
        self.head.toggled.connect(self._open)
        across.addWidget(self.head)
        across.addStretch(1)
        self.suggest = button(
            "Suggest",
            "suggestLeft",
            "Propose pins for all leads that are left (S, with nothing selected)",
            self.suggest_wanted.emit,
            "quiet",
        )
        across.addWidget(self.suggest)

    @property
    def listed(self) -> bool:
        """What is left is listed with the findings."""
        return self.head.isChecked()

    def refresh(self) -> None:
        words = to_do_words(self.session.report)
        self.head.setText(words)
        self.head.setAccessibleName(words)
        self.suggest.setVisible(any(f.rule == UNTIED for f in self.session.report.findings))
        self.setVisible(bool(words))

    def set_palette(self, palette: Palette) -> None:
        self.ring.p = palette
        self.ring.update()

    def _open(self, on: bool) -> None:
        self.head.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        self.opened.emit()

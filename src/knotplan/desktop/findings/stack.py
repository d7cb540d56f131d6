"""A few finding cards one below another, in views that show what is about one thing."""

from collections.abc import Sequence

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QWidget

from knotplan.core.check.finding import Finding
from knotplan.core.drawing.palette import Palette
from knotplan.desktop.findings.card import FindingCard
from knotplan.desktop.session import Session

GAP = 6


class FindingStack(QWidget):
    """Each with its remedies, as among the findings."""

    def __init__(self, session: Session, palette: Palette, findings: Sequence[Finding]):
        super().__init__()
        self.cards = []
        for finding in findings:
            card = FindingCard(session, palette, self)
            card.assign(finding)
            card.fill()
            card.resized.connect(self.arrange)
            self.cards.append(card)

    def arrange(self) -> None:
        y = 0
        for card in self.cards:
            tall = card.arrange(max(160, self.width()))
            card.setGeometry(0, y, self.width(), tall)
            y += tall + GAP
        self.setFixedHeight(max(0, y - GAP))

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.arrange()

"""All differences of what is looked at, as cards."""

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QScrollArea, QWidget

from knotplan.core.bringup.difference import Difference
from knotplan.core.drawing.palette import Palette
from knotplan.desktop.bringup.difference_card import DifferenceCard
from knotplan.desktop.panels.fields import column_in, label, put_in
from knotplan.desktop.session import Session

MOST = 40


class DifferenceList(QScrollArea):
    """The grave ones first, then what is worth knowing."""

    looked = Signal(object)
    step_wanted = Signal(str)
    line_wanted = Signal(object)

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setObjectName("differences")
        self.setAccessibleName("Differences")
        self.cards: list[DifferenceCard] = []
        self._shown: tuple[object, ...] | None = None

    def show_all(self, differences: Sequence[Difference], palette: Palette, nothing: str) -> None:
        """Cards for some differences, or why there are none; those that are shown already stay."""
        shown = (tuple(differences), palette, nothing, self.session.circuit)
        if shown == self._shown:
            return
        self._shown = shown
        contents = QWidget()
        down = column_in(contents, 7)
        down.setContentsMargins(2, 2, 10, 8)
        order = sorted(differences, key=lambda d: d.gravity != "differs")
        self.cards = [DifferenceCard(self.session, palette, d) for d in order[:MOST]]
        for card in self.cards:
            card.looked.connect(self.looked)
            card.step_wanted.connect(self.step_wanted)
            card.line_wanted.connect(self.line_wanted)
            down.addWidget(card)
        if len(order) > MOST:
            down.addWidget(
                label(f"… and {len(order) - MOST} more: knotplan compare lists them all.", "faint")
            )
        if not order:
            down.addWidget(label(nothing, "faint"))
        down.addStretch(1)
        put_in(self, contents)

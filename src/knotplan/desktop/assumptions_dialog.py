"""What the plan assumes: every figure with its usual value, why that, and a field for the maker's own."""

from functools import partial

from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.plan import edits
from knotplan.core.plan.assumptions import ASSUMPTIONS, Assumption
from knotplan.core.quantity.written import show
from knotplan.desktop import lettering
from knotplan.desktop.panels.fields import QuantityField, button, label
from knotplan.desktop.session import Session

INTRO = (
    "Where neither the plan nor the catalogue says, these figures are taken: by the checks and by the values "
    "alike. Another value holds for this plan, and is kept in it."
)


class AssumptionsDialog(QDialog):
    """One line for each figure; a change is an edit of the plan, and undo takes it back."""

    def __init__(self, session: Session, parent: QWidget | None = None):
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Assumptions")
        self.resize(820, 620)
        self.rows = QWidget()
        self._grid = QGridLayout(self.rows)
        self._grid.setColumnStretch(0, 1)
        self._grid.setHorizontalSpacing(14)
        self._grid.setVerticalSpacing(10)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.rows)
        close = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        close.rejected.connect(self.reject)
        down = QVBoxLayout(self)
        down.addWidget(label("What this plan assumes", "head"))
        down.addWidget(label(INTRO, "faint"))
        down.addWidget(area, 1)
        down.addWidget(close)
        self.fields: dict[str, QuantityField] = {}
        self._back: dict[str, QPushButton] = {}
        for k, a in enumerate(ASSUMPTIONS):
            self._row(k, a)
        self._grid.setRowStretch(len(ASSUMPTIONS), 1)

    def _row(self, k: int, a: Assumption) -> None:
        now, usual = self.session.plan.assumed(a.id), show(a.usual, a.unit)
        text = QWidget()
        lines = QVBoxLayout(text)
        lines.setContentsMargins(0, 0, 0, 0)
        lines.setSpacing(1)
        lines.addWidget(label(a.title, "strong"))
        lines.addWidget(label(f"{a.source[0].upper()}{a.source[1:]}.", "faint"))
        take = partial(self._take, a)
        field = QuantityField(a.title, f"Usually {usual}", now, a.unit, take, a.least, a.most)
        lettering.fix(field, width=120)
        back = button(
            f"usual: {usual}", f"usual-{a.id}", f"{a.title}: {usual} again", partial(take, None), "quiet"
        )
        back.setEnabled(now != a.usual)
        self.fields[a.id], self._back[a.id] = field, back
        for column, widget in enumerate((text, field, back)):
            self._grid.addWidget(widget, k, column)

    def _take(self, a: Assumption, value: float | None) -> None:
        self.session.edit("assumption", edits.assume, a.id, value)
        now = self.session.plan.assumed(a.id)
        self.fields[a.id].line.setText(show(now, a.unit))
        self._back[a.id].setEnabled(now != a.usual)

"""Value finders by themselves: choose a question, type what is known, read the answer."""

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QListWidget,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from knotplan.core.finders import BY_ID, FINDERS
from knotplan.core.finders.finder import Finder, FinderError, Input
from knotplan.desktop import lettering
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.answer import AnswerBox
from knotplan.desktop.panels.fields import QuantityField, choice, column, column_in, form, label, put_in
from knotplan.desktop.session import Session

FIRST: dict[str, float] = {
    "supply": 5.0,
    "forward": 2.0,
    "current": 0.01,
    "load": 0.1,
    "volts": 5.0,
    "least": 1e3,
    "most": 100e3,
    "ohm": 70.0,
    "length": 1.0,
}
"""what stands in an input at first that has no usual value"""


class ValuesDialog(QDialog):
    """On the left the questions, in the middle the inputs, on the right the answer."""

    def __init__(
        self,
        session: Session,
        parent: QWidget | None = None,
        finder: str = "",
        given: Mapping[str, float | str] | None = None,
    ):
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Values")
        self.resize(QSize(1000, 570))
        self._given: dict[str, dict[str, float | str]] = {f.id: _first(f) for f in FINDERS}
        if finder:
            self._given[finder] |= dict(given or {})
        self.questions = QListWidget()
        self.questions.setObjectName("finders")
        self.questions.setAccessibleName("Value finders")
        self.questions.addItems([f.title for f in FINDERS])
        lettering.fix(self.questions, width=220)
        equip(self.questions)
        for k in range(self.questions.count()):
            self.questions.item(k).setSizeHint(QSize(0, lettering.px(27)))
        self.middle, self.right = QScrollArea(), QScrollArea()
        for area, name in ((self.middle, "Inputs"), (self.right, "AnswerBox")):
            area.setWidgetResizable(True)
            area.setAccessibleName(name)
            area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        lettering.fix(self.middle, width=372)
        across = QHBoxLayout()
        across.addWidget(self.questions)
        across.addWidget(self.middle)
        across.addWidget(self.right, 1)
        down = QVBoxLayout(self)
        down.addLayout(across, 1)
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        box.rejected.connect(self.reject)
        down.addWidget(box)
        self.questions.currentRowChanged.connect(lambda _: self._ask())
        self.questions.setCurrentRow([f.id for f in FINDERS].index(finder) if finder else 0)

    @property
    def finder(self) -> Finder:
        return FINDERS[max(0, self.questions.currentRow())]

    def _ask(self) -> None:
        """The inputs of the chosen question."""
        finder, values = self.finder, self._given[self.finder.id]
        widget = QWidget()
        layout = column_in(widget, 8)
        layout.setContentsMargins(14, 6, 14, 10)
        layout.addWidget(label(finder.title, "head"))
        layout.addWidget(label(finder.question, "faint"))
        fields = form()
        for asked in finder.inputs:
            fields.addRow(asked.asks, self._field(asked, values[asked.name]))
        layout.addLayout(fields)
        layout.addStretch(1)
        put_in(self.middle, widget)
        self._answer()

    def _field(self, asked: Input, now: float | str) -> QWidget:
        change = partial(self._change, asked.name)
        if asked.choices:
            widget = choice(asked.name, asked.help, [(c, c) for c in asked.choices], str(now), change)
            widget.setAccessibleName(asked.title)
            return widget
        field = QuantityField(asked.name, asked.help, float(now), asked.unit, change)
        field.line.setAccessibleName(asked.title)
        return field

    def _change(self, name: str, value: float | str) -> None:
        self._given[self.finder.id][name] = value
        self._answer()

    def _answer(self) -> None:
        try:
            answer = BY_ID[self.finder.id](self._given[self.finder.id])
        except FinderError as error:
            shown: QWidget = column(
                *(label(f"{why[0].upper()}{why[1:]}.", "stop") for why in str(error).split("; ")), spacing=6
            )
        else:
            shown = AnswerBox(answer)
        widget = QWidget()
        layout = column_in(widget)
        layout.setContentsMargins(18, 6, 14, 10)
        layout.addWidget(shown)
        layout.addStretch(1)
        put_in(self.right, widget)


def _first(finder: Finder) -> dict[str, float | str]:
    """What stands in the fields at first."""
    return {i.name: FIRST[i.name] if i.default is None else i.default for i in finder.inputs}

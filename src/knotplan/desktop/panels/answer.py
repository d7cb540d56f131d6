"""What a value finder found: the value with its marks, what follows, its neighbours, and the way to it."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from knotplan.core.drawing.palette import BAND_COLOURS, BODY_COLOUR
from knotplan.core.finders.finder import Found, Trial
from knotplan.core.plan.remedy import Remedy
from knotplan.core.quantity.series import bands
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show
from knotplan.desktop import lettering
from knotplan.desktop.panels.fields import button, column_in, label, row
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

BANDS_W, BANDS_H = 88, 22


class Bands(QWidget):
    """A resistor with its colour bands (IEC 60062), as it lies on the table."""

    def __init__(self, ohm: float, tolerance: float):
        super().__init__()
        self.names = bands(ohm, tolerance)
        lettering.fix(self, width=BANDS_W, height=BANDS_H)
        self.setAccessibleName("Colour bands: " + " ".join(self.names))
        self.setToolTip(tip_text(" ".join(self.names)))

    def sizeHint(self) -> QSize:
        return QSize(lettering.px(BANDS_W), lettering.px(BANDS_H))

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            lettering.begin(painter)
            middle = BANDS_H / 2
            painter.setPen(QPen(QColor("#8c8c88"), 2))
            painter.drawLine(0, int(middle), BANDS_W, int(middle))
            painter.setPen(QPen(QColor("#6b6048"), 1))
            painter.setBrush(QColor(BODY_COLOUR))
            painter.drawRoundedRect(QRectF(12, 3, 64, 16), 7, 7)
            painter.setPen(QPen(QColor(0, 0, 0, 90), 0.6))
            for k, name in enumerate(self.names):
                last = k == len(self.names) - 1
                painter.setBrush(QColor(BAND_COLOURS[name]))
                painter.drawRect(QRectF(66.0 if last else 20.0 + 9.5 * k, 3.3, 5.5, 15.4))


class AnswerBox(QWidget):
    """Everything about one answer; `remedy` is the edit that puts the value in."""

    def __init__(
        self,
        found: Found,
        session: Session | None = None,
        remedy: Remedy | None = None,
        headline: bool = True,
    ):
        super().__init__()
        self.found, self.session, self.remedy = found, session, remedy
        layout = column_in(self, 5)
        if headline:
            layout.addWidget(
                label(f"{found.what[0].upper()}{found.what[1:]}: {show(found.value, found.unit)}", "head")
            )
        for what, value, unit in found.also:
            layout.addWidget(label(f"{what[0].upper()}{what[1:]}: {show(value, unit)}", "strong"))
        self._marks(layout)
        layout.addLayout(_results(found.chosen.results))
        for caution in found.cautions:
            layout.addWidget(label(caution, "care"))
        for trial, where in ((found.lower, "below"), (found.higher, "above")):
            if trial is not None:
                layout.addWidget(_small(label(_neighbour(found, trial, where), "faint")))
        if found.lines:
            layout.addWidget(label("For the program", "strong"))
            for text in found.lines:
                layout.addWidget(_small(label(text)))
        buttons: list[QWidget] = []
        if remedy is not None and session is not None:
            buttons.append(
                button(remedy.title, "putValue", "Make this change in the plan", self._put, "main")
            )
        buttons.append(
            button("How it is computed", "how", "Formula, inputs and sources", self._toggle, "quiet")
        )
        layout.addWidget(row(*buttons))
        self.working = label(_worked(found), "faint")
        self.working.setObjectName("working")
        self.working.hide()
        layout.addWidget(self.working)

    def _marks(self, layout: QVBoxLayout) -> None:
        if not self.found.marks:
            return
        text = label(", ".join(self.found.marks), "faint")
        if self.found.unit == "Ω" and bands(self.found.value, self.found.tolerance):
            layout.addWidget(row(Bands(self.found.value, self.found.tolerance), text, stretch=1))
        else:
            layout.addWidget(text)

    def _put(self) -> None:
        if self.session is not None and self.remedy is not None:
            self.session.make(self.remedy)

    def _toggle(self) -> None:
        self.working.setVisible(not self.working.isVisible())


def _small(widget: QWidget) -> QWidget:
    widget.setProperty("scale", "small")
    return widget


def _results(numbers: tuple[Number, ...]) -> QGridLayout:
    """Each number beside its limit."""
    grid = QGridLayout()
    grid.setHorizontalSpacing(8)
    grid.setVerticalSpacing(2)
    for k, n in enumerate(numbers):
        grid.addWidget(_small(label(n.name, "faint")), k, 0)
        value = label(show(n.value, n.unit), "strong", wrap=False)
        value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop)
        grid.addWidget(_small(value), k, 1)
        beside = label(n.limit_words, "faint", wrap=False)
        beside.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)
        grid.addWidget(_small(beside), k, 2)
    grid.setColumnStretch(0, 1)
    return grid


def _neighbour(found: Found, trial: Trial, where: str) -> str:
    first = trial.results[0]
    why = f" – {trial.fault}" if trial.fault else ""
    return f"{show(trial.value, found.unit)}, next {where}: {first.name} {show(first.value, first.unit)}{why}"


def _worked(found: Found) -> str:
    given = [f"  {n.words(4)}" for n in found.given]
    exact = f"  computed {show(found.exact, found.unit, 4)}"
    return "\n".join([found.formula, "", "From", *given, "", "Follows", exact, "", f"Source: {found.source}"])

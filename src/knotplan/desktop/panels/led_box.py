"""An LED's resistor: wished current or brightness, the preferred value and its neighbours, the working."""

from PySide6.QtWidgets import QFormLayout, QGridLayout, QLabel, QWidget

from knotplan.catalog.part.elements import Led
from knotplan.core.circuit.leds import led_of, leds_of
from knotplan.core.engine.led import Choice, Resistor, choose
from knotplan.core.plan import edits
from knotplan.core.quantity.series import SERIES, bands_words
from knotplan.core.quantity.written import show
from knotplan.desktop.panels.fields import QuantityField, button, choice, column_in, form, label
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text


class LedBox(QWidget):
    """The value finder for one LED of the plan."""

    def __init__(self, session: Session, part_id: str, element: str = ""):
        super().__init__()
        self.session, self.part_id = session, part_id
        found = led_of(session.circuit, part_id, element)
        assert found is not None
        led = found[1]
        self.wished = session.circuit.parts[part_id].parameter("wished current")
        layout = column_in(self, 6)
        several = len(leds_of(session.circuit, part_id)) > 1
        layout.addWidget(label(f"Resistor of {found[0]}" if several else "Resistor", "strong"))
        fields = form()
        per_amp = led.intensity_cd / led.intensity_at_a
        self._wish_fields(fields, led, per_amp)
        series = [
            (s, f"{s}, {len(SERIES[s])} values a decade") for s in ("E3", "E6", "E12", "E24", "E48", "E96")
        ]
        fields.addRow(
            "Drawer",
            choice("series", "The preferred values that you have", series, session.plan.series, self._series),
        )
        layout.addLayout(fields)
        chosen = choose(session.circuit, session.catalog, part_id, found[0])
        if chosen is None:
            layout.addWidget(label("Tie both leads, then the value can be found.", "faint"))
            return
        if not chosen.reaches:
            layout.addWidget(label("This supply cannot drive the wished current through it.", "care"))
        layout.addLayout(_table(chosen, per_amp))
        marks = bands_words(chosen.best.ohm, chosen.tolerance)
        layout.addWidget(label(f"Bands of {show(chosen.best.ohm, 'Ω')}: {marks}", "faint"))
        if chosen.now_ohm != chosen.best.ohm:
            layout.addWidget(
                button(
                    chosen.remedy().title,
                    "putResistor",
                    "Make this change",
                    lambda: session.make(chosen.remedy()),
                    "main",
                )
            )
        else:
            layout.addWidget(label(f"{show(chosen.now_ohm or 0, 'Ω')} is in the tie.", "faint"))
        self.how = button("How it is computed", "how", "Formula, inputs and sources", self._toggle, "quiet")
        layout.addWidget(self.how)
        self.working = label(_worked(chosen), "faint")
        self.working.setObjectName("working")
        self.working.hide()
        layout.addWidget(self.working)

    def _wish_fields(self, fields: QFormLayout, led: Led, per_amp: float) -> None:
        """The wished current, also as brightness, where the part lets it be chosen."""
        if not self.wished:
            return
        current = QuantityField(
            "wish",
            "Current for the brightness you want: 5m",
            led.wished_a,
            "A",
            self._wish,
            0.0002,
            0.02,
        )
        brightness = QuantityField(
            "brightness",
            "Luminous intensity, proportional to current",
            led.wished_a * per_amp,
            "cd",
            lambda cd: self._wish(cd / per_amp),
            0.0002 * per_amp,
            0.02 * per_amp,
        )
        fields.addRow("Wished current", current)
        fields.addRow("or brightness", brightness)

    def _toggle(self) -> None:
        self.working.setVisible(not self.working.isVisible())

    def _wish(self, amps: float) -> None:
        self.session.edit("wished current", edits.set_param, self.part_id, self.wished, float(f"{amps:.4g}"))

    def _series(self, series: str) -> None:
        self.session.edit("preferred values", edits.set_series, series)


COLUMNS = (
    ("", "The resistor, and its neighbours in the drawer"),
    (
        "mA: least · typ. · most",
        "Current through the LED with all tolerances against it, as usual, and with all of them for it",
    ),
    ("power", "Heat in the resistor at the most current"),
    ("light", "How bright the LED is at the typical current"),
)
"""heads, with what they mean"""


def _table(chosen: Choice, per_amp: float) -> QGridLayout:
    """The choice between its neighbours: least, typical and most current, power, light."""
    grid = QGridLayout()
    grid.setHorizontalSpacing(6)
    grid.setVerticalSpacing(3)
    for k, (head, meant) in enumerate(COLUMNS):
        cell = _cell(head, "faint", wrap=True)
        cell.setToolTip(tip_text(meant))
        grid.addWidget(cell, 0, k)
    for r, resistor in enumerate((chosen.lower, chosen.best, chosen.higher), 1):
        tone = "strong" if resistor is chosen.best else "faint"
        for k, text in enumerate(_cells(resistor, per_amp)):
            grid.addWidget(_cell(text, tone), r, k)
    grid.setColumnStretch(3, 1)
    return grid


def _cell(text: str, tone: str, wrap: bool = False) -> QLabel:
    cell = label(text, tone, wrap)
    cell.setProperty("scale", "small")
    return cell


def _cells(r: Resistor, per_amp: float) -> tuple[str, ...]:
    now = r.current
    least, typical = (f"{a * 1e3:.2g}" for a in (now.min, now.typical))
    return (
        show(r.ohm, "Ω"),
        f"{least} · {typical} · {now.max * 1e3:.2g}",
        show(r.power_w, "W", 2),
        show(now.typical * per_amp, "cd", 2),
    )


def _worked(chosen: Choice) -> str:
    w = chosen.working
    given, follows = ([f"  {n.words(4)}" for n in numbers] for numbers in (w.inputs, w.results))
    return "\n".join([w.formula, "", "From", *given, "", "Follows", *follows, "", f"Source: {w.source}"])

"""How a quantity lies among ten thousand specimens: a histogram beside the limits that decide."""

from functools import partial

from PySide6.QtWidgets import QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.palette import Palette
from knotplan.core.engine.decided import Decided
from knotplan.core.engine.keys import Key
from knotplan.core.quantity.written import show
from knotplan.desktop import lettering
from knotplan.desktop.background_task import BackgroundTask
from knotplan.desktop.panels.fields import column_in, label
from knotplan.desktop.panels.fold import Fold
from knotplan.desktop.session import Session

COUNT = 10_000
PREFIXES = ((1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"))


def spread_line(session: Session, palette: Palette, wanted: Decided) -> Fold:
    """A line that opens into the histogram."""
    tip = "Every supply, resistor, junction and pin drawn by chance within its tolerance"
    make = partial(SpreadBox, session.circuit, palette, wanted)
    return Fold(session, f"spread-{wanted.what}", f"Spread: {wanted.what}", tip, make)


class SpreadBox(QWidget):
    """The plot, made beside the interface."""

    def __init__(self, circuit: Circuit, palette: Palette, wanted: Decided):
        super().__init__()
        self.p, self.wanted = palette, wanted
        self._column = column_in(self, 4)
        self.summary = label("drawing specimens …", "faint")
        self._column.addWidget(self.summary)
        self.plot: QWidget | None = None
        self.work = BackgroundTask("the drawing of specimens", self)
        self.work.answered.connect(self._show)
        self.work.failed.connect(lambda why: self.summary.setText(f"The engine failed: {why}"))
        self.work.ask(partial(_sample, circuit, wanted))

    def _show(self, spread: object) -> None:
        from knotplan.core.engine.tolerance import Spread
        from knotplan.desktop.plot import limit_line, plot, steps

        if not isinstance(spread, Spread):
            self.summary.setText("Nothing flows here in this state.")
            return
        unit = self.wanted.unit
        largest = max(abs(float(spread.values.min())), abs(float(spread.values.max())), 1e-12)
        factor, prefix = next(((f, at) for f, at in PREFIXES if largest >= f), PREFIXES[-1])
        edges, counts = spread.histogram()
        histogram = plot(self.p, f"Histogram of {self.wanted.what}", bottom=f"{prefix}{unit}")
        lettering.fix(histogram, height=150)
        histogram.addItem(steps(self.p, edges / factor, counts))
        histogram.getAxis("left").hide()
        low, high = float(edges[0]), float(edges[-1])
        for at, text in self.wanted.limits:
            histogram.addItem(
                limit_line(self.p, at / factor, text, tone=self.p.active if text == "wish" else "")
            )
            if low - 3 * (high - low) < at < high + 3 * (high - low):
                low, high = min(low, at), max(high, at)
        histogram.setXRange(low / factor, high / factor, padding=0.08)
        self.plot = histogram
        self._column.addWidget(histogram)
        a, b = spread.within()
        share = spread.share(self.wanted.least, self.wanted.most)
        all_in = "all are within bounds" if share == 1 else f"{share * 100:.4g} % are within bounds"
        self.summary.setText(
            f"Of {COUNT} specimens nine in ten lie from {show(a, unit)} to {show(b, unit)}; {all_in}."
        )


def _sample(circuit: Circuit, wanted: Decided) -> object:
    from knotplan.core.engine.tolerance import of_junction, of_net

    if isinstance(wanted.of, Key):
        return of_junction(circuit, wanted.of, wanted.case, COUNT)
    return of_net(circuit, wanted.of, wanted.case, COUNT)

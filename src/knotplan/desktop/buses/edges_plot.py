"""Rise time over pull-up: the line of this bus, the window that is allowed, and where the bus stands."""

import math

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QWidget

from knotplan.core.buses.lines import RISES, Mode, Section
from knotplan.core.drawing.palette import Palette
from knotplan.core.quantity.written import show
from knotplan.core.text.buses import allowed_ohms
from knotplan.desktop import lettering
from knotplan.desktop.panels.fields import column_in, label
from knotplan.desktop.plot import limit_line, plot

LEAST_OHM, MOST_OHM = 100.0, 100e3
PLOT_LEAST = 84


class OhmAxis(pg.AxisItem):  # type: ignore[misc]  # the library has no types
    """Decades in ohms, from a logarithm."""

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        return [show(10**v, "Ω") if abs(v - round(v)) < 1e-6 else "" for v in values]

    def tickValues(self, least: float, most: float, size: float) -> list[tuple[float, list[float]]]:
        return [(1.0, [float(k) for k in range(math.ceil(least), math.floor(most) + 1)])]


class TimeAxis(OhmAxis):
    """The same in seconds."""

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        return [show(10**v, "s") if abs(v - round(v)) < 1e-6 else "" for v in values]


class EdgesPlot(QWidget):
    """Both axes in decades; the allowed window is shaded."""

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.plot = plot(palette, "Rise time over pull-up")
        for side, axis in (("bottom", OhmAxis("bottom")), ("left", TimeAxis("left"))):
            axis.setPen(pg.mkPen(palette.edge))
            axis.setTextPen(pg.mkPen(palette.faint))
            self.plot.setAxisItems({side: axis})
        self.summary = label("", "faint")
        down = column_in(self, 3)
        down.addWidget(self.summary)
        down.addWidget(self.plot, 1)
        down.setAlignment(self.summary, Qt.AlignmentFlag.AlignTop)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The words above the plot take as many lines as they need; the plot keeps its own height."""
        super().resizeEvent(event)
        self._hold()

    def _hold(self) -> None:
        self.setMinimumHeight(self.summary.heightForWidth(self.width()) + lettering.px(PLOT_LEAST))

    def draw(self, section: Section | None, mode: Mode) -> None:
        self.plot.clear()
        self.plot.setVisible(section is not None and section.farad > 0)
        if section is None or not section.farad:
            self.summary.setText(
                "Nothing is on this bus yet. Tie the SDA and SCL of a part to it in the loom, or to a branch "
                "of a bus switch; how fast its lines rise is then shown here."
            )
            self.plot.setAccessibleDescription("empty")
            return
        p = self.p
        ohms = np.logspace(math.log10(LEAST_OHM), math.log10(MOST_OHM), 60)
        rise = RISES * ohms * section.farad
        least, most = section.least_ohm or LEAST_OHM, section.most_ohm(mode)
        if least < most:
            window = pg.LinearRegionItem(
                (math.log10(least), math.log10(most)),
                movable=False,
                brush=pg.mkBrush(p.good + "30"),
                pen=pg.mkPen(p.good, width=1.2),
            )
            self.plot.addItem(window)
        self.plot.addItem(pg.PlotCurveItem(np.log10(ohms), np.log10(rise), pen=pg.mkPen(p.active, width=2)))
        self.plot.addItem(
            limit_line(
                p, math.log10(mode.rise_s), f"{show(mode.rise_s, 's')} in {mode.title}", angle=0, above=True
            )
        )
        here = section.ohm
        if here is not None and section.rise is not None:
            bad = not least <= here.min or here.max > most
            tone = p.stop if bad else p.ink
            xs, ys = np.log10([here.min, here.max]), np.log10([section.rise.min, section.rise.max])
            self.plot.addItem(pg.PlotCurveItem(xs, ys, pen=pg.mkPen(tone, width=5)))
            self.plot.addItem(
                pg.ScatterPlotItem(
                    [math.log10(here.typ)],
                    [math.log10(section.rise.typ)],
                    size=12,
                    symbol="x" if bad else "o",
                    pen=pg.mkPen(tone, width=2),
                    brush=pg.mkBrush(p.card),
                )
            )
        self.plot.setXRange(math.log10(LEAST_OHM), math.log10(MOST_OHM), padding=0.01)
        low = min(float(rise[0]), mode.rise_s / 20)
        self.plot.setYRange(math.log10(low), math.log10(max(float(rise[-1]), mode.rise_s * 3)), padding=0.02)
        self.summary.setText(words(section, mode))
        self._hold()
        self.plot.setAccessibleDescription(words(section, mode))


def words(section: Section, mode: Mode) -> str:
    """The same in a sentence."""
    line = {"sda": "Data", "scl": "Clock"}[section.role]
    least, most = section.least_ohm, section.most_ohm(mode)
    window = allowed_ohms(least, most)
    if section.ohm is None or section.rise is None:
        return f"{line} line: nothing pulls it up; {window}."
    more = section.more_metres(mode)
    cord = f"; it may grow by {show(more, 'm')} of cord" if more > 0 else ""
    return (
        f"{line} line: {show(section.ohm.typ, 'Ω')} with {show(section.farad, 'F')} rise in "
        f"{show(section.rise.max, 's')} at worst; {window}{cord}."
    )

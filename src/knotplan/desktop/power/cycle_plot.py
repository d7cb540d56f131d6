"""The current of the chosen node over one cycle, one activity upon another."""

import numpy as np
import pyqtgraph as pg
from PySide6.QtWidgets import QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.core.power.activities import timeline
from knotplan.core.power.node import Node
from knotplan.core.quantity.written import show
from knotplan.desktop.panels.fields import column_in, label
from knotplan.desktop.plot import limit_line, plot
from knotplan.desktop.power.activities_panel import layer_colour
from knotplan.desktop.session import Session


class CyclePlot(QWidget):
    """Filled steps, the largest first; a thin line shows the same at worst, a dashed one the limit."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.plot = plot(palette, "Current over one cycle", bottom="s")
        self.summary = label("", "faint")
        down = column_in(self, 2)
        down.addWidget(self.summary)
        down.addWidget(self.plot, 1)

    def draw(self, node: Node | None) -> None:
        self.plot.clear()
        self.summary.setText(
            f"{node.title} over one cycle: filled usually, the line at worst" if node else ""
        )
        if node is None:
            return
        line = timeline(self.session.plan, node.loads)
        edges = np.array(line.edges_s)
        if not line.layers:
            return
        unit, factor = ("A", 1.0) if max(line.total("worst_a")) >= 1 else ("mA", 1e3)
        self.plot.setLabel("left", unit, color=self.p.faint)
        usual = factor * np.array([layer.usual_a for layer in line.layers])
        worst = factor * np.array(line.total("worst_a"))
        stacked = usual.cumsum(axis=0)
        for k in range(len(line.layers) - 1, -1, -1):
            tone = pg.mkColor(layer_colour(self.session, line.layers[k].title))
            self.plot.addItem(
                pg.PlotCurveItem(
                    edges,
                    stacked[k],
                    stepMode="center",
                    fillLevel=0,
                    brush=pg.mkBrush(tone),
                    pen=pg.mkPen(tone.darker(120), width=1),
                )
            )
        self.plot.addItem(
            pg.PlotCurveItem(edges, worst, stepMode="center", pen=pg.mkPen(self.p.ink, width=1.4))
        )
        top = float(worst.max())
        limit = None if node.limit_a is None else node.limit_a * factor
        if limit is not None and limit < 3 * top:
            self.plot.addItem(limit_line(self.p, limit, f"limit {show(limit / factor, 'A')}", angle=0))
            top = max(top, limit)
        self.plot.setXRange(0, float(edges[-1]), padding=0.01)
        self.plot.setYRange(0, top * 1.12 or 1.0, padding=0)
        text = ", ".join(f"{layer.title} {show(max(layer.usual_a), 'A')}" for layer in line.layers)
        self.plot.setAccessibleDescription(
            f"{node.title}: {text}; at worst {show(float(worst.max()) / factor, 'A')}"
        )

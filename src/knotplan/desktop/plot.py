"""Plots in our colours. The library behind them is imported with this file, which
nothing does before a plot is opened."""

import pyqtgraph as pg

from knotplan.core.drawing.palette import Palette


def plot(p: Palette, name: str, left: str = "", bottom: str = "") -> pg.PlotWidget:
    """An empty plot: cloth-coloured, with thin axes and no menu of the library's own."""
    widget = pg.PlotWidget(background=p.card)
    widget.setAccessibleName(name)
    widget.setMenuEnabled(False)
    widget.hideButtons()
    widget.setMouseEnabled(x=False, y=False)
    widget.setFrameShape(widget.Shape.NoFrame)
    for side, text in (("left", left), ("bottom", bottom)):
        axis = widget.getAxis(side)
        axis.setPen(pg.mkPen(p.edge))
        axis.setTextPen(pg.mkPen(p.faint))
        axis.setTickFont(widget.font())
        axis.enableAutoSIPrefix(False)
        if text:
            widget.setLabel(side, text, color=p.faint)
    return widget


def steps(p: Palette, edges: object, counts: object) -> pg.PlotCurveItem:
    """A histogram's outline, filled."""
    return pg.PlotCurveItem(
        edges,
        counts,
        stepMode="center",
        fillLevel=0,
        brush=pg.mkBrush(p.active_soft),
        pen=pg.mkPen(p.active, width=1.4),
    )


def limit_line(
    p: Palette, at: float, text: str, angle: int = 90, tone: str = "", above: bool = False
) -> pg.InfiniteLine:
    """A line across the plot with its words beside it, on the left
    above a level one or on the right below."""
    colour = tone or p.stop
    level = (
        {"position": 0.01, "anchors": [(0, 1), (0, 1)]}
        if above
        else {"position": 0.99, "anchors": [(1, 0), (1, 0)]}
    )
    lies = level if angle == 0 else {"position": 0.92}
    return pg.InfiniteLine(
        at,
        angle,
        pen=pg.mkPen(colour, width=1.6, style=pg.QtCore.Qt.PenStyle.DashLine),
        label=text,
        labelOpts={"color": colour, "fill": p.card, "rotateAxis": None, **lies},
    )

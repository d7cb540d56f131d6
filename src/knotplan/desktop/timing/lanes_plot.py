"""The waves on a common time axis, with two cursors. Only what is in sight is reckoned and drawn."""

import math
from typing import Any

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import text_width
from knotplan.core.timing.lanes import Lane
from knotplan.core.timing.span import next_edge, panned, tick_words, ticks, zoomed
from knotplan.core.timing.wave import BUSY, Seen
from knotplan.desktop.lettering import px
from knotplan.desktop.panels.fields import column_in
from knotplan.desktop.panels.two_lines import ROW
from knotplan.desktop.plot import plot

HIGH, LOW = 8.0, 29.0
"""of a row, from its top, in pixels"""
AXIS = 30
STEP = 1.4
MOST_WORDS = 150
NAMES = ("A", "B")


class TimeAxis(pg.AxisItem):  # type: ignore[misc]  # the library has no types
    """Round moments in the unit that suits them."""

    def tickValues(self, least: float, most: float, size: float) -> list[tuple[float, list[float]]]:
        values = ticks(least, most, max(3, int(size / 95)))
        return [(values[1] - values[0] if len(values) > 1 else most - least, values)]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        return tick_words(values, spacing)


class LanesPlot(QWidget):
    """The wheel zooms where the pointer is, dragging moves, a click puts
    cursor A, Shift and a click cursor B."""

    moved = Signal()
    """another stretch, or another place of a cursor"""

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.lanes: list[Any] = []
        self.start_s, self.end_s = 0.0, 0.05
        self.offset = 0
        self.chosen: Any = None
        """of the rows: lanes here, captured channels in Bring-up"""
        self.at: list[float | None] = [None, None]
        """where the cursors stand, s"""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Waves")
        self.plot = plot(palette, "Waves over time")
        axis = TimeAxis("bottom")
        axis.setPen(pg.mkPen(palette.edge))
        axis.setTextPen(pg.mkPen(palette.faint))
        axis.setHeight(px(AXIS))
        self.plot.setAxisItems({"bottom": axis})
        self.plot.hideAxis("left")
        self.plot.getPlotItem().setContentsMargins(0, 0, 0, 0)
        self.plot.invertY(True)
        self.plot.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.plot.viewport().setMouseTracking(True)
        self.plot.viewport().installEventFilter(self)
        self._pressed: QPointF | None = None
        self._grabbed = (0.0, 0.0)
        self._dragged = False
        self._cursors = [
            pg.InfiniteLine(
                0,
                90,
                movable=True,
                pen=pg.mkPen(tone, width=1.6),
                hoverPen=pg.mkPen(tone, width=3),
                label=name,
                labelOpts={"position": 0.04, "color": palette.card, "fill": tone},
            )
            for name, tone in zip(NAMES, (palette.care_text, palette.good), strict=True)
        ]
        for k, line in enumerate(self._cursors):
            line.setZValue(20)
            line.sigPositionChanged.connect(lambda x, k=k: self._cursor_dragged(k, float(x.value())))
            line.hide()
            self.plot.addItem(line)
        self._items: list[pg.GraphicsObject] = []
        column_in(self).addWidget(self.plot)

    # --- what is shown ------------------------------------------------------------------------------

    def show_lanes(self, lanes: list[Lane], chosen: Lane | None) -> None:
        self.lanes, self.chosen = lanes, chosen
        self.redraw()

    def look_at(self, start_s: float, end_s: float) -> None:
        """Another stretch of time."""
        self.start_s, self.end_s = start_s, end_s
        self.redraw()
        self.moved.emit()

    def scroll_to(self, offset: int) -> None:
        """The list beside stands so many pixels further down."""
        self.offset = offset
        self.redraw()

    @property
    def per_pixel(self) -> float:
        return (self.end_s - self.start_s) / max(50, int(self.plot.viewport().width()))

    def redraw(self) -> None:
        for item in self._items:
            self.plot.removeItem(item)
        self._items = []
        tall = max(1, self.plot.viewport().height() - px(AXIS))
        self.plot.setXRange(self.start_s, self.end_s, padding=0)
        self.plot.setYRange(self.offset, self.offset + tall, padding=0)
        high = px(ROW)
        first = max(0, self.offset // high)
        for k in range(first, min(len(self.lanes), (self.offset + tall) // high + 1)):
            self._draw(self.lanes[k], k * high)
        for k, line in enumerate(self._cursors):
            where = self.at[k]
            line.setVisible(where is not None)
            if where is not None:
                line.blockSignals(True)
                line.setValue(where)
                line.blockSignals(False)
        self.setAccessibleDescription(self.words())

    def _put(self, item: pg.GraphicsObject) -> None:
        self.plot.addItem(item)
        self._items.append(item)

    def _draw(self, lane: Lane, top: float) -> None:
        p = self.p
        seen = lane.wave.seen(self.start_s, self.end_s, 2 * self.per_pixel)
        tone = p.active if lane is self.chosen else p.ink
        base = pg.PlotCurveItem(
            [self.start_s, self.end_s], [top + px(ROW) - 0.5] * 2, pen=pg.mkPen(p.edge, width=0.8)
        )
        self._put(base)
        busy = np.flatnonzero(seen.states == BUSY)
        ends = np.append(seen.times[1:], self.end_s)
        if len(busy):
            self._put(
                pg.BarGraphItem(
                    x0=seen.times[busy],
                    x1=np.maximum(ends[busy], seen.times[busy] + self.per_pixel),
                    y0=top + px(HIGH),
                    y1=top + px(LOW),
                    pen=pg.mkPen(tone, width=1),
                    brush=pg.mkBrush(p.active_soft),
                )
            )
        x, y = steps_of(seen, self.end_s, top)
        self._put(
            pg.PlotCurveItem(
                x, y, pen=pg.mkPen(tone, width=2 if lane is self.chosen else 1), connect="finite"
            )
        )
        self._words(lane, top)

    def _words(self, lane: Lane, top: float) -> None:
        """Bytes, steps and pixels, where there is room for them."""
        for count, m in enumerate(lane.wave.words(self.start_s, self.end_s, 14 * self.per_pixel)):
            if count >= MOST_WORDS:
                break
            a, b = max(m.start_s, self.start_s), min(m.end_s, self.end_s)
            if text_width(m.text, px(10)) < (b - a) / self.per_pixel - 4:
                item = pg.TextItem(m.text, color=self.p.care_text, anchor=(0.5, 0.5))
                font = item.textItem.font()
                font.setPixelSize(px(10))
                item.setFont(font)
                item.setPos((a + b) / 2, top + px(ROW - 8))
                self._put(item)

    def words(self) -> str:
        """What is in sight, in words."""
        stretch = (
            f"from {tick_words([self.start_s], self.end_s - self.start_s)[0]}, for "
            f"{tick_words([self.end_s - self.start_s], self.end_s - self.start_s)[0]}"
        )
        return f"{len(self.lanes)} lanes {stretch}" + (
            f"; {self.chosen.title}: {self.chosen.about}" if self.chosen else ""
        )

    # --- cursors ------------------------------------------------------------------------------------

    def put_cursor(self, k: int, at_s: float | None) -> None:
        self.at[k] = at_s if at_s is None or at_s >= 0 else 0.0
        self.redraw()
        self.moved.emit()

    def _cursor_dragged(self, k: int, at_s: float) -> None:
        self.at[k] = max(0.0, at_s)
        self.moved.emit()

    def to_edge(self, forwards: bool, k: int = 0) -> None:
        """A cursor to the next edge of the chosen lane, which then is in sight."""
        if self.chosen is None:
            return
        now = self.at[k]
        edge = self._next_edge(self.start_s - 1e-12 if now is None else now, forwards)
        if edge is None:
            return
        self.at[k] = edge
        if not self.start_s <= edge <= self.end_s:
            length = self.end_s - self.start_s
            self.start_s = max(0.0, edge - length / 2)
            self.end_s = self.start_s + length
        self.redraw()
        self.moved.emit()

    def _next_edge(self, at_s: float, forwards: bool) -> float | None:
        return next_edge(self.chosen, at_s, forwards) if self.chosen is not None else None

    # --- hands --------------------------------------------------------------------------------------

    def _time_at(self, x: float) -> float:
        return self.start_s + x * self.per_pixel

    def eventFilter(self, watched: object, event: object) -> bool:
        if isinstance(event, QWheelEvent):
            turns = event.angleDelta().y() / 120
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.look_at(*panned(self.start_s, self.end_s, -0.15 * turns))
            elif turns:
                self.look_at(
                    *zoomed(self.start_s, self.end_s, STEP**-turns, self._time_at(event.position().x()))
                )
            return True
        if isinstance(event, QMouseEvent):
            return self._mouse(event)
        return False

    def _mouse(self, event: QMouseEvent) -> bool:
        kind = event.type()
        if kind == QMouseEvent.Type.MouseButtonPress and event.button() == Qt.MouseButton.LeftButton:
            if any(
                at is not None and abs(at - self._time_at(event.position().x())) < 6 * self.per_pixel
                for at in self.at
            ):
                return False  # a cursor is taken hold of
            self._pressed, self._grabbed, self._dragged = event.position(), (self.start_s, self.end_s), False
            self.setFocus()
            return True
        if kind == QMouseEvent.Type.MouseMove and self._pressed is not None:
            shift = (self._pressed.x() - event.position().x()) / max(50, self.plot.viewport().width())
            self._dragged = self._dragged or abs(self._pressed.x() - event.position().x()) > 4
            if self._dragged:
                self.look_at(*panned(*self._grabbed, shift))
            return True
        if kind == QMouseEvent.Type.MouseButtonRelease and self._pressed is not None:
            if not self._dragged:
                second = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                self.put_cursor(int(second), self._time_at(event.position().x()))
            self._pressed = None
            return True
        return False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        middle = (self.start_s + self.end_s) / 2
        shift = int(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        match event.key():
            case Qt.Key.Key_Left:
                self.look_at(*panned(self.start_s, self.end_s, -0.1))
            case Qt.Key.Key_Right:
                self.look_at(*panned(self.start_s, self.end_s, 0.1))
            case Qt.Key.Key_Up:
                self.look_at(*zoomed(self.start_s, self.end_s, 1 / STEP, middle))
            case Qt.Key.Key_Down:
                self.look_at(*zoomed(self.start_s, self.end_s, STEP, middle))
            case Qt.Key.Key_Home:
                self.look_at(0.0, self.end_s - self.start_s)
            case Qt.Key.Key_PageDown:
                self.to_edge(True, shift)
            case Qt.Key.Key_PageUp:
                self.to_edge(False, shift)
            case Qt.Key.Key_Escape:
                self.at = [None, None]
                self.redraw()
                self.moved.emit()
            case _:
                super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.redraw()


def steps_of(seen: Seen, end_s: float, top: float) -> tuple[np.ndarray, np.ndarray]:
    """Corners of the line, broken where the wave is busy."""
    starts, ends = seen.times, np.append(seen.times[1:], end_s)
    y = np.where(seen.states == 1, top + HIGH, np.where(seen.states == 0, top + LOW, math.nan))
    return np.column_stack([starts, ends]).ravel(), np.repeat(y, 2)

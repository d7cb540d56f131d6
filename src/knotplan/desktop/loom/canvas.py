"""The loom as it is painted: cached layers, ghosts, the view's place and scale."""

from time import perf_counter

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QFocusEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from knotplan.core.drawing.loom.beads import bead_shapes
from knotplan.core.drawing.loom.bench import Bench
from knotplan.core.drawing.loom.cords import cords, to_pin
from knotplan.core.drawing.loom.layout import put_where
from knotplan.core.drawing.loom.lenses import relatives_shown
from knotplan.core.drawing.loom.picture import Group, groups, overlay
from knotplan.core.drawing.loom.room import scale_in
from knotplan.core.drawing.loom.sides import sides_of
from knotplan.core.drawing.loom.sketch import FAR, Sketch
from knotplan.core.drawing.loom.view import Selection, look
from knotplan.core.drawing.palette import CORDS, Palette
from knotplan.core.drawing.shapes import Box, Curve, Shape, Text, text_width
from knotplan.desktop.loom.hints import card, hint
from knotplan.desktop.loom.hit_tester import Hit, Hits
from knotplan.desktop.loom.layer import Aim, Layer
from knotplan.desktop.paint import colour, paint
from knotplan.desktop.session import Session

FRAME_S, SETTLE_MS = 0.012, 120
"""a layer that takes longer than this to paint is not painted anew for each step of a gesture"""
FEW_GHOSTS = 4
"""so few proposed ties are drawn to their ends, also those that will be stubs"""
MARGIN = 12.0
EDGE_OF_SIGHT = 40.0
"""what is selected is brought so far into sight, pixels"""
STILL = 1.15
"""after an edit the bench keeps its place, while it would not be shown so much larger"""


class Drag(Struct):
    """A cord on its way from a contact to the pointer."""

    start: str
    at: QPointF
    moving: bool = False


class Band(Struct, frozen=True):
    """A frame drawn over the bench: what it touches is selected, besides what was before."""

    start: QPointF
    at: QPointF
    before: tuple[str, ...] = ()


class Carry(Struct, frozen=True):
    """Cards on their way to another place."""

    start: QPointF
    at: QPointF
    parts: tuple[str, ...]
    moving: bool = False


class LoomCanvas(QWidget):
    """Board, parts and cords, painted."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session = session
        self.p = palette
        self._layer: QPixmap | None = None
        self._layer_scale, self._layer_offset, self._took_s = 1.0, QPointF(), 0.0
        self._moving: tuple[QPixmap, float, QPointF] | None = None
        """what was painted before the view began to move: image, scale, offset"""
        self._settling = QTimer(self, singleShot=True, interval=SETTLE_MS)
        self._settling.timeout.connect(self._settle)
        self._shown: list[Group] | None = None
        self._from_afar: Sketch | None = None
        """what the layer is painted from, kept while only the scale changes"""
        self.card_kept = False
        """the card of the selected pin stays, wherever the pointer is"""
        self.painted = False
        """it has been seen"""
        self._sketched: Sketch | None = None
        """the view from afar of before an edit"""
        self._painted = Layer()
        self._hits: Hits | None = None
        self._fitted = True
        self._scale = 1.0
        self._offset = QPointF()
        self._hover = Hit()
        self._rested = False
        """the pointer has been still for a while"""
        self._reached_by_keys = False
        """the keyboard came here by Tab or a shortcut: then a frame shows where it is"""
        self._drag: Drag | None = None
        self._band: Band | None = None
        self._carry: Carry | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(420, 300)
        session.changed.connect(self._redraw)
        session.looked.connect(self._relook)

    _layer_lens = ""

    def set_palette(self, palette: Palette) -> None:
        self.p = palette
        self._redraw()

    def _forget_what_is_gone(self) -> None:
        """What the pointer was on, and the cord that it pulls, may have
        gone with an edit, or been folded away."""
        bench, hover = self.session.bench, self._hover
        folded = hover.kind in ("lead", "pin") and hover.id not in bench.leads and hover.id not in bench.pins
        if folded or not self.session.is_there(hover.kind, hover.id):
            self._hover, self._rested = Hit(), False
        if (
            self._drag is not None
            and self._drag.start not in bench.leads
            and self._drag.start not in bench.pins
        ):
            self._drag = None

    def _forget_picture(self) -> None:
        """What was made from a bench goes with it: its shapes, its view from afar, the places to point at."""
        self._hits, self._shown, self._from_afar, self._layer = None, None, None, None

    def _redraw(self) -> None:
        self._forget_what_is_gone()
        self._forget_picture()
        self._moving = None
        if self._fitted and not (self.painted and self._in_sight()):
            self._fit()
        self._layer = None
        self._announce()
        self.update()

    def _relook(self) -> None:
        self._follow()
        if self._layer_lens != self.session.lens:
            self._layer, self._shown = None, None
        self._announce()
        self.update()

    def _follow(self) -> None:
        """Brings what is selected into sight, where the view has been zoomed or moved away from it."""
        box = self._selected_box()
        if self._fitted or box is None:
            return
        left, top = self.to_widget(box.left(), box.top()).toTuple()
        right, bottom = self.to_widget(box.right(), box.bottom()).toTuple()
        dx = _into(left, right, self.width())
        dy = _into(top, bottom, self.height())
        if dx or dy:
            self._offset += QPointF(dx, dy)
            self._layer = None

    def _selected_box(self) -> QRectF | None:
        """Where what is selected lies on the bench."""
        s, bench = self.session.selection, self.session.bench
        spot = bench.leads.get(s.lead) or bench.pins.get(s.id)
        if spot is not None:
            return QRectF(spot.x - 12, spot.y - 12, 24, 24)
        if s.kind == "part" and bench.inside.get(s.id, s.id) in bench.by_part:
            card = bench.card(s.id)
            return QRectF(card.x, card.y, card.w, card.h)
        return None

    def _announce(self) -> None:
        """Tells assistive technology what is selected."""
        s = self.session.selection
        c = self.session.circuit
        if s.kind == "part":
            self.setAccessibleDescription(c.placed[s.id].name)
        elif s.lead:
            self.setAccessibleDescription(c.titles.of(s.lead))
        elif s.kind == "pin":
            self.setAccessibleDescription(c.titles.full(s.id))

    @property
    def hits(self) -> Hits:
        if self._hits is None:
            self._hits = Hits(self.session.circuit, self.session.bench)
        return self._hits

    def _keep_for_gesture(self) -> None:
        """While the wheel turns or the bench is pulled, what was painted last is shown scaled and shifted,
        if painting takes longer than a frame; it is painted anew when the hand rests."""
        if self._layer is not None:
            self._moving = (self._layer, self._layer_scale, QPointF(self._layer_offset))
        self._layer = None
        if self._moving is not None and self._took_s > FRAME_S:
            self._settling.start()

    def _settle(self) -> None:
        self._moving = None
        self.update()

    def _paint_moving(self, painter: QPainter) -> None:
        assert self._moving is not None
        layer, scale, offset = self._moving
        factor = self._scale / scale
        painter.fillRect(self.rect(), colour(self.p.cloth))
        painter.translate(self._offset - offset * factor)
        painter.scale(factor, factor)
        painter.drawPixmap(0, 0, layer)
        painter.resetTransform()

    def _base_layer(self) -> QPixmap:
        if self._layer is None:
            began = perf_counter()
            ratio = self.devicePixelRatioF()
            size = QSize(round(self.width() * ratio), round(self.height() * ratio))
            aim = Aim(size, ratio, self._scale, QPointF(self._offset), self.p)
            self._layer, self._layer_lens = self._painted.picture(aim, self.layers()), self.session.lens
            self._layer_scale, self._layer_offset = self._scale, QPointF(self._offset)
            if self._painted.whole:  # as in each frame of a gesture
                self._took_s = perf_counter() - began
        return self._layer

    def layers(self) -> list[Group]:
        """What is painted now, from below upwards."""
        s = self.session
        if self.far:
            if self._from_afar is None:
                self._from_afar = self._sketched = Sketch(s.report, s.bench, self.p, self._sketched)
            return self._from_afar.groups(self._scale)
        if self._shown is None:
            self._shown = groups(s.report, s.bench, s.view, self.p)
        return self._shown

    @property
    def scale(self) -> float:
        """Pixels for a point of the picture."""
        return self._scale

    @property
    def far(self) -> bool:
        """So small that words on cards cannot be read."""
        return self._scale < FAR

    def _aim(self, painter: QPainter) -> None:
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        painter.translate(self._offset)
        painter.scale(self._scale, self._scale)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            if self._layer is None and self._moving is not None and self._settling.isActive():
                self._paint_moving(painter)
            else:
                painter.drawPixmap(0, 0, self._base_layer())
            self._aim(painter)
            s = self.session
            paint(painter, overlay(s.report, s.bench, s.view, self.p))
            paint(painter, self._ghosts())
            paint(painter, self._dragged())
            paint(painter, self._carried())
            paint(painter, self._hovered())
            painter.resetTransform()
            if not s.circuit.parts:
                self._paint_empty(painter)
            if self.hasFocus() and self._reached_by_keys:
                painter.setPen(QPen(colour(self.p.active), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self.rect().adjusted(1, 1, -2, -2))
        self.painted = True

    def _paint_empty(self, painter: QPainter) -> None:
        """What to do next on an empty bench."""
        x, *_ = self.session.bench.board
        left = QRectF(16, self.height() / 2 - 110, max(100.0, self.to_widget(x, 0).x() - 32), 220)
        painter.setPen(colour(self.p.faint))
        text = "The bench is empty.\n\nPress A and type what you have:\nled, servo, relay, button …"
        painter.drawText(left, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)

    def _ghosts(self) -> list[Shape]:
        """The cords that a previewed remedy would lay."""
        after = self.session.preview_circuit()
        if after is None:
            return []
        now = {t.id: t for t in self.session.plan.ties}
        other = {t.id for t in after.plan.ties if now.get(t.id) != t}
        known = {c.part for c in self.session.bench.cards}
        bench = self.session.bench
        added = [p.name for i, p in after.placed.items() if i not in known]
        if added:
            return self._new_part_ghost(added)
        shapes: list[Shape] = []
        # of few, every cord is drawn to its end; of many, supplies and grounds are stubs, as they will be
        for cord in cords(after, bench, frozenset(other) if len(other) <= FEW_GHOSTS else frozenset()):
            if cord.tie in other:
                shapes.append(
                    Curve(
                        cord.start, cord.pieces, self.p.active, 4 if len(other) <= FEW_GHOSTS else 2.6, True
                    )
                )
                shapes += bead_shapes(cord.beads, self.p, proposed=True)
        return shapes

    def _new_part_ghost(self, parts: list[str]) -> list[Shape]:
        x, y, w, h = self.session.bench.bounds()
        names = ", ".join(parts)
        wide = text_width(names, 13, True) + 40
        return [
            Box(x + w / 2 - wide / 2, y + h - 44, wide, 34, 8, self.p.active_soft, self.p.active, 1.6),
            Text(x + w / 2, y + h - 22, f"+ {names}", 13, self.p.active, True, "middle"),
        ]

    def _dragged(self) -> list[Shape]:
        if not self._drag or not self._drag.moving:
            return []
        bench, c = self.session.bench, self.session.circuit
        spot = bench.leads.get(self._drag.start)
        here = self._to_bench(self._drag.at)
        if spot is None:
            pin = bench.pins[self._drag.start]
            return [_loose((pin.exit_x, pin.exit_y), (here.x(), here.y()), self.p.active)]
        lead = c.contacts.lead(self._drag.start)
        ink = CORDS.get(lead.cord if lead else "grey", CORDS["grey"])
        target = self.hits.contact_at(here.x(), here.y())
        if target in bench.pins:  # the cord snaps
            pieces = to_pin(bench, spot, bench.pins[target])
            return [
                Curve((spot.x, spot.y), pieces, self.p.cord_edge, 5.4),
                Curve((spot.x, spot.y), pieces, ink, 3.6),
            ]
        return [_loose((spot.x, spot.y), (here.x(), here.y()), ink)]

    def _carried(self) -> list[Shape]:
        """The frame that selects; or the outlines of the cards that are moved, and a bar where they go."""
        p = self.p
        if self._band:
            a, b = self._to_bench(self._band.start), self._to_bench(self._band.at)
            area = QRectF(a, b).normalized()
            return [Box(area.x(), area.y(), area.width(), area.height(), 2, p.active + "1c", p.active, 1.2)]
        if not self._carry or not self._carry.moving:
            return []
        bench, here = self.session.bench, self._to_bench(self._carry.at)
        shift = here - self._to_bench(self._carry.start)
        cards = [bench.by_part[part] for part in self._carry.parts if part in bench.by_part]
        return [
            *_bar(bench, here, self._carry.parts, p),
            *(Box(c.x + shift.x(), c.y + shift.y(), c.w, c.h, 8, p.card + "c0", p.active, 2) for c in cards),
        ]

    def _hovered(self) -> list[Shape]:
        s = self.session
        lead = self._drag.start if self._drag and self._drag.moving else ""
        view = look(s.report, "fit", Selection("lead", lead)) if lead and lead in s.bench.leads else s.view
        kept = s.selection.id if self.card_kept and s.selection.kind == "pin" else ""
        if kept in s.bench.pins and not (self._hover.kind and self._hover.id != kept):
            return card(s.report, s.bench, kept, self.p)
        if not self._hover.kind:
            return []
        kin = relatives_shown(s.circuit, s.bench, self._hover.id, self.p) if self._points_at_sharing else ()
        return [*kin, *hint(s.report, s.bench, view, self._hover, self.p, self._rested)]

    @property
    def _points_at_sharing(self) -> bool:
        return self.session.lens == "sharing" and self._hover.kind == "pin"

    def _fit(self) -> None:
        room = (max(1.0, self.width() - 2 * MARGIN), max(1.0, self.height() - 2 * MARGIN))
        if self.session.give_room(room):
            self._forget_picture()
        x, y, w, h = self.session.bench.bounds()
        self._scale = max(0.02, scale_in(self.session.bench, room))
        self._offset = QPointF(
            self.width() / 2 - (x + w / 2) * self._scale, self.height() / 2 - (y + h / 2) * self._scale
        )

    def _in_sight(self) -> bool:
        """Everything is shown already, and would not be much larger if it were fitted anew."""
        x, y, w, h = self.session.bench.bounds()
        left, top = self.to_widget(x, y).toTuple()
        right, bottom = self.to_widget(x + w, y + h).toTuple()
        inside = left >= 4 and top >= 4 and right <= self.width() - 4 and bottom <= self.height() - 4
        room = (self.width() - 2 * MARGIN, self.height() - 2 * MARGIN)
        return bool(inside and scale_in(self.session.bench, room) < STILL * self._scale)

    def fit(self) -> None:
        """Shows everything, and keeps doing so when the window changes."""
        self._fitted = True
        self._fit()
        self._layer = None
        self.update()

    def move_by(self, by: QPointF) -> None:
        """Moves the view."""
        self._offset += by
        self._fitted = False
        self._keep_for_gesture()
        self.update()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        at = at or QPointF(self.width() / 2, self.height() / 2)
        scale = max(0.03, min(6.0, self._scale * factor))
        self._offset = at - (at - self._offset) * (scale / self._scale)
        self._scale, self._fitted = scale, False
        self._keep_for_gesture()
        self.update()

    def _to_bench(self, at: QPointF) -> QPointF:
        return (at - self._offset) / self._scale

    def to_widget(self, x: float, y: float) -> QPointF:
        """A place on the bench as a place in the widget."""
        return QPointF(x, y) * self._scale + self._offset

    def place_of(self, contact: str) -> QPointF:
        """Where a contact is shown, in the widget."""
        bench = self.session.bench
        spot = bench.spot(contact) or bench.pins[contact]
        return self.to_widget(spot.x, spot.y)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._reached_by_keys = event.reason() in (
            Qt.FocusReason.TabFocusReason,
            Qt.FocusReason.BacktabFocusReason,
            Qt.FocusReason.ShortcutFocusReason,
        )
        super().focusInEvent(event)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._fitted:
            self._fit()
        self._layer = None


def _bar(bench: Bench, here: QPointF, moving: tuple[str, ...], p: Palette) -> list[Shape]:
    """A bar between the cards where those that are carried would come to stand."""
    side, place = put_where(bench, here.x(), here.y(), frozenset(moving))
    name = sides_of(bench.lying)[side == "right"]
    cards = [bench.by_part[part] for part in bench.order.get(name, ()) if part not in moving]
    if not cards:
        return []
    after = cards[place] if place < len(cards) else None
    near = after or cards[-1]
    if bench.lying:
        x = near.x - 4 if after else near.x + near.w + 4
        return [Box(x - 1.5, near.y, 3, near.h, 1.5, p.active)]
    y = near.y - 4 if after else near.y + near.h + 4
    return [Box(near.x, y - 1.5, near.w, 3, 1.5, p.active)]


def _into(first: float, last: float, room: float) -> float:
    """How far to move so that a stretch lies within the room, with some of it around."""
    if last - first > room - 2 * EDGE_OF_SIGHT:
        return room / 2 - (first + last) / 2
    return max(0.0, EDGE_OF_SIGHT - first) + min(0.0, room - EDGE_OF_SIGHT - last)


def _loose(a: tuple[float, float], b: tuple[float, float], ink: str) -> Curve:
    bend = (b[0] - a[0]) * 0.5
    return Curve(a, ((a[0] + bend, a[1], b[0] - bend * 0.4, b[1], b[0], b[1]),), ink, 3.6)

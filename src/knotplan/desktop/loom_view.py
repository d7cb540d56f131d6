"""The loom as a widget: painting in cached layers, pointing, dragging, zooming, keys."""


from time import perf_counter

from msgspec import Struct
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from knotplan.core import edits
from knotplan.core.direction import consumer_first
from knotplan.core.fit import Grade, fits
from knotplan.core.loom.bench import Card
from knotplan.core.loom.cords import Cord, cords, to_pin
from knotplan.core.loom.lenses import relatives_shown
from knotplan.core.loom.palette import CORDS, Palette
from knotplan.core.loom.picture import Group, board_group, groups, overlay
from knotplan.core.loom.shapes import Box, Curve, Shape, Text, text_width
from knotplan.core.loom.sketch import FAR, Sketch
from knotplan.core.loom.tree import tree_of
from knotplan.core.loom.view import Selection, look
from knotplan.core.plan import split
from knotplan.desktop.group_cache import GroupCache
from knotplan.desktop.hints import card, hint
from knotplan.desktop.hits import Hit, Hits
from knotplan.desktop.paint import colour, paint
from knotplan.desktop.session import Session

FRAME_S, REST_MS = 0.012, 120
"""a layer that takes longer than this to paint is not painted anew for each step of a gesture"""
FEW_GHOSTS = 4
FEW = 12
"""a bench with so few cards is drawn in full however small the window"""
MARGIN = 14.0
ZOOM_STEP = 1.2
REST_MS = 450
"""how long the pointer is still before a pin shows its card"""


class _Drag(Struct):
    """A cord on its way from a contact to the pointer."""

    start: str
    at: QPointF
    moving: bool = False


class LoomView(QWidget):
    """Board, parts and cords; asks the session for every change."""

    menu_wanted = Signal(QPoint)
    rename_wanted = Signal(str)
    typed = Signal(str)
    """letters typed while a lead is selected: the beginning of a pin's name"""
    confirmed = Signal()
    """Enter on a selected lead"""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session = session
        self.p = palette
        self._layer: QPixmap | None = None
        self._layer_scale, self._layer_offset, self._took_s = 1.0, QPointF(), 0.0
        self._moving: tuple[QPixmap, float, QPointF] | None = None
        """what was painted before the view began to move: image, scale, offset"""
        self._settling = QTimer(self, singleShot=True, interval=REST_MS)
        self._settling.timeout.connect(self._settle)
        self._shown: list[Group] | None = None
        self._from_afar: Sketch | None = None
        """what the layer is painted from, kept while only the scale changes"""
        self.card_kept = False
        """the card of the selected pin stays, wherever the pointer is"""
        self.painted = False
        """it has been seen"""
        self._groups = GroupCache()
        self._hits: Hits | None = None
        self._fitted = True
        self._scale = 1.0
        self._offset = QPointF()
        self._hover = Hit()
        self._rested = False
        """the pointer has been still for a while"""
        self._resting = QTimer(self)
        self._resting.setSingleShot(True)
        self._resting.setInterval(REST_MS)
        self._resting.timeout.connect(self._rest)
        self._drag: _Drag | None = None
        self._pan: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(420, 300)
        self.setAccessibleName("Loom")
        self.setAccessibleDescription("Board, parts and cords. Arrow keys go from lead to lead, Enter ties.")
        session.changed.connect(self._redraw)
        session.looked.connect(self._relook)

    # --- layers -------------------------------------------------------------------------------

    def set_palette(self, palette: Palette) -> None:
        self.p = palette
        self._redraw()

    def _redraw(self) -> None:
        self._hits, self._moving = None, None
        self._shown, self._from_afar = None, None
        if self._fitted:
            self._fit()
        self._layer = None
        self._announce()
        self.update()

    def _relook(self) -> None:
        if self._layer_lens != self.session.lens:
            self._layer, self._shown = None, None
        self._announce()
        self.update()

    def _announce(self) -> None:
        """Tells assistive technology what is selected."""
        s = self.session.selection
        c = self.session.circuit
        if s.kind == "part":
            self.setAccessibleDescription(c.placed[s.id].name)
        elif s.lead:
            self.setAccessibleDescription(c.title(s.lead))
        elif s.kind == "pin":
            self.setAccessibleDescription(c.full_title(s.id))

    _layer_lens = ""

    @property
    def hits(self) -> Hits:
        if self._hits is None:
            self._hits = Hits(self.session.circuit, self.session.bench)
        return self._hits

    def _keep_for_gesture(self) -> None:
        """While the wheel turns or the bench is pulled, what was painted last is shown scaled and shifted, if painting
        takes longer than a frame; it is painted anew when the hand rests."""
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
            layer = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
            layer.setDevicePixelRatio(ratio)
            layer.fill(colour(self.p.cloth))
            painter = QPainter(layer)
            self._aim(painter)
            report, bench = self.session.report, self.session.bench
            if self._far:
                self._groups.paint(painter, [board_group(report.circuit, bench, self.p)])
                if self._from_afar is None:
                    self._from_afar = Sketch(report, bench, self.p)
                paint(painter, self._from_afar.shapes(self._scale))
            else:
                if self._shown is None:
                    self._shown = groups(report, bench, self.session.view, self.p)
                self._groups.paint(painter, self._shown)
            painter.end()
            self._layer, self._layer_lens = layer, self.session.lens
            self._layer_scale, self._layer_offset, self._took_s = self._scale, QPointF(self._offset), perf_counter() - began
        return self._layer

    @property
    def _far(self) -> bool:
        """So small that words on cards cannot be read."""
        return self._scale < FAR and len(self.session.bench.cards) > FEW

    def _aim(self, painter: QPainter) -> None:
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        painter.translate(self._offset)
        painter.scale(self._scale, self._scale)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._layer is None and self._moving is not None and self._settling.isActive():
            self._paint_moving(painter)
        else:
            painter.drawPixmap(0, 0, self._base_layer())
        self._aim(painter)
        s = self.session
        paint(painter, overlay(s.report, s.bench, s.view, self.p))
        paint(painter, self._ghosts())
        paint(painter, self._dragged())
        paint(painter, self._hovered())
        painter.resetTransform()
        if not s.circuit.parts:
            self._paint_empty(painter)
        painter.end()
        self.painted = True

    def _paint_empty(self, painter: QPainter) -> None:
        """What to do next on an empty bench."""
        x, *_ = self.session.bench.board
        left = QRectF(16, self.height() / 2 - 110, max(100.0, self.to_widget(x, 0).x() - 32), 220)
        painter.setPen(colour(self.p.faint))
        text = "The bench is empty.\n\nPress A and type what you have:\nled, servo, relay, button …"
        painter.drawText(left, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)

    # --- what moves ---------------------------------------------------------------------------

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
                shapes.append(Curve(cord.start, cord.pieces, self.p.active, 4 if len(other) <= FEW_GHOSTS else 2.6, True))
                shapes += _bead_labels(cord, self.p)
        return shapes

    def _new_part_ghost(self, parts: list[str]) -> list[Shape]:
        x, y, w, h = self.session.bench.bounds()
        names = ", ".join(parts)
        wide = text_width(names, 13, True) + 40
        return [Box(x + w / 2 - wide / 2, y + h - 44, wide, 34, 8, self.p.active_soft, self.p.active, 1.6),
                Text(x + w / 2, y + h - 22, f"+ {names}", 13, self.p.active, True, "middle")]  # fmt: skip

    def _dragged(self) -> list[Shape]:
        if not self._drag or not self._drag.moving:
            return []
        bench, c = self.session.bench, self.session.circuit
        spot = bench.leads.get(self._drag.start)
        here = self._to_bench(self._drag.at)
        if spot is None:
            pin = bench.pins[self._drag.start]
            return [_loose((pin.exit_x, pin.exit_y), (here.x(), here.y()), self.p.active)]
        lead = c.lead(self._drag.start)
        ink = CORDS.get(lead.cord if lead else "grey", CORDS["grey"])
        target = self.hits.contact_at(here.x(), here.y())
        if target in bench.pins:  # the cord snaps
            pieces = to_pin(bench, spot, bench.pins[target])
            return [Curve((spot.x, spot.y), pieces, self.p.cord_edge, 5.4), Curve((spot.x, spot.y), pieces, ink, 3.6)]
        return [_loose((spot.x, spot.y), (here.x(), here.y()), ink)]

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

    # --- where things are -----------------------------------------------------------------------

    def _fit(self) -> None:
        x, y, w, h = self.session.bench.bounds()
        room_w, room_h = self.width() - 2 * MARGIN, self.height() - 2 * MARGIN
        self._scale = max(0.02, min(room_w / w, room_h / h, 1.6))
        self._offset = QPointF(self.width() / 2 - (x + w / 2) * self._scale,
                               self.height() / 2 - (y + h / 2) * self._scale)  # fmt: skip

    def fit(self) -> None:
        """Shows everything, and keeps doing so when the window changes."""
        self._fitted = True
        self._fit()
        self._layer = None
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

    def keep_card(self, keep: bool | None = None) -> None:
        """Shows the card of the selected pin until Escape, or puts it away."""
        self.card_kept = not self.card_kept if keep is None else keep
        self.update()

    def fold(self, part: str) -> None:
        """Folds a hub with what hangs on it and unfolds it; of another part, shows all leads or those that are needed."""
        c = self.session.circuit
        now, hub = c.placed[part].shows, bool(tree_of(c).children.get(part))
        shows = {"folded": "", "": "folded" if hub else "all", "all": ""}[now]
        self.session.edit(f"show {c.placed[part].name} otherwise", edits.show_leads, part, shows)

    def _foot(self, at: QPointF) -> str:
        """The part whose card's foot is at a place."""
        return next((c.part for c in self.session.bench.cards if c.on_foot(at.x(), at.y())), "")

    def card_of(self, part: str) -> Card:
        return self.session.bench.card(part)

    # --- pointer --------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._fitted:
            self._fit()
        self._layer = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom(ZOOM_STEP ** (event.angleDelta().y() / 120), event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        here = self._to_bench(event.position())
        hit = self.hits.at(here.x(), here.y())
        if event.button() == Qt.MouseButton.MiddleButton or (event.button() == Qt.MouseButton.LeftButton and not hit.kind):
            self._pan = event.position()
        if event.button() not in (Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton):
            return
        self.session.select(hit.kind, hit.id)
        foot = self._foot(here)
        if foot and event.button() == Qt.MouseButton.LeftButton:
            shows = self.session.circuit.placed[foot].shows
            self.session.edit("show more or less", edits.show_leads, foot, "" if shows else "all")
        elif event.button() == Qt.MouseButton.LeftButton and hit.kind in ("lead", "pin"):
            self._drag = _Drag(hit.id, event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        here = event.position()
        if self._pan is not None:
            self._offset += here - self._pan
            self._pan, self._fitted = here, False
            self._keep_for_gesture()
            self.update()
            return
        if self._drag:
            far = (here - self._drag.at).manhattanLength() > 6
            self._drag.moving = self._drag.moving or far
            if self._drag.moving:
                self._drag.at = here
        spot = self._to_bench(here)
        hover = self.hits.at(spot.x(), spot.y())
        if hover != self._hover or (self._drag and self._drag.moving):
            self._rested = self._rested and hover == self._hover
            self._resting.start()
            self._hover = hover
            self.setCursor(Qt.CursorShape.PointingHandCursor if hover.kind else Qt.CursorShape.ArrowCursor)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pan = None
        drag, self._drag = self._drag, None
        if drag and drag.moving:
            spot = self._to_bench(event.position())
            target = self.hits.contact_at(spot.x(), spot.y()) or self._best_on(self.hits.at(spot.x(), spot.y()), drag.start)
            if target and target != drag.start:
                self._join(drag.start, target)
        self.update()

    def _best_on(self, hit: Hit, lead: str) -> str:
        """A cord dropped on a hub's card goes to the contact there that fits best, shown or not."""
        c = self.session.circuit
        if hit.kind != "part" or c.lead(lead) is None:
            return ""
        able = (f for f in fits(c, lead) if split(f.contact)[0] == hit.id and f.grade < Grade.IMPOSSIBLE)
        return next((f.contact for f in able), "")

    def _join(self, start: str, target: str) -> None:
        """Ties a lead to a contact, from whichever end the cord was pulled."""
        c = self.session.circuit
        if c.lead(start) is None:
            held = c.ties_at.get(start, [])
            if c.lead(target) is not None:
                start, target = target, start
            elif held:  # the pin's end of a cord moves to another pin
                start = held[0].lead
            else:
                self.session.noticed.emit("A cord runs from a lead to a pin; these are two pins.")
                return
        start, target = consumer_first(self.session.plan, self.session.catalog, start, target)
        said = f"tie {c.title(start)}"
        if self.session.edit(said, edits.tie, start, target):
            self.session.select("lead", start)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        spot = self._to_bench(event.position())
        hit = self.hits.at(spot.x(), spot.y())
        if hit.kind == "part":
            self.session.select("part", hit.id)
            self.rename_wanted.emit(hit.id)

    def _rest(self) -> None:
        self._rested = True
        if self._hover.kind == "pin":
            self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._hover = Hit()
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_wanted.emit(event.globalPos())

    # --- keys -----------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        sides = (Qt.Key.Key_Left, Qt.Key.Key_Right)
        key = Qt.Key(event.key())
        text = event.text()
        if key in steps:
            self._step(steps[key])
        elif key in sides:
            self._cross()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.confirmed.emit()
        elif key == Qt.Key.Key_Escape:
            self._drag = None
            self.card_kept = False
            self.session.select("", "")
        elif self.session.selection.lead and text.strip() and text.isalnum():
            self.typed.emit(text)
        else:
            super().keyPressEvent(event)

    def _step(self, by: int) -> None:
        """The next thing down or up: leads of one card after another, or pins of the board."""
        s, bench = self.session.selection, self.session.bench
        if s.kind == "pin":
            order = [p for p in bench.pins if self.session.circuit.pin(p)]
            self.session.select("pin", order[(order.index(s.id) + by) % len(order)] if s.id in order else order[0])
            return
        leads = [spot.contact for card in bench.cards for spot in card.leads]
        if not leads:
            return
        if s.kind == "part":
            now = leads.index(bench.card(s.id).leads[0].contact) - (by > 0)
        else:
            now = leads.index(s.lead) if s.lead in leads else -1
        self.session.select("lead", leads[(now + by) % len(leads)])

    def _cross(self) -> None:
        """From a lead to its pin or its best candidate, and from a pin to what is tied to it."""
        s, c = self.session.selection, self.session.circuit
        if s.lead:
            tie = c.tie_of(s.lead)
            best = next((a for a, f in self.session.view.answers.items() if f.grade == Grade.BEST), "")
            target = tie.to if tie else best
            if target:
                self.session.select("lead" if c.lead(target) else "pin", target)
        elif s.kind == "pin" and s.id in c.ties_at:
            self.session.select("lead", c.ties_at[s.id][0].lead)
        elif not s.kind:
            self._step(1)


def _bead_labels(cord: Cord, p: Palette) -> list[Shape]:
    shapes: list[Shape] = []
    for x, y, text in cord.beads:
        w = text_width(text, 12, True) + 16
        shapes += [Box(x - w / 2, y - 10.5, w, 21, 10.5, p.active_soft, p.active, 1.8),
                   Text(x, y + 4.4, text, 12, p.active, True, "middle")]  # fmt: skip
    return shapes


def _loose(a: tuple[float, float], b: tuple[float, float], ink: str) -> Curve:
    bend = (b[0] - a[0]) * 0.5
    return Curve(a, ((a[0] + bend, a[1], b[0] - bend * 0.4, b[1], b[0], b[1]),), ink, 3.6)

"""The loom as a widget: pointing, dragging, zooming, keys."""

from collections.abc import Iterable

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QWheelEvent,
)

from knotplan.core.drawing.loom.bench import Card
from knotplan.core.drawing.loom.layout import put_where
from knotplan.core.drawing.loom.neighbours import Direction, step
from knotplan.core.drawing.loom.tree import tree_of
from knotplan.core.drawing.palette import Palette
from knotplan.core.match.fit import Grade, fits
from knotplan.core.plan import edits
from knotplan.core.plan.direction import consumer_first
from knotplan.core.plan.document import split
from knotplan.desktop import own_parts
from knotplan.desktop.loom.canvas import Band, Carry, Drag, LoomCanvas
from knotplan.desktop.loom.hit_tester import Hit
from knotplan.desktop.part_drag import dragged
from knotplan.desktop.session import Session

REST_MS = 450
"""how long the pointer is still before a pin shows its card"""
ZOOM_STEP = 1.2
ARROWS: dict[Qt.Key, Direction] = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


class LoomView(LoomCanvas):
    """Board, parts and cords; asks the session for every change."""

    menu_wanted = Signal(QPoint)
    rename_wanted = Signal(str)
    typed = Signal(str)
    """letters typed while a lead is selected: the beginning of a pin's name"""
    confirmed = Signal()
    """Enter on a selected lead"""

    def __init__(self, session: Session, palette: Palette):
        super().__init__(session, palette)
        self._resting = QTimer(self, singleShot=True, interval=REST_MS)
        self._resting.timeout.connect(self._rest)
        self._pan: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setAccessibleName("Loom")
        self.setAccessibleDescription("Board, parts and cords. Arrow keys go from lead to lead, Enter ties.")

    def keep_card(self, keep: bool | None = None) -> None:
        """Shows the card of the selected pin until Escape, or puts it away."""
        self.card_kept = not self.card_kept if keep is None else keep
        self.update()

    def fold(self, part: str) -> None:
        """Folds a hub with what hangs on it and unfolds it; of another part, shows
        all leads or those that are needed."""
        c = self.session.circuit
        if part not in c.placed:
            return
        now, hub = c.placed[part].shows, bool(tree_of(c).children.get(part))
        shows = {"folded": "", "": "folded" if hub else "all", "all": ""}[now]
        self.session.edit(f"show {c.titles.part(part)} otherwise", edits.show_leads, part, shows)

    def _foot(self, at: QPointF) -> str:
        """The part whose card's foot is at a place."""
        return next((c.part for c in self.session.bench.cards if c.on_foot(at.x(), at.y())), "")

    def card_of(self, part: str) -> Card:
        return self.session.bench.card(part)

    def heads(self, parts: Iterable[str]) -> tuple[str, ...]:
        """The parts that stand for themselves among these, and those that they hang on."""
        tree = tree_of(self.session.circuit)
        tops: dict[str, None] = {}
        for part in parts:
            top = part
            while top in tree.parent:
                top = tree.parent[top]
            tops[tree.head(top)] = None
        return tuple(tops)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """A wheel zooms; two fingers on a touchpad move the view, with Ctrl they zoom as well."""
        fingers = event.pixelDelta()
        ctrl = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if not fingers.isNull() and event.phase() != Qt.ScrollPhase.NoScrollPhase and not ctrl:
            self.move_by(QPointF(fingers))
        else:
            self.zoom(ZOOM_STEP ** (event.angleDelta().y() / 120), event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        here = self._to_bench(event.position())
        hit = self.hits.at(here.x(), here.y())
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan = event.position()
        if event.button() not in (Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton):
            return
        left = event.button() == Qt.MouseButton.LeftButton
        more = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        part = hit.id if hit.kind == "part" else ""
        if left and more and (part or not hit.kind):
            if part:
                self._choose(part, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
            else:
                self._band = Band(event.position(), event.position(), self.session.selection.parts)
            return
        if not (part and part in self.session.selection.parts):  # of several, each can be taken hold of
            self.session.select(hit.kind, hit.id)
        foot = self._foot(here)
        if foot and left:
            shows = self.session.circuit.placed[foot].shows
            self.session.edit("show more or less", edits.show_leads, foot, "" if shows else "all")
        elif left and hit.kind in ("lead", "pin"):
            self._drag = Drag(hit.id, event.position())
        elif left and part:
            self._carry = Carry(event.position(), event.position(), self.heads(self.session.selection.parts))
        elif left and not hit.kind:
            self._band = Band(event.position(), event.position())

    def _choose(self, part: str, shift: bool) -> None:
        """One more part, or one less; with Shift all between it and the one looked at, on the same side."""
        chosen = self.session.selection.parts
        if shift and chosen:
            self.session.select_parts([*chosen, *self._between(chosen[0], part)])
        elif part in chosen:
            self.session.select_parts(p for p in chosen if p != part)
        else:
            self.session.select_parts([*chosen, part])

    def _between(self, first: str, last: str) -> list[str]:
        bench = self.session.bench
        a, b = bench.card(first), bench.card(last)
        if a.side != b.side:
            return [last]
        low, high = sorted((bench.cards.index(a), bench.cards.index(b)))
        return [c.part for c in bench.cards[low : high + 1] if c.side == a.side and c.part != last] + [last]

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        here = event.position()
        if self._pan is not None:
            self.move_by(here - self._pan)
            self._pan = here
            return
        if self._band or self._carry:
            self._stretch(here)
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

    def _stretch(self, here: QPointF) -> None:
        """The band, or the cards that are carried, follow the pointer."""
        if self._band:
            self._band = replace(self._band, at=here)
            inside = self._inside(self._band)
            self.session.select_parts([*self._band.before, *inside])
        elif self._carry:
            far = (here - self._carry.start).manhattanLength() > 8
            self._carry = replace(self._carry, at=here, moving=self._carry.moving or far)
        self.update()

    def _inside(self, band: Band) -> list[str]:
        """The parts whose cards the band touches."""
        area = QRectF(self._to_bench(band.start), self._to_bench(band.at)).normalized()
        return [c.part for c in self.session.bench.cards if area.intersects(QRectF(c.x, c.y, c.w, c.h))]

    def _put_down(self, carry: Carry) -> None:
        """The cards that were carried, where the pointer is."""
        here = self._to_bench(carry.at)
        side, place = put_where(self.session.bench, here.x(), here.y(), frozenset(carry.parts))
        names = self.session.circuit.titles.part(carry.parts[0]) if len(carry.parts) == 1 else "the parts"
        self.session.edit(f"move {names}", edits.put_at, carry.parts, side, place)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pan = None
        carry, self._carry = self._carry, None
        self._band = None
        if carry and carry.moving:
            self._put_down(carry)
        elif carry and len(self.session.selection.parts) > 1 and not event.modifiers():
            spot = self._to_bench(carry.start)
            hit = self.hits.at(spot.x(), spot.y())
            self.session.select(hit.kind, hit.id)  # a plain click on one of several means that one
        drag, self._drag = self._drag, None
        if drag and drag.moving:
            spot = self._to_bench(event.position())
            target = self.hits.contact_at(spot.x(), spot.y()) or self._best_on(
                self.hits.at(spot.x(), spot.y()), drag.start
            )
            if target and target != drag.start:
                self._join(drag.start, target)
        self.update()

    def _best_on(self, hit: Hit, lead: str) -> str:
        """A cord dropped on a hub's card goes to the contact there that fits best, shown or not."""
        c = self.session.circuit
        if hit.kind != "part" or c.contacts.lead(lead) is None:
            return ""
        able = (f for f in fits(c, lead) if split(f.contact)[0] == hit.id and f.grade < Grade.IMPOSSIBLE)
        return next((f.contact for f in able), "")

    def _join(self, start: str, target: str) -> None:
        """Ties a lead to a contact, from whichever end the cord was pulled."""
        c = self.session.circuit
        if c.contacts.lead(start) is None:
            held = c.ties.at.get(start, [])
            if c.contacts.lead(target) is not None:
                start, target = target, start
            elif held:  # the pin's end of a cord moves to another pin
                start = held[0].lead
            else:
                self.session.noticed.emit("A cord runs from a lead to a pin; these are two pins.")
                return
        start, target = consumer_first(self.session.plan, self.session.catalog, start, target)
        text = f"tie {c.titles.of(start)}"
        if self.session.edit(text, edits.tie, start, target):
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

    # --- a part that is dragged from a list -----------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dragged(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        here = self._to_bench(event.position())
        contact = self.hits.contact_at(here.x(), here.y())
        self._hover = Hit("pin", contact) if contact in self.session.bench.pins else Hit()
        self.update()
        event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self._hover = Hit()
        self.update()

    def dropEvent(self, event: QDropEvent) -> None:
        """Adds the part; on a pin, with the lead tied that suits it best."""
        what = dragged(event.mimeData())
        self._hover = Hit()
        if what is None or what.part not in self.session.catalog.part_ids():
            return
        here = self._to_bench(event.position())
        contact = self.hits.contact_at(here.x(), here.y())
        onto = contact if contact in self.session.bench.pins else ""
        added = own_parts.add(self.session, what.part, what.name, what.params, what.count, onto)
        event.acceptProposedAction()
        if added:
            tied = next((t.lead for t in self.session.circuit.ties.at.get(onto, ())), "")
            leads = self.session.circuit.parts[added[-1]].leads
            self.session.select("lead", tied or f"{added[0]}.{next(iter(leads))}")
            self.setFocus()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_wanted.emit(event.globalPos())

    # --- keys -----------------------------------------------------------------------------------

    def _begins_a_name(self, event: QKeyEvent) -> bool:
        """A letter or digit while a lead is selected: it begins the name of a pin, and is no command."""
        held = event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
        text = event.text()
        return bool(self.session.selection.lead and not held and text.strip() and text.isalnum())

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.NativeGesture and isinstance(event, QNativeGestureEvent):
            if event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
                self.zoom(1 + event.value(), event.position())
            return True
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and self._begins_a_name(event)
        ):
            event.accept()  # single-letter commands stand back
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in ARROWS:
            self._go(ARROWS[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.confirmed.emit()
        elif key == Qt.Key.Key_Escape:
            self._drag = self._carry = self._band = None
            self.card_kept = False
            if not self.session.selection.kind:
                self.session.suggester.forget()
            self.session.select("", "")
        elif self._begins_a_name(event):
            self.typed.emit(event.text())
        else:
            super().keyPressEvent(event)

    def _go(self, towards: Direction) -> None:
        """To the other end of a cord that leaves this way, else a step in that direction."""
        contact = self._here()
        bench = self.session.bench
        if contact not in bench.leads and contact not in bench.pins:
            self._begin()
            return
        target = self._over_the_cord(contact, towards) or step(bench, contact, towards)
        if target:
            self.session.select("lead" if target in bench.leads else "pin", target)

    def _here(self) -> str:
        """The contact that is selected, or the first one of the part that is."""
        s, bench = self.session.selection, self.session.bench
        if s.kind == "part":
            leads = bench.card(s.id).leads
            return leads[0].contact if leads else ""
        return s.lead or s.id

    def _begin(self) -> None:
        """Nothing is selected yet: the first lead, or the first pin."""
        bench = self.session.bench
        leads = [spot.contact for card in bench.cards for spot in card.leads]
        if leads:
            self.session.select("lead", leads[0])
        elif bench.pins:
            self.session.select("pin", next(iter(bench.pins)))

    def _over_the_cord(self, contact: str, towards: Direction) -> str:
        """Where a cord leads that leaves in a direction; for a lead without a tie, the pin that fits best."""
        c, bench = self.session.circuit, self.session.bench
        spot = bench.leads.get(contact) or bench.pins[contact]
        if (round(spot.out[0]), round(spot.out[1])) != towards:
            return ""
        ties = c.ties.at.get(contact, ())
        ends = [c.ties.other_end(tie, contact) for tie in ties]
        shown = [end for end in ends if end in bench.leads or end in bench.pins]
        if shown or contact in bench.pins:
            return shown[0] if shown else ""
        return next((a for a, f in self.session.view.answers.items() if f.grade == Grade.BEST), "")

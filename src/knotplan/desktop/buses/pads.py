"""A device's strap pads as they lie on its own board; a click turns one to its next position."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from knotplan.catalog.part.facts import I2c
from knotplan.core.buses.addresses import positions, stands
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.palette import CORDS, Palette
from knotplan.core.drawing.shapes import Box, Disc, Shape, Text
from knotplan.desktop import lettering
from knotplan.desktop.lettering import paint, px, shortened
from knotplan.desktop.paint import colour

PAD_W, PAD_H = 34.0, 40.0


class Pads(QWidget):
    """The part's board, its leads along the lower edge in their order, its pads where they lie."""

    turned = Signal(str, str)
    """(parameter, position)"""

    def __init__(self, circuit: Circuit, part_id: str, facts: I2c, palette: Palette):
        super().__init__()
        self.c, self.part_id, self.facts, self.p = circuit, part_id, facts, palette
        self.at = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Strap pads")
        self.setAccessibleDescription(
            ", ".join(f"{p.param.upper()} {stands(circuit, part_id, p)}" for p in facts.pads)
        )
        self.setToolTip("Click a pad, or go with the arrows and press Space: it takes its next position")
        lettering.fix(self, height=150)

    def sizeHint(self) -> QSize:
        return QSize(px(260), px(150))

    def _board(self) -> QRectF:
        wide, high = self.facts.board_mm
        room_w, room_h = self.width() / lettering.scale(), self.height() / lettering.scale()
        scale = min((room_w - 12) / wide, (room_h - 26) / high)
        w, h = max(wide * scale, 120.0), high * scale
        return QRectF((room_w - w) / 2, 6, w, h)

    def _pad(self, k: int) -> QRectF:
        """Where a pad lies; closer ones are moved apart far enough to be read and hit."""
        board, pads = self._board(), self.facts.pads
        wide, high = self.facts.board_mm
        lies = [p.at_mm or (wide * (n + 1) / (len(pads) + 1), high * 0.4) for n, p in enumerate(pads)]
        order = sorted(range(len(pads)), key=lambda n: lies[n][0])
        xs = [board.left() + lies[n][0] / wide * board.width() for n in order]
        for i in range(1, len(xs)):
            xs[i] = max(xs[i], xs[i - 1] + PAD_W + 6)
        over = max(0.0, xs[-1] + PAD_W / 2 + 4 - board.right()) if xs else 0.0
        under = max(0.0, board.left() + 4 - (xs[0] - PAD_W / 2)) if xs else 0.0
        x = xs[order.index(k)] - over + (under if not over else 0.0)
        y = board.top() + (high - lies[k][1]) / high * board.height()
        y = min(max(y, board.top() + PAD_H / 2 + 4), board.bottom() - PAD_H / 2 - 22)
        return QRectF(x - PAD_W / 2, y - PAD_H / 2, PAD_W, PAD_H)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = self.p
        with QPainter(self) as painter:
            lettering.begin(painter)
            board = self._board()
            paint(
                painter, [Box(board.x(), board.y(), board.width(), board.height(), 7, p.board, p.board_edge)]
            )
            paint(painter, self._leads(board))
            for k in range(len(self.facts.pads)):
                paint(painter, self._pad_shapes(k))
            if self.hasFocus() and self.facts.pads:
                painter.setPen(QPen(colour(p.care), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(self._pad(self.at).adjusted(-3, -3, 3, 3), 6, 6)

    def _leads(self, board: QRectF) -> list[Shape]:
        part = self.c.parts[self.part_id]
        names = [n for n, lead in part.leads.items() if not (lead.offers and not lead.required)][:9]
        step = board.width() / (len(names) + 1)
        shapes: list[Shape] = []
        for k, name in enumerate(names):
            x, y = board.left() + step * (k + 1), board.bottom() - 2
            tie = self.c.ties.of(f"{self.part_id}.{name}")
            ink = self.p.pin_hole
            if tie is not None:
                ink = CORDS.get(tie.cord or part.leads[name].cord, self.p.faint)
            shapes += [
                Disc(x, y, 4.4, ink, self.p.copper, 1.4),
                Text(
                    x,
                    board.bottom() - 11,
                    shortened(part.leads[name].title, 8.5, step),
                    8.5,
                    self.p.board_faint,
                    anchor="middle",
                ),
            ]
        return shapes

    def _pad_shapes(self, k: int) -> list[Shape]:
        """Two halves with a gap, or with solder across; a pad of several
        positions says in words where it stands."""
        pad, p, box = self.facts.pads[k], self.p, self._pad(k)
        spec = self.c.parts[self.part_id].params[pad.param]
        now, able = stands(self.c, self.part_id, pad), list(positions(spec, pad))
        x = box.center().x()
        name = spec.title.removeprefix("Pad ")
        shapes: list[Shape] = [Text(x, box.bottom() - 1, name, 10, p.board_text, True, "middle")]
        if len(able) > 2:
            return [
                Box(box.x() - 2, box.y() + 2, box.width() + 4, 22, 4, p.copper),
                *shapes,
                Text(x, box.y() + 17, now, 10.5, p.pin_hole, True, "middle"),
            ]
        y = box.y() + 4
        shapes = [Box(x - 13, y, 11, 18, 2, p.copper), Box(x + 2, y, 11, 18, 2, p.copper), *shapes]
        if now != able[0]:
            shapes.append(Box(x - 9, y + 4, 18, 10, 5, "#d8dce0", "#8b9095", 1))
        return shapes

    def _turn(self, k: int) -> None:
        pad = self.facts.pads[k]
        able = list(positions(self.c.parts[self.part_id].params[pad.param], pad))
        now = stands(self.c, self.part_id, pad)
        self.turned.emit(pad.param, able[(able.index(now) + 1) % len(able)])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for k in range(len(self.facts.pads)):
            if self._pad(k).adjusted(-3, -3, 3, 3).contains(lettering.place(event)):
                self.at = k
                self._turn(k)
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        count = len(self.facts.pads)
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and count:
            order = sorted(range(count), key=lambda n: self._pad(n).x())
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            self.at = order[(order.index(self.at) + step) % count]
            self.update()
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter) and count:
            self._turn(self.at)
        else:
            super().keyPressEvent(event)

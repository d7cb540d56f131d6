"""The map of a bus's 128 addresses: free, reserved, taken, clashing; and where the chosen device could be."""

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from knotplan.core.buses.i2c import Cell
from knotplan.core.drawing.marks import cross, octagon
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Disc, Shape, Text, moved
from knotplan.desktop import lettering
from knotplan.desktop.lettering import paint, px, shortened, text_width
from knotplan.desktop.paint import colour
from knotplan.desktop.tips import tip_text

COLUMNS, ROWS = 16, 8
HEAD_W, HEAD_H, FOOT = 40.0, 22.0, 26.0
LEAST_W = HEAD_W + 20 * COLUMNS
WORDS = {
    "free": "free",
    "reserved": "reserved",
    "taken": "on this bus",
    "all-call": "all of a kind together",
    "clash": "two answer",
    "elsewhere": "heard here, on a bus before or behind",
}
STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -COLUMNS, Qt.Key.Key_Down: COLUMNS}


class AddressMap(QWidget):
    """A click or Enter on an address with a device chooses it; on one that the chosen
    device could have, sets its straps."""

    picked = Signal(int)

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.cells: list[Cell] = []
        self.could: frozenset[int] = frozenset()
        """where the chosen device could be"""
        self.chosen = -1
        self.at = 0x08
        """where the keyboard stands"""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Map of addresses")
        lettering.fix(self, least_width=LEAST_W, least_height=HEAD_H + ROWS * 22 + FOOT)
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        return QSize(px(680), px(HEAD_H + ROWS * 28 + FOOT))

    def show_cells(self, cells: list[Cell], could: frozenset[int], chosen: int) -> None:
        self.cells, self.could, self.chosen = cells, could, chosen
        if chosen >= 0:
            self.at = chosen
        taken = [f"0x{c.address:02X} {' and '.join(c.who)}" for c in cells if c.who]
        self.setAccessibleDescription("; ".join(taken) or "nobody answers")
        self.update()

    def words(self, address: int) -> str:
        """What there is to say of an address."""
        cell = self.cells[address]
        who = " and ".join(cell.who) or cell.why
        could = (
            "; the chosen device could be here" if address in self.could and address != self.chosen else ""
        )
        return (
            f"0x{address:02X}, decimal {address}: {WORDS[cell.state]}" + (f", {who}" if who else "") + could
        )

    def said(self) -> str:
        """The address that the keys are on, and all that are taken."""
        taken = [self.words(cell.address) for cell in self.cells if cell.who]
        return "\n".join([self.words(self.at), "", *taken] if self.cells else [])

    # --- where things are -------------------------------------------------------------------------

    def _cell_size(self) -> tuple[float, float]:
        """Of an address, in pixels at usual letters."""
        wide, high = self.width() / lettering.scale(), self.height() / lettering.scale()
        return (wide - HEAD_W) / COLUMNS, (high - HEAD_H - FOOT) / ROWS

    def _box(self, address: int) -> QRectF:
        w, h = self._cell_size()
        row, column = divmod(address, COLUMNS)
        return QRectF(HEAD_W + column * w, HEAD_H + row * h, w, h)

    def _under(self, x: float, y: float) -> int:
        w, h = self._cell_size()
        column, row = int((x - HEAD_W) // w), int((y - HEAD_H) // h)
        return row * COLUMNS + column if 0 <= column < COLUMNS and 0 <= row < ROWS else -1

    # --- painting -----------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        p = self.p
        with QPainter(self) as painter:
            lettering.begin(painter)
            heads: list[Shape] = []
            for k in range(COLUMNS):
                heads.append(
                    Text(self._box(k).center().x(), HEAD_H - 7, f"–{k:X}", 11, p.faint, anchor="middle")
                )
            for k in range(ROWS):
                heads.append(
                    Text(
                        HEAD_W - 8, self._box(16 * k).center().y() + 4, f"0x{k:X}–", 11, p.faint, anchor="end"
                    )
                )
            paint(painter, heads)
            for cell in self.cells:
                paint(painter, self._cell(cell))
            if self.cells:
                self._cursor(painter)
            paint(painter, self._legend())

    def _cell(self, cell: Cell) -> list[Shape]:
        p, box = self.p, self._box(cell.address).adjusted(2, 2, -2, -2)
        x, y = box.center().x(), box.center().y()
        middle = Text(x, y + 4, "", 12, p.ink, True, "middle")
        frame = Box(box.x(), box.y(), box.width(), box.height(), 6)
        round_r = min(box.width(), box.height()) / 2
        word = f"{cell.address:02X}"
        could = cell.address in self.could
        shapes: list[Shape] = []
        if could and cell.state == "free":
            shapes.append(frame._replace(fill=p.care_soft, stroke=p.care, width=1.3))
        match cell.state:
            case "free":
                tone = p.care_text if could else p.faint
                shapes.append(middle._replace(text=word, fill=tone, bold=could, size=11.5))
            case "reserved":
                shapes += [frame._replace(fill=p.edge + "55"), *cross(x, y, 4, p.faint, 1.1)]
            case "taken" | "elsewhere":
                full = cell.state == "taken"
                shapes.append(
                    frame._replace(fill=p.active if full else p.active_soft, stroke=p.active, width=1.3)
                )
                shapes += self._named(cell, box, p.card if full else p.active)
            case "all-call":
                shapes += [
                    Disc(x, y, round_r - 1, "", p.active, 1.4, True),
                    middle._replace(text=word, fill=p.active),
                ]
            case "clash":
                shapes += [octagon(x, y, round_r + 2, p.stop), middle._replace(text=word, fill=p.card)]
        return shapes

    def _named(self, cell: Cell, box: QRectF, ink: str) -> list[Shape]:
        """The address, and the device's name under it where there is room."""
        x, y = box.center().x(), box.center().y()
        if box.height() < 30 or box.width() < 38:
            return [Text(x, y + 4, f"{cell.address:02X}", 12, ink, True, "middle")]
        return [
            Text(x, y - 1, f"{cell.address:02X}", 12, ink, True, "middle"),
            Text(x, y + 12, shortened(cell.who[0], 9.5, box.width() - 4), 9.5, ink, anchor="middle"),
        ]

    def _cursor(self, painter: QPainter) -> None:
        for address, tone, width in (
            (self.chosen, self.p.ink, 2.2),
            (self.at if self.hasFocus() else -1, self.p.active, 1.6),
        ):
            if address >= 0:
                painter.setPen(QPen(colour(tone), width))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(self._box(address).adjusted(0.5, 0.5, -0.5, -0.5), 7, 7)

    def _legend(self) -> list[Shape]:
        """What each mark means, of those in sight."""
        p, y = self.p, self.height() / lettering.scale() - 9.0
        x = HEAD_W + 2
        shapes: list[Shape] = []
        swatch = Box(0, -9, 14, 11, 3)
        marks: dict[str, tuple[Shape, str]] = {
            "taken": (swatch._replace(fill=p.active), "here"),
            "elsewhere": (swatch._replace(fill=p.active_soft, stroke=p.active), "heard here"),
            "clash": (octagon(7, -3, 7, p.stop), "two answer"),
            "all-call": (Disc(7, -3, 5.5, "", p.active, 1.3, True), "all-call"),
            "reserved": (swatch._replace(fill=p.edge + "55"), "reserved"),
            "could be": (swatch._replace(fill=p.care_soft, stroke=p.care), "could be"),
        }
        in_sight = {cell.state for cell in self.cells} | ({"could be"} if self.could else set())
        for mark, words in (marks[state] for state in marks if state in in_sight):
            shapes += [moved(mark, x, y), Text(x + 20, y, words, 11, p.faint)]
            x += 20 + text_width(words, 11) + (18 if self.width() > px(520) else 9)
        return shapes

    # --- hands --------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = lettering.place(event)
        address = self._under(at.x(), at.y())
        if address >= 0 and self.cells:
            self.at = address
            self.picked.emit(address)
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = STEPS.get(Qt.Key(event.key()))
        if step is not None:
            self.at = max(0, min(127, self.at + step))
            self.setAccessibleDescription(self.words(self.at) if self.cells else "")
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.cells:
            self.picked.emit(self.at)
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent) and self.cells:
            at = lettering.place(event)
            address = self._under(at.x(), at.y())
            QToolTip.showText(event.globalPos(), tip_text(self.words(address) if address >= 0 else ""), self)
            return True
        return super().event(event)

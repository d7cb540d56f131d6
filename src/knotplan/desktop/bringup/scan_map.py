"""The map of a bus's addresses, as planned and as heard."""

from PySide6.QtCore import QRectF

from knotplan.core.bringup.scan import SeenCell, Verdict
from knotplan.core.buses.i2c import Cell
from knotplan.core.drawing.marks import cross, octagon
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Shape, Text, moved
from knotplan.desktop import lettering
from knotplan.desktop.buses.address_map import HEAD_W, AddressMap
from knotplan.desktop.lettering import px, text_width

WORDS: dict[Verdict, str] = {
    "as planned": "as planned",
    "missing": "planned, and nobody answers",
    "unexpected": "answers, and is not planned",
    "not tried": "planned, and was not asked",
    "driver": "a driver of the system has it",
}


class ScanMap(AddressMap):
    """An outline is planned, a filling answers: both where it is as it should be."""

    def __init__(self, palette: Palette):
        super().__init__(palette)
        self.seen: tuple[SeenCell, ...] = ()
        self.setAccessibleName("Map of addresses, planned and heard")

    def show_seen(self, cells: tuple[SeenCell, ...]) -> None:
        """Another bus."""
        self.seen = cells
        self.show_cells([c.planned for c in cells], frozenset(), -1)
        said = [self.words(c.planned.address) for c in cells if c.verdict != "as planned"]
        self.setAccessibleDescription("; ".join(said) or "all as planned")

    def go_to(self, address: int) -> None:
        """The keys go there, and a frame shows it."""
        self.at = self.chosen = address
        self.update()

    def words(self, address: int) -> str:
        seen = self.seen[address]
        who = " and ".join(seen.planned.who) or seen.planned.why
        planned = f" {who} is planned" if seen.planned.who else (f" {who}" if who else " nothing is planned")
        heard = {"silent": "nobody answers", "answers": "somebody answers"}.get(
            seen.answer, WORDS["driver"] if seen.answer == "driver" else "it was not asked"
        )
        return f"0x{address:02X}, decimal {address}:{planned}; {heard}"

    def said(self) -> str:
        taken = [self.words(c.planned.address) for c in self.seen if c.planned.who or c.answer == "answers"]
        return "\n".join([self.words(self.at), "", *taken] if self.seen else [])

    def _cell(self, cell: Cell) -> list[Shape]:
        p, seen = self.p, self.seen[cell.address]
        box = self._box(cell.address).adjusted(2, 2, -2, -2)
        x, y = box.center().x(), box.center().y()
        frame = Box(box.x(), box.y(), box.width(), box.height(), 6)
        heard = seen.answer in ("answers", "driver")
        planned = bool(cell.who)
        match seen.verdict:
            case "missing":
                return [
                    frame._replace(fill=p.stop_soft, stroke=p.stop, width=1.8),
                    *self._named(cell, box, p.stop),
                    *cross(box.right() - 6, box.top() + 6, 3, p.stop, 1.6),
                ]
            case "unexpected":
                return [
                    octagon(x, y, min(box.width(), box.height()) / 2 + 1, p.stop),
                    Text(x, y + 4, f"{cell.address:02X}", 12, p.card, True, "middle"),
                ]
            case "not tried" if planned:
                return [frame._replace(stroke=p.faint, width=1.3), *self._named(cell, box, p.faint)]
        if planned or heard:
            fill = p.active if seen.answer == "answers" else p.active_soft
            ink = p.card if seen.answer == "answers" else p.active
            return [frame._replace(fill=fill, stroke=p.active, width=1.3), *self._named(cell, box, ink)]
        return super()._cell(cell)

    def _named(self, cell: Cell, box: QRectF, ink: str) -> list[Shape]:
        if cell.who:
            return super()._named(cell, box, ink)
        return [Text(box.center().x(), box.center().y() + 4, f"{cell.address:02X}", 12, ink, True, "middle")]

    def _legend(self) -> list[Shape]:
        p, y = self.p, self.height() / lettering.scale() - 9.0
        x = HEAD_W + 2
        swatch = Box(0, -9, 14, 11, 3)
        marks: dict[str, tuple[Shape, str]] = {
            "as planned": (swatch._replace(fill=p.active), "planned, answers"),
            "driver": (swatch._replace(fill=p.active_soft, stroke=p.active), "planned, a driver has it"),
            "missing": (swatch._replace(fill=p.stop_soft, stroke=p.stop, width=1.6), "planned, silent"),
            "unexpected": (octagon(7, -3, 7, p.stop), "answers, not planned"),
            "not tried": (swatch._replace(stroke=p.faint), "planned, not asked"),
        }
        in_sight = {c.verdict for c in self.seen if c.planned.who or c.verdict == "unexpected"}
        shapes: list[Shape] = []
        for mark, words in (marks[v] for v in marks if v in in_sight):
            shapes += [moved(mark, x, y), Text(x + 20, y, words, 11, p.faint)]
            x += 20 + text_width(words, 11) + (18 if self.width() > px(520) else 9)
        return shapes

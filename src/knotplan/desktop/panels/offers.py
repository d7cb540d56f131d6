"""The list of contacts that answer a lead, each with its name, place, grade and reason."""

from msgspec import Struct
from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QSize, Qt
from PySide6.QtGui import QKeyEvent, QPainter
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from knotplan.core.drawing.marks import cross
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Box, Disc, Shape, Text
from knotplan.core.match.fit import Grade
from knotplan.desktop import lettering
from knotplan.desktop.lettering import paint, px, shortened, text_width
from knotplan.desktop.tips import tip_text

ROW = 44


class Offer(Struct, frozen=True):
    """One row: a contact to take, or a message."""

    contact: str
    name: str
    place: str
    grade: Grade
    reason: str


class OfferList(QListWidget):
    """Offers, best first; Enter takes one."""

    def __init__(self, name: str, palette: Palette, most: int = 6):
        super().__init__()
        self._most = most
        self.setObjectName(name)
        self.setAccessibleName("Candidates, best first")
        self.setItemDelegate(_Row(palette))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)

    def fill(self, offers: list[Offer]) -> None:
        self.clear()
        for offer in offers:
            item = QListWidgetItem(f"{offer.name} {offer.place}: {offer.reason}")
            item.setData(Qt.ItemDataRole.UserRole, offer)
            item.setToolTip(tip_text(offer.reason))
            self.addItem(item)
        if offers:
            self.setCurrentRow(0)
        lettering.fix(self, height=min(len(offers), self._most) * ROW + 4)

    def offer(self) -> Offer | None:
        """The highlighted row."""
        item = self.currentItem()
        return item.data(Qt.ItemDataRole.UserRole) if item else None

    def offers(self) -> list[Offer]:
        return [self.item(k).data(Qt.ItemDataRole.UserRole) for k in range(self.count())]

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentItem():
            self.itemActivated.emit(self.currentItem())
            return
        super().keyPressEvent(event)


class _Row(QStyledItemDelegate):
    """Name and place in the first line, the reason in the second; the grade as a shape."""

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(px(200), px(ROW))

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        offer: Offer = index.data(Qt.ItemDataRole.UserRole)
        by = lettering.scale()
        box = option.rect
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        lettering.begin(painter)
        paint(painter, _row(offer, box.x() / by, box.y() / by, box.width() / by, chosen, self.p))
        painter.restore()


def _row(o: Offer, x: float, y: float, w: float, chosen: bool, p: Palette) -> list[Shape]:
    ink = {Grade.POSSIBLE: p.care_text, Grade.IMPOSSIBLE: p.faint}.get(o.grade, p.ink)
    edge = p.active if chosen else p.edge
    back = p.active_soft if chosen else p.card
    shapes: list[Shape] = [Box(x + 1, y + 2, w - 2, ROW - 4, 6, back, edge, 1.6 if chosen else 1)]
    shapes += _mark(x + 17, y + ROW / 2, o.grade, p)
    shapes += [
        Text(x + 34, y + 19, o.name, 13, p.ink if o.grade < Grade.IMPOSSIBLE else p.faint, True),
        Text(x + 34 + text_width(o.name, 13, True) + 10, y + 19, o.place, 11, p.faint),
        Text(x + 34, y + 35, shortened(o.reason, 11.5, w - 46), 11.5, ink),
    ]
    return shapes


def _mark(x: float, y: float, grade: Grade, p: Palette) -> list[Shape]:
    match grade:
        case Grade.BEST:
            return [Disc(x, y, 5, p.good), Disc(x, y, 8.5, "", p.good, 1.6)]
        case Grade.GOOD:
            return [Disc(x, y, 5, p.good)]
        case Grade.POSSIBLE:
            return [Disc(x, y, 7, "", p.care, 2, True)]
    return [*cross(x, y, 5, p.faint, 2)]

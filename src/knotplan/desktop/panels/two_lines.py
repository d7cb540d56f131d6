"""Rows of lists with a name and, below it, what there is to say of it."""

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QAbstractItemView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from knotplan.core.check.finding import Severity
from knotplan.core.drawing.marks import severity
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Text
from knotplan.desktop import lettering
from knotplan.desktop.lettering import paint, px, shortened
from knotplan.desktop.paint import colour

ROW = 46
Index = QModelIndex | QPersistentModelIndex


class TwoLineRow(Struct, frozen=True):
    """What a row says."""

    title: str
    under: str
    depth: int = 0
    """how far it stands in"""
    faint: bool = False
    worst: Severity | None = None
    """the gravest finding, as a mark at the end"""


class TwoLines(QStyledItemDelegate):
    """Paints such rows."""

    def __init__(
        self, view: QAbstractItemView, palette: Callable[[], Palette], says: Callable[[Index], TwoLineRow]
    ):
        super().__init__(view)
        self.palette, self.says = palette, says

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(60), px(ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row, p = self.says(index), self.palette()
        by, box = lettering.scale(), option.rect
        area = QRectF(box.x() / by, box.y() / by, box.width() / by, box.height() / by).adjusted(2, 1, -2, -1)
        painter.save()
        lettering.begin(painter)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(p.active_soft))
            painter.drawRoundedRect(area, 6, 6)
        left = area.left() + 9 + 16 * min(row.depth, 3)
        room = area.right() - left - (28 if row.worst else 7)
        ink = p.faint if row.faint else p.ink
        paint(
            painter,
            [
                Text(left, area.top() + 18, shortened(row.title, 13, room, True), 13, ink, True),
                Text(left, area.top() + 35, shortened(row.under, 11, room), 11, p.faint),
            ],
        )
        if row.worst:
            paint(painter, severity(area.right() - 14, area.center().y(), row.worst, p, 8))
        painter.restore()

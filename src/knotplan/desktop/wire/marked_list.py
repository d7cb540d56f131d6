"""Lists of what there is to do or to measure, in groups; a mark before each line says how it stands."""

from collections.abc import Sequence
from typing import Literal

from msgspec import Struct
from PySide6.QtCore import QAbstractListModel, QModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from knotplan.core.drawing.marks import cross, octagon, triangle
from knotplan.core.drawing.palette import Palette
from knotplan.core.drawing.shapes import Curve, Disc, Shape, Text
from knotplan.desktop import lettering
from knotplan.desktop.lettering import paint, px, shortened
from knotplan.desktop.paint import colour
from knotplan.desktop.panels.two_lines import Index
from knotplan.desktop.tips import tip_text

MARKED = Qt.ItemDataRole.UserRole
HEAD, ROW = 30, 42
MARK_ROOM = 30
Mark = Literal["open", "done", "changed", "wrong"]
STANDS: dict[str, str] = {
    "open": "not done",
    "done": "done",
    "changed": "changed since",
    "wrong": "not as expected",
}


class Marked(Struct, frozen=True):
    """A line: what it is, how it stands, and the longer text that resting on it shows."""

    id: str
    group: str
    title: str
    under: str
    mark: Mark
    tip: str


def mark_shapes(x: float, y: float, mark: str, p: Palette) -> tuple[Shape, ...]:
    """A ring for what is open, a hook for what is done, a triangle for what has changed since, an octagon for
    what is not as it should be."""
    if mark == "done":
        hook = (
            (x - 4, y, x - 1.4, y + 3.4, x - 1.4, y + 3.4),
            (x - 1.4, y + 3.4, x + 4.4, y - 4, x + 4.4, y - 4),
        )
        return Disc(x, y, 8, p.good), Curve((x - 4, y), hook, p.card, 2)
    if mark == "changed":
        return (triangle(x, y, 8, p.care)._replace(stroke=p.care_text, width=1),)
    if mark == "wrong":
        return (octagon(x, y, 8.5, p.stop), *cross(x, y, 3, p.card, 2))
    return (Disc(x, y, 7, "", p.border, 1.8),)


class MarkedModel(QAbstractListModel):
    """Heads of groups (texts) and marked lines."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[str | Marked] = []

    def fill(self, entries: Sequence[Marked]) -> None:
        rows: list[str | Marked] = []
        group = ""
        for entry in entries:
            if entry.group != group:
                group = entry.group
                rows.append(group)
            rows.append(entry)
        if rows == self.rows:
            return
        if [_id(r) for r in rows] == [_id(r) for r in self.rows]:  # only marks are otherwise: the place stays
            self.rows = rows
            self.dataChanged.emit(self.index(0), self.index(len(rows) - 1))
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  (the toolkit's own default)
        return 0 if parent.isValid() else len(self.rows)

    def flags(self, index: Index) -> Qt.ItemFlag:
        if index.isValid() and isinstance(self.rows[index.row()], Marked):
            return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return Qt.ItemFlag.NoItemFlags

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid():
            return None
        entry = self.rows[index.row()]
        if isinstance(entry, str):
            return (
                entry if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole) else None
            )
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return entry.title
            case Qt.ItemDataRole.AccessibleTextRole:
                return f"{entry.title}, {entry.under}, {STANDS[entry.mark]}"
            case Qt.ItemDataRole.ToolTipRole:
                return tip_text(entry.tip)
        return entry if role == MARKED else None


def _id(row: str | Marked) -> str:
    return row if isinstance(row, str) else row.id


class MarkedRows(QStyledItemDelegate):
    """Paints them."""

    def __init__(self, view: "MarkedList"):
        super().__init__(view)
        self.view = view

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(60), px(ROW if index.data(MARKED) is not None else HEAD))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        entry, p, by, box = index.data(MARKED), self.view.p, lettering.scale(), option.rect
        area = QRectF(box.x() / by, box.y() / by, box.width() / by, box.height() / by).adjusted(2, 1, -2, -1)
        painter.save()
        lettering.begin(painter)
        if entry is None:
            text = shortened(index.data(), 11, area.width() - 12, True)
            paint(painter, [Text(area.left() + 6, area.bottom() - 6, text, 11, p.faint, True)])
            painter.restore()
            return
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(p.active_soft))
            painter.drawRoundedRect(area, 6, 6)
        left = area.left() + MARK_ROOM
        room = area.right() - left - 7
        ink = p.faint if entry.mark == "done" else p.ink
        paint(
            painter,
            [
                *mark_shapes(area.left() + MARK_ROOM / 2, area.center().y(), entry.mark, p),
                Text(
                    left,
                    area.top() + 16,
                    shortened(entry.title, 13, room, entry.mark != "done"),
                    13,
                    ink,
                    entry.mark != "done",
                ),
                Text(left, area.top() + 32, shortened(entry.under, 11, room), 11, p.faint),
            ],
        )
        painter.restore()


class MarkedList(QListView):
    """Space and Backspace are for what the list is about; a click on a mark, or Delete, turns it."""

    chosen = Signal(str)
    done = Signal()
    back = Signal()
    turned = Signal(str)

    def __init__(self, palette: Palette, name: str, says: str):
        super().__init__()
        self.p = palette
        self.model_ = MarkedModel()
        self.setModel(self.model_)
        self.setItemDelegate(MarkedRows(self))
        self.setObjectName(name)
        self.setAccessibleName(says)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.selectionModel().currentChanged.connect(lambda _, __: self.chosen.emit(self.now()))

    def fill(self, lines: Sequence[Marked]) -> None:
        """Other lines; the chosen one stays where it is still there."""
        now = self.now()
        self.model_.fill(lines)
        if now:
            self.choose(now)

    def now(self) -> str:
        """The chosen line; empty where there is none."""
        found = self.currentIndex().data(MARKED)
        return found.id if isinstance(found, Marked) else ""

    def choose(self, line: str) -> bool:
        """Makes a line the chosen one; false where there is none of that name."""
        for k, row in enumerate(self.model_.rows):
            if isinstance(row, Marked) and row.id == line:
                self.setCurrentIndex(self.model_.index(k, 0))
                return True
        return False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        match event.key():
            case Qt.Key.Key_Space:
                self.done.emit()
            case Qt.Key.Key_Backspace:
                self.back.emit()
            case Qt.Key.Key_Delete:
                self.turned.emit(self.now())
            case _:
                super().keyPressEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        at = event.position().toPoint()
        found = self.indexAt(at).data(MARKED)
        if isinstance(found, Marked) and at.x() < px(MARK_ROOM):
            self.turned.emit(found.id)

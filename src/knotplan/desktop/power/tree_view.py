"""How the tree of supplies looks: marks by kind, and a gauge for what has a limit."""

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTreeView,
)

from knotplan.core.drawing.palette import Palette
from knotplan.core.match.fit import Grade
from knotplan.core.power.node import Node
from knotplan.core.quantity.written import beside
from knotplan.desktop.lettering import px
from knotplan.desktop.paint import colour
from knotplan.desktop.power.tree_model import ARRIVES, GAUGE, HEAT, NODE, PEAKS, USUAL, WHAT, WORST, TreeModel

ROW = 27
WIDTHS = {ARRIVES: 124, USUAL: 74, WORST: 74, PEAKS: 122, GAUGE: 156, HEAT: 66}
NARROW = 760
NEEDED = {ARRIVES: 0, WORST: 0, USUAL: 440, GAUGE: 540, PEAKS: NARROW, HEAT: NARROW}
"""width of the tree from which a column is shown"""
MANY = 60
"""with more rows than this only the first level is open at first"""


class Delegate(QStyledItemDelegate):
    """Paints what a plain cell cannot."""

    def __init__(self, view: "TreeView"):
        super().__init__(view)
        self.view = view

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(px(40), px(ROW))

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        node, p = index.data(NODE), self.view.p
        area = QRectF(option.rect)
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        if (
            index.row() == self.view.currentIndex().row()
            and index.parent() == self.view.currentIndex().parent()
        ):
            painter.fillRect(option.rect, colour(p.active_soft))
        dead = node.id in self.view.model_.dead
        if index.column() == WHAT:
            _mark(painter, QPointF(area.left() + 11, area.center().y()), node, p, dead)
            painter.setPen(colour(p.faint if dead or node.kind in ("signals", "board") else p.ink))
            font = self.view.font()
            font.setBold(node.kind in ("supply", "rail", "converter"))
            painter.setFont(font)
            text = painter.fontMetrics().elidedText(
                str(index.data()), Qt.TextElideMode.ElideRight, int(area.width()) - 28
            )
            painter.drawText(area.adjusted(25, 0, -3, 0), int(Qt.AlignmentFlag.AlignVCenter), text)
            grade = self.view.model_.answers.get(node.id)
            if grade is not None:
                _answer(painter, QPointF(area.right() - 14, area.center().y()), grade, p)
        elif index.column() == GAUGE:
            if node.limit_a:
                _gauge(painter, area.adjusted(14, 0, -10, 0), node, p)
        else:
            low = (
                index.column() == ARRIVES
                and node.needs_v is not None
                and node.least_v < node.needs_v
                and not dead
            )
            if low:
                tone = p.stop
            elif index.column() in (WORST, ARRIVES):
                tone = p.ink
            else:
                tone = p.faint
            painter.setPen(colour(tone))
            painter.drawText(
                area.adjusted(2, 0, -8, 0),
                int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight),
                str(index.data() or ""),
            )
        painter.restore()


def _mark(painter: QPainter, at: QPointF, node: Node, p: Palette, dead: bool) -> None:
    """Square for a supply or rail, diamond for a converter, bar for a hub,
    round for a load, tiny dot for signals."""
    ink = colour(p.faint if dead else p.active)
    painter.setPen(QPen(ink, 1.6))
    painter.setBrush(ink if node.kind == "supply" else Qt.BrushStyle.NoBrush)
    match node.kind:
        case "supply" | "rail" | "board":
            painter.drawRoundedRect(QRectF(at.x() - 5.5, at.y() - 5.5, 11, 11), 2, 2)
        case "converter":
            painter.drawPolygon(
                QPolygonF([at + QPointF(x, y) for x, y in ((0, -6.5), (6.5, 0), (0, 6.5), (-6.5, 0))])
            )
        case "hub":
            painter.drawRoundedRect(QRectF(at.x() - 6.5, at.y() - 3.5, 13, 7), 2, 2)
        case "load":
            painter.drawEllipse(at, 5, 5)
        case _:
            painter.setBrush(ink)
            painter.drawEllipse(at, 2, 2)


def _answer(painter: QPainter, at: QPointF, grade: Grade, p: Palette) -> None:
    """While a load is dragged: ring good, dashed ring possible with a
    consequence, cross impossible; as pins answer."""
    good = grade <= Grade.GOOD
    style = Qt.PenStyle.SolidLine if good else Qt.PenStyle.DotLine
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if grade == Grade.IMPOSSIBLE:
        painter.setPen(QPen(colour(p.faint), 1.6))
        for sign in (-1, 1):
            painter.drawLine(at + QPointF(-4, -4 * sign), at + QPointF(4, 4 * sign))
        return
    painter.setPen(QPen(colour(p.good if good else p.care), 2.2, style))
    painter.drawEllipse(at, 5.5, 5.5)


def _gauge(painter: QPainter, area: QRectF, node: Node, p: Palette) -> None:
    """Usual and worst against the limit, as the bar at the bottom of the window shows them."""
    assert node.limit_a is not None
    bar = QRectF(area.left(), area.center().y() + px(4), area.width(), px(5))
    full = max(node.limit_a, node.total.worst_a) or 1.0
    over = node.total.worst_a > node.limit_a
    painter.setPen(QPen(colour(p.edge), 1))
    painter.setBrush(colour(p.cloth))
    painter.drawRoundedRect(bar, 3, 3)
    painter.setPen(Qt.PenStyle.NoPen)
    if node.total.usual_a > node.limit_a:
        grave = p.stop
    elif over:
        grave = p.care
    else:
        grave = p.active
    for amps, tone in (
        (node.total.worst_a, p.stop_soft if over else p.active_soft),
        (node.total.usual_a, grave),
    ):
        painter.setBrush(colour(tone))
        painter.drawRoundedRect(
            QRectF(bar.left(), bar.top(), max(2.0, bar.width() * min(1.0, amps / full)), bar.height()), 3, 3
        )
    painter.setPen(QPen(colour(p.ink), 2))
    x = bar.left() + bar.width() * node.limit_a / full
    painter.drawLine(QPointF(x, bar.top() - 3), QPointF(x, bar.bottom() + 3))
    painter.setPen(colour(p.stop if over else p.faint))
    small = painter.font()
    small.setPixelSize(px(11))
    painter.setFont(small)
    painter.drawText(
        QRectF(area.left(), area.top() + 1, area.width(), px(15)),
        int(Qt.AlignmentFlag.AlignVCenter),
        beside(node.total.worst_a, node.limit_a, "A"),
    )


class TreeView(QTreeView):
    """Rows by id, so that what is open and chosen stays through edits."""

    def __init__(self, model: TreeModel, palette: Palette):
        super().__init__()
        self.model_, self.p = model, palette
        self.setModel(model)
        self.setObjectName("powerTree")
        self.setAccessibleName("Tree of supplies")
        self.setItemDelegate(Delegate(self))
        self.setUniformRowHeights(True)
        self.setIndentation(20)
        self.setDragEnabled(True)
        self.setAcceptDrops(True)
        self.setDropIndicatorShown(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setAlternatingRowColors(False)
        self.setFrameShape(QTreeView.Shape.NoFrame)
        self.setRootIsDecorated(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        head = self.header()
        head.setStretchLastSection(False)
        head.setSectionResizeMode(WHAT, QHeaderView.ResizeMode.Stretch)
        for column, width in WIDTHS.items():
            head.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            head.resizeSection(column, px(width))
        head.setMinimumSectionSize(40)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """In a small window names have the room of what is least asked for."""
        super().resizeEvent(event)
        self.suit()

    def suit(self) -> None:
        """Shows the columns that there is room for."""
        room = self.viewport().width()
        narrow = room < px(NARROW)
        for column, width in WIDTHS.items():
            usual = px(116 if narrow and column == GAUGE else width)
            self.header().resizeSection(column, max(usual, self.header().sectionSizeHint(column)))
            self.setColumnHidden(column, room < px(NEEDED[column]))

    def chosen(self) -> Node | None:
        index = self.currentIndex()
        node = index.data(NODE) if index.isValid() else None
        return node if isinstance(node, Node) else None

    def startDrag(self, actions: Qt.DropAction) -> None:
        """Every row answers, until the load is let go."""
        node = self.chosen()
        if node is None or not node.lead:
            return
        self.model_.ask(node)
        self.viewport().update()
        super().startDrag(actions)
        self.model_.answers = {}
        self.viewport().update()

    def remember(self) -> tuple[set[str], str]:
        """(ids of rows that are folded, id of the chosen one)."""
        folded = {
            r.node.id
            for k, r in enumerate(self.model_.rows)
            if r.below and not self.isExpanded(self._index(k))
        }
        here = self.chosen()
        return folded, here.id if here else ""

    def restore(self, folded: set[str], chosen: str, fresh: bool) -> None:
        rows = self.model_.rows
        many = len(rows) > MANY
        for k, row in enumerate(rows):
            if row.below:
                self.setExpanded(
                    self._index(k),
                    (row.parent < 0 and many) or not many if fresh else row.node.id not in folded,
                )
        at = next((k for k, row in enumerate(rows) if row.node.id == chosen), 0 if rows else None)
        if at is not None:
            self.setCurrentIndex(self._index(at))

    def _index(self, number: int) -> QModelIndex:
        return self.model_.createIndex(self.model_.rows[number].place, 0, number)

    def choose(self, node_id: str) -> None:
        """Makes a row the chosen one."""
        at = next((k for k, row in enumerate(self.model_.rows) if row.node.id == node_id), None)
        if at is not None:
            self.setCurrentIndex(self._index(at))
            self.scrollTo(self._index(at), QAbstractItemView.ScrollHint.PositionAtCenter)

    def set_palette(self, palette: Palette) -> None:
        self.p = palette
        self.viewport().update()

"""The lanes by name: title, what it does, and the contact that does it."""

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from knotplan.core.loom.palette import Palette
from knotplan.core.loom.shapes import Text, shortened
from knotplan.core.timing.lanes import Lane
from knotplan.desktop.paint import colour, paint

ROW = 46
LANE = Qt.ItemDataRole.UserRole
Index = QModelIndex | QPersistentModelIndex


class LaneModel(QAbstractListModel):
    """The lanes that are shown; a filter leaves some out."""

    def __init__(self) -> None:
        super().__init__()
        self.lanes: list[Lane] = []

    def fill(self, lanes: list[Lane]) -> None:
        self.beginResetModel()
        self.lanes = lanes
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  (the toolkit's own default)
        return 0 if parent.isValid() else len(self.lanes)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        lane = self.lanes[index.row()]
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return lane.title
            case Qt.ItemDataRole.ToolTipRole | Qt.ItemDataRole.AccessibleTextRole:
                return f"{lane.title}" + (f" on {lane.where}" if lane.where else "") + f": {lane.about}"
        return lane if role == LANE else None


class LaneDelegate(QStyledItemDelegate):
    """Two lines, as high as a lane."""

    def __init__(self, view: "LaneList"):
        super().__init__(view)
        self.view = view

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(60, ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        lane, p = index.data(LANE), self.view.p
        area = QRectF(option.rect).adjusted(2, 1, -2, -1)
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(p.active_soft))
            painter.drawRoundedRect(area, 6, 6)
        room = area.width() - 16
        where = f"{lane.where}: " if lane.where else ""
        left = area.left() + 8
        paint(painter, [Text(left, area.top() + 18, shortened(lane.title, 13, room, True), 13, p.ink, True),
                        Text(left, area.top() + 35, shortened(where + lane.about, 11, room), 11, p.faint)])  # fmt: skip
        painter.restore()


class LaneList(QListView):
    """Its rows stand beside the lanes of the plot."""

    chosen = Signal(object)

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.model_ = LaneModel()
        self.setModel(self.model_)
        self.setItemDelegate(LaneDelegate(self))
        self.setObjectName("lanes")
        self.setAccessibleName("Lanes")
        self.setUniformItemSizes(True)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.selectionModel().currentChanged.connect(lambda now, _: self.chosen.emit(now.data(LANE)))

    def fill(self, lanes: list[Lane]) -> None:
        """Anew; the chosen lane stays, and the place in the list."""
        now, place = self.lane(), self.verticalScrollBar().value()
        self.model_.fill(lanes)
        ids = [x.id for x in lanes]
        at = ids.index(now.id) if now is not None and now.id in ids else 0
        self.setCurrentIndex(self.model_.index(at, 0) if lanes else QModelIndex())
        self.verticalScrollBar().setValue(place)
        if not lanes:
            self.chosen.emit(None)

    def lane(self) -> Lane | None:
        found = self.currentIndex().data(LANE)
        return found if isinstance(found, Lane) else None

    def choose(self, lane_id: str) -> None:
        for k, lane in enumerate(self.model_.lanes):
            if lane.id == lane_id:
                self.setCurrentIndex(self.model_.index(k, 0))

"""The lanes by name: title, what it does, and the contact that does it."""

from PySide6.QtCore import QAbstractListModel, QModelIndex, Qt, Signal
from PySide6.QtWidgets import QListView

from knotplan.core.check.finding import Severity
from knotplan.core.drawing.palette import Palette
from knotplan.core.timing.lanes import Lane
from knotplan.desktop.panels.two_lines import Index, TwoLineRow, TwoLines
from knotplan.desktop.tips import tip_text

LANE, WORST = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1


class LaneModel(QAbstractListModel):
    """The lanes that are shown; a filter leaves some out."""

    def __init__(self) -> None:
        super().__init__()
        self.lanes: list[Lane] = []
        self.worst: dict[str, Severity] = {}

    def fill(self, lanes: list[Lane], worst: dict[str, Severity]) -> None:
        self.beginResetModel()
        self.lanes, self.worst = lanes, worst
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  (the toolkit's own default)
        return 0 if parent.isValid() else len(self.lanes)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        lane = self.lanes[index.row()]
        grave = self.worst.get(lane.part)
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return lane.title
            case Qt.ItemDataRole.ToolTipRole | Qt.ItemDataRole.AccessibleTextRole:
                text = (
                    f"{lane.title}"
                    + (f" on {lane.where}" if lane.where else "")
                    + f": {lane.about}"
                    + (f", {grave}" if grave else "")
                )
                return tip_text(text) if role == Qt.ItemDataRole.ToolTipRole else text
        if role == LANE:
            return lane
        if role == WORST:
            return grave
        return None


def _row(index: Index) -> TwoLineRow:
    lane: Lane = index.data(LANE)
    return TwoLineRow(
        lane.title, (f"{lane.where}: " if lane.where else "") + lane.about, worst=index.data(WORST)
    )


class LaneList(QListView):
    """Its rows stand beside the lanes of the plot."""

    chosen = Signal(object)

    def __init__(self, palette: Palette):
        super().__init__()
        self.p = palette
        self.model_ = LaneModel()
        self.setModel(self.model_)
        self.setItemDelegate(TwoLines(self, lambda: self.p, _row))
        self.setObjectName("lanes")
        self.setAccessibleName("Lanes")
        self.setUniformItemSizes(True)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.selectionModel().currentChanged.connect(lambda now, _: self.chosen.emit(now.data(LANE)))

    def fill(self, lanes: list[Lane], worst: dict[str, Severity]) -> None:
        """Anew, with the gravest finding about each part; the chosen
        lane stays, and the place in the list."""
        now, place = self.lane(), self.verticalScrollBar().value()
        self.model_.fill(lanes, worst)
        ids = [x.id for x in lanes]
        at = ids.index(now.id) if now is not None and now.id in ids else 0
        self.setCurrentIndex(self.model_.index(at, 0) if lanes else QModelIndex())
        self.verticalScrollBar().setValue(place)
        if not lanes:
            self.chosen.emit(None)

    def lane(self) -> Lane | None:
        data = self.currentIndex().data(LANE)
        return data if isinstance(data, Lane) else None

    def choose(self, lane_id: str) -> None:
        for k, lane in enumerate(self.model_.lanes):
            if lane.id == lane_id:
                self.setCurrentIndex(self.model_.index(k, 0))

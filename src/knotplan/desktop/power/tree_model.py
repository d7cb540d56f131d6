"""The tree of supplies as the view shows it, a row for each node; rows
are dragged onto what is to feed them."""

from collections.abc import Sequence

from msgspec import Struct
from PySide6.QtCore import QAbstractItemModel, QMimeData, QModelIndex, QPersistentModelIndex, Qt, Signal

from knotplan.core.match.fit import Grade, fit
from knotplan.core.power.node import Node, contact_of
from knotplan.core.quantity.order import size_key
from knotplan.core.quantity.written import beside, show
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

Index = QModelIndex | QPersistentModelIndex
HEADS = ("What", "Arrives", "Usually", "Worst", "Peaks added up", "Of its limit", "Heat")
TIPS = (
    "Supplies, rails, converters, hubs that pass on, and loads",
    "Voltage where it hangs: the least at worst, after every cord before it, and the usual one",
    "Current with every load at its usual",
    "Current of the hungriest set of activities that can go on together, each load at its worst",
    "Sum of all peaks, whatever excludes what: stalled motors, white pixels",
    "Usual and worst current against what the supply, rail or converter can give",
    "What it turns into heat at worst",
)
WHAT, ARRIVES, USUAL, WORST, PEAKS, GAUGE, HEAT = range(7)
NODE = int(Qt.ItemDataRole.UserRole)
MIME = "application/x-knotplan-lead"


_USUAL = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
_DRAG, _DROP = Qt.ItemFlag.ItemIsDragEnabled, Qt.ItemFlag.ItemIsDropEnabled
FLAGS = {
    (False, False): _USUAL,
    (True, False): _USUAL | _DRAG,
    (False, True): _USUAL | _DROP,
    (True, True): _USUAL | _DRAG | _DROP,
}
"""by whether a row can be dragged, and whether something can be dropped on it"""


class TreeRow(Struct):
    """A node with its place."""

    node: Node
    parent: int
    place: int
    below: list[int] = []


class TreeModel(QAbstractItemModel):
    """Rows by number; the number is the index's own."""

    moved = Signal(str, str)
    """a lead was dropped on a node, by the node's id"""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.rows: list[TreeRow] = []
        self.tops: list[int] = []
        self.dead: frozenset[str] = frozenset()
        self.sorted_by = (-1, Qt.SortOrder.AscendingOrder)
        self.answers: dict[str, Grade] = {}
        """while a load is dragged: how well each node could feed it"""

    def ask(self, load: Node) -> None:
        """Asks every node that something can hang on whether it could feed a load."""
        c = self.session.circuit
        nodes = [
            r.node for r in self.rows if r.node.id != load.id and (not load.part or r.node.part != load.part)
        ]
        self.answers = {
            n.id: fit(c, load.lead, contact).grade for n in nodes if (contact := contact_of(c, n))
        }

    def fill(self, roots: Sequence[Node], dead: Sequence[Node] = ()) -> None:
        self.beginResetModel()
        self.rows, self.tops, self.dead = [], [], frozenset(n.id for n in dead)
        for node in (*roots, *dead):
            self.tops.append(self._add(node, -1, len(self.tops)))
        self._arrange()
        self.endResetModel()

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        """What hangs on the same thing, by a column; by none in the order of the plan."""
        self.sorted_by = column, order
        self.layoutAboutToBeChanged.emit()
        old = self.persistentIndexList()
        numbers = [at.internalId() for at in old]
        self._arrange()
        new = [
            self.createIndex(self.rows[n].place, at.column(), n) for n, at in zip(numbers, old, strict=True)
        ]
        self.changePersistentIndexList(old, new)
        self.layoutChanged.emit()

    def _arrange(self) -> None:
        column, order = self.sorted_by
        for level in (self.tops, *(row.below for row in self.rows)):
            level.sort()  # numbers follow the plan
            if column >= 0:
                level.sort(
                    key=lambda n: size_key(self._cell(n, column)),
                    reverse=order == Qt.SortOrder.DescendingOrder,
                )
            for place, number in enumerate(level):
                self.rows[number].place = place

    def _cell(self, number: int, column: int) -> str:
        node = self.rows[number].node
        return cell(node, column, node.id in self.dead)

    def _add(self, node: Node, parent: int, place: int) -> int:
        number = len(self.rows)
        self.rows.append(TreeRow(node, parent, place))
        self.rows[number].below = [self._add(child, number, k) for k, child in enumerate(node.children)]
        return number

    # --- as the toolkit asks --------------------------------------------------------------------

    def index(self, row: int, column: int, parent: Index = QModelIndex()) -> QModelIndex:  # noqa: B008  (Qt's own default)
        below = self.rows[parent.internalId()].below if parent.isValid() else self.tops
        there = 0 <= row < len(below) and 0 <= column < len(HEADS)
        return self.createIndex(row, column, below[row]) if there else QModelIndex()

    def parent(self, index: Index = QModelIndex()) -> QModelIndex:  # type: ignore[override]  # noqa: B008
        above = self.rows[index.internalId()].parent if index.isValid() else -1
        return self.createIndex(self.rows[above].place, 0, above) if above >= 0 else QModelIndex()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  (Qt's own default)
        if parent.column() > 0:
            return 0
        return len(self.rows[parent.internalId()].below) if parent.isValid() else len(self.tops)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  (Qt's own default)
        return len(HEADS)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        if orientation != Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return int(
                Qt.AlignmentFlag.AlignLeft if section in (WHAT, GAUGE) else Qt.AlignmentFlag.AlignRight
            )
        if role == Qt.ItemDataRole.DisplayRole:
            return HEADS[section]
        return TIPS[section] if role == Qt.ItemDataRole.ToolTipRole else None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        node, column = self.rows[index.internalId()].node, index.column()
        if role == NODE:
            return node
        if role == Qt.ItemDataRole.DisplayRole:
            return self._cell(index.internalId(), column)
        if role == Qt.ItemDataRole.ToolTipRole:
            return tip_text(node.why) or TIPS[column]
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{HEADS[column]}: {self._cell(index.internalId(), column)}"
        if role == Qt.ItemDataRole.TextAlignmentRole and column not in (WHAT, GAUGE):
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return None

    # --- dragging -------------------------------------------------------------------------------

    def flags(self, index: Index) -> Qt.ItemFlag:
        if not index.isValid():
            return Qt.ItemFlag.NoItemFlags
        node = self.rows[index.internalId()].node
        return FLAGS[bool(node.lead), node.kind in ("supply", "converter", "rail", "hub")]

    def supportedDropActions(self) -> Qt.DropAction:
        return Qt.DropAction.MoveAction

    def mimeTypes(self) -> list[str]:
        return [MIME]

    def mimeData(self, indexes: Sequence[QModelIndex]) -> QMimeData:
        data = QMimeData()
        data.setData(MIME, self.rows[indexes[0].internalId()].node.lead.encode("utf-8"))
        return data

    def canDropMimeData(
        self, data: QMimeData, action: Qt.DropAction, row: int, column: int, parent: Index
    ) -> bool:
        if not parent.isValid() or not data.hasFormat(MIME):
            return False
        return self.answers.get(self.rows[parent.internalId()].node.id, Grade.IMPOSSIBLE) != Grade.IMPOSSIBLE

    def dropMimeData(
        self, data: QMimeData, action: Qt.DropAction, row: int, column: int, parent: Index
    ) -> bool:
        if not parent.isValid() or not data.hasFormat(MIME):
            return False
        lead = bytes(data.data(MIME).data()).decode("utf-8")
        self.moved.emit(lead, self.rows[parent.internalId()].node.id)
        return False  # the tree that follows from the edit says where it is now


def cell(node: Node, column: int, dead: bool = False) -> str:
    """A cell's text."""
    if column == WHAT:
        return node.title + (" – no supply" if dead else "")
    if dead:
        return ""
    t = node.total
    if column == ARRIVES:
        low = "" if abs(node.volts - node.least_v) < 0.005 else f"{node.least_v:.3g} – "
        return f"{low}{node.volts:.3g} V"
    if column == GAUGE:
        return beside(t.worst_a, node.limit_a, "A") if node.limit_a else ""
    if column == PEAKS:
        return show(t.peaks_a, "A", 3) if t.peaks_a > t.worst_a * 1.001 else ""
    if column == HEAT:
        return show(node.heat_w, "W", 2) if node.heat_w >= 0.005 else ""
    return show({USUAL: t.usual_a, WORST: t.worst_a}[column], "A", 3) if column in (USUAL, WORST) else ""

"""The devices of a bus as a table, and addresses for many of them at once."""

from functools import partial

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import QHeaderView, QTreeWidget, QTreeWidgetItem, QWidget

from knotplan.core.buses.addresses import Place, can_be, named
from knotplan.core.buses.apart import behind_switch, other_bus
from knotplan.core.buses.assign import Conflict, Given, assign
from knotplan.core.buses.i2c import I2cBus, some
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.remedy import Remedy, Step
from knotplan.core.quantity.written import counted
from knotplan.desktop import lettering
from knotplan.desktop.lists.equip import Line, equip
from knotplan.desktop.panels.fields import button, clear_layout, column_in, label, row
from knotplan.desktop.session import Session

DEVICE, ADDRESS, BY, NEW = range(4)
HEADS = ("Device", "At", "By", "New")
PLACE = Qt.ItemDataRole.UserRole


def how(c: Circuit, place: Place) -> str:
    """What gives a device its address."""
    facts = c.parts[place.part].facts.i2c if place.part else None
    if facts is None:
        return "the board"
    if facts.by_command:
        return "command"
    return "straps" if facts.pads else "itself"


class Devices(QWidget):
    """Ticked devices may be given addresses; the others stay where they are."""

    chosen = Signal(object)

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.bus: I2cBus | None = None
        self.proposed: Remedy | None = None
        self.tree = QTreeWidget()
        self.tree.setObjectName("devices")
        self.tree.setAccessibleName("Devices")
        self.tree.setColumnCount(len(HEADS))
        self.tree.setHeaderLabels(HEADS)
        self.tree.setRootIsDecorated(False)
        self.tree.setUniformRowHeights(True)
        head = self.tree.header()
        head.setStretchLastSection(False)
        head.setSectionResizeMode(DEVICE, QHeaderView.ResizeMode.Stretch)
        for k in (ADDRESS, BY, NEW):
            head.setSectionResizeMode(k, QHeaderView.ResizeMode.ResizeToContents)
        equip(self.tree, session.noticed.emit)
        self.tree.currentItemChanged.connect(
            lambda now, _: self.chosen.emit(now.data(0, PLACE) if now else None)
        )
        self.give = button(
            "Give addresses",
            "giveAddresses",
            "Find addresses for the ticked devices around all others",
            self.propose,
        )
        self.take = button("Set them", "setAddresses", "Make what is proposed", self.make, "main")
        self.take.hide()
        self.summary = label("", "faint")
        self.more = QWidget()
        self._more = column_in(self.more, 4)
        down = column_in(self, 5)
        down.addWidget(self.tree, 1)
        down.addWidget(self.summary)
        down.addWidget(self.more)
        down.addWidget(row(self.give, self.take))

    def _hold(self) -> None:
        """At least as wide as what the heads say."""
        head = self.tree.header()
        shown = [k for k in range(len(HEADS)) if not head.isSectionHidden(k)]
        frame = 2 * self.tree.frameWidth() + self.tree.verticalScrollBar().sizeHint().width()
        self.tree.setMinimumWidth(sum(head.sectionSizeHint(k) for k in shown) + frame)

    def fill(self, bus: I2cBus) -> None:
        """Anew; ticks and the chosen device stay."""
        c = self.session.circuit
        ticked = (
            {
                i.data(0, PLACE).part: i.checkState(0)
                for i in self._items()
                if i.flags() & Qt.ItemFlag.ItemIsUserCheckable
            }
            if self.bus is not None and self.bus.id == bus.id
            else {}
        )
        here = self.place()
        self.bus, self.proposed = bus, None
        self.tree.blockSignals(True)
        self.tree.clear()
        for place in bus.devices:
            item = Line([named(c, place), f"0x{place.address:02X}", how(c, place), ""])
            item.setData(0, PLACE, place)
            item.setSizeHint(0, QSize(0, lettering.px(25)))
            if place.part and len(can_be(c, place.part)) > 1:
                item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                item.setCheckState(0, ticked.get(place.part, Qt.CheckState.Checked))
            self.tree.addTopLevelItem(item)
        items = self._items()
        keep = next(
            (i for i in items if here is not None and i.data(0, PLACE).part == here.part),
            items[0] if items else None,
        )
        if keep is not None:
            self.tree.setCurrentItem(keep)
        self.tree.blockSignals(False)
        self._settle("")
        self.give.setEnabled(any(i.flags() & Qt.ItemFlag.ItemIsUserCheckable for i in items))
        self.chosen.emit(self.place())

    def _items(self) -> list[QTreeWidgetItem]:
        return [
            i for k in range(self.tree.topLevelItemCount()) if (i := self.tree.topLevelItem(k)) is not None
        ]

    def place(self) -> Place | None:
        item = self.tree.currentItem()
        return item.data(0, PLACE) if item is not None else None

    def choose(self, part_id: str) -> None:
        for item in self._items():
            if item.data(0, PLACE).part == part_id:
                self.tree.setCurrentItem(item)

    # --- many at once -------------------------------------------------------------------------------

    def ticked(self) -> list[str]:
        return [
            i.data(0, PLACE).part
            for i in self._items()
            if i.flags() & Qt.ItemFlag.ItemIsUserCheckable and i.checkState(0) == Qt.CheckState.Checked
        ]

    def propose(self) -> None:
        """What would be set, beside what is; or the fewest devices that
        cannot stand together, and what helps."""
        assignment = assign(self.session.circuit, self.ticked())
        if isinstance(assignment, Given):
            self._given(assignment)
        else:
            self._conflict(assignment)

    def _given(self, given: Given) -> None:
        for item in self._items():
            straps = given.straps.get(item.data(0, PLACE).part)
            item.setText(NEW, f"0x{straps.address:02X}" if straps and straps.params else "")
        steps = tuple(
            Step(edits.set_params, (p, dict(s.params))) for p, s in given.straps.items() if s.params
        )
        if not steps:
            self._settle("All of them have an address of their own already.")
            return
        self.proposed = Remedy(f"set the addresses of {counted(len(steps), 'device')}", steps)
        self._settle(f"{counted(len(steps), 'device')} would change, {counted(given.changes, 'pad')} in all.")
        self.tree.setColumnHidden(NEW, False)
        self._hold()
        self.take.show()

    def _conflict(self, conflict: Conflict) -> None:
        c = self.session.circuit
        names = some([c.placed[p].name for p in conflict.parts], 4)
        left = ", ".join(f"0x{a:02X}" for a in conflict.addresses[:6]) + (
            " …" if len(conflict.addresses) > 6 else ""
        )
        free = f"only {left} are left to them" if conflict.addresses else "no address is left to them"
        self._settle(f"{names} cannot all have addresses of their own: {free}.")
        for remedy in self._ways_out(conflict):
            way = button(
                remedy.title,
                "wayOut",
                "Makes it; undo takes it back",
                partial(self.session.make, remedy),
                "remedy",
            )
            self._more.addWidget(way)
            way.show()

    def _ways_out(self, conflict: Conflict) -> list[Remedy]:
        """Another bus for one of them, or a switch before as many as have too few addresses."""
        c, bus = self.session.circuit, self.bus
        if bus is None:
            return []
        here = [p for p in bus.devices if p.part in conflict.parts]
        over = max(1, len(conflict.parts) - len(conflict.addresses))
        ways = [r for p in here[-1:] for r in other_bus(c, p, bus.devices)]
        switch = behind_switch(c, self.session.catalog, [p.part for p in here[-over:]]) if here else None
        return [*ways, *([switch] if switch else [])]

    def _settle(self, text: str) -> None:
        self.summary.setText(text)
        self.summary.setVisible(bool(text))
        self.take.hide()
        self.tree.setColumnHidden(NEW, True)
        self._hold()
        clear_layout(self._more)

    def make(self) -> None:
        if self.proposed is not None:
            self.session.make(self.proposed)

"""One I2C bus: its map, its devices, its edges."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QSplitter, QVBoxLayout, QWidget

from knotplan.core.buses.addresses import Place
from knotplan.core.buses.i2c import I2cBus, cells, could_be
from knotplan.core.drawing.palette import Palette
from knotplan.desktop.buses.address_map import AddressMap
from knotplan.desktop.buses.device_panel import set_address
from knotplan.desktop.buses.devices import Devices
from knotplan.desktop.buses.edges_plot import EdgesPlot
from knotplan.desktop.session import Session


class I2cPage(QWidget):
    """The map above, devices and plot below."""

    chosen = Signal(object)
    """the device that is looked at, or nothing"""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.bus: I2cBus | None = None
        self.map = AddressMap(palette)
        self.map.picked.connect(self._picked)
        self.devices = Devices(session)
        self.devices.chosen.connect(self._chosen)
        self.plot = EdgesPlot(palette)
        self.below = QSplitter(Qt.Orientation.Horizontal)
        self.below.setChildrenCollapsible(False)
        self.below.addWidget(self.devices)
        self.below.addWidget(self.plot)
        self.below.setSizes([330, 380])
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.setChildrenCollapsible(False)
        self.split.addWidget(self.map)
        self.split.addWidget(self.below)
        self.split.setSizes([290, 280])
        down = QVBoxLayout(self)
        down.setContentsMargins(0, 0, 0, 0)
        down.addWidget(self.split)

    def fill(self, bus: I2cBus) -> None:
        self.bus = bus
        self.devices.fill(bus)
        self.plot.draw(bus.slower_line, bus.mode)

    def _chosen(self, place: Place | None) -> None:
        c = self.session.circuit
        if self.bus is None:
            return
        able = frozenset(could_be(c, place)) if place is not None else frozenset()
        self.map.show_cells(cells(c, self.bus), able, place.address if place else -1)
        self.chosen.emit(place)

    def _picked(self, address: int) -> None:
        """The device that answers there is chosen; where none does and
        the chosen one could, it goes there."""
        assert self.bus is not None
        there = next((p for p in self.bus.devices if p.address == address and p.part), None)
        place = self.devices.place()
        if there is not None and there != place:
            self.devices.choose(there.part)
        elif place is not None and place.part and address in self.map.could and address != place.address:
            set_address(self.session, place.part, address)

    def set_palette(self, palette: Palette) -> None:
        self.p = self.map.p = palette
        old, self.plot = self.plot, EdgesPlot(palette)
        self.below.replaceWidget(1, self.plot)
        old.deleteLater()

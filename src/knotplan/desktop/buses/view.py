"""The Buses view: who answers where?"""

from collections.abc import Callable

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from knotplan.core.buses.addresses import Place, trunk
from knotplan.core.buses.i2c import I2cBus, i2c_buses, notes
from knotplan.core.buses.numbers import called
from knotplan.core.buses.single import SingleLine, single_lines
from knotplan.core.buses.spi import Controller, controllers
from knotplan.core.buses.uart import Link, good_rates, links
from knotplan.core.drawing.buses import line_picture, spi_picture, uart_picture
from knotplan.core.drawing.palette import Palette
from knotplan.core.plan import edits
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show
from knotplan.core.text.buses import Entry, findings_about, overview
from knotplan.desktop import lettering
from knotplan.desktop.buses.bus_list import BusList
from knotplan.desktop.buses.device_panel import DevicePanel
from knotplan.desktop.buses.i2c_page import I2cPage
from knotplan.desktop.buses.picture_page import PicturePage
from knotplan.desktop.buses.sentences import i2c_lines, line_lines, spi_lines, uart_lines
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import QuantityField, choice, column_in, form, label, line
from knotplan.desktop.panels.side_pane import ROOMY, SidePane
from knotplan.desktop.session import Session
from knotplan.desktop.view import Page

LIST = 216


class BusesView(Page):
    """The list of buses on the left, the chosen one in the middle, what
    there is to say and set on the right."""

    def __init__(self, session: Session, palette: Palette):
        super().__init__()
        self.session, self.p = session, palette
        self.setAccessibleName("Buses")
        self.list = BusList(palette)
        self.i2c = I2cPage(session, palette)
        self.picture = PicturePage(palette)
        self.empty = label(
            "Nothing is on a bus yet. Tie a part's SDA and SCL, its clock and data, or its TX and RX to the "
            "board: the loom shows which pins can.",
            "faint",
        )
        self.pages = QStackedWidget()
        for page in (self.i2c, self.picture, self.empty):
            self.pages.addWidget(page)
        self.side = SidePane(session, "busSide", "About the chosen bus")
        self.place: Place | None = None
        across = QHBoxLayout(self)
        across.setContentsMargins(22, 14, 14, 10)
        across.setSpacing(14)
        left = QWidget()
        down = column_in(left, 8)
        down.addWidget(label("Buses", "head", wrap=False))
        down.addWidget(self.list, 1)
        across.addWidget(left)
        across.addWidget(self.pages, 1)
        across.addWidget(self.side)
        equip(self.list, session.noticed.emit)
        self.list.chosen.connect(self._show)
        self.i2c.chosen.connect(self._device)
        session.changed.connect(self._changed)

    def suit(self) -> None:
        self.side.suit(self.room)
        wide = self.room > lettering.px(ROOMY)
        self.list.setFixedWidth(lettering.beside(LIST if wide else LIST - 40, self.room, 1 / 5))

    # --- following the session ------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        self.fill()
        self.list.setFocus()

    def _changed(self) -> None:
        if self.isVisible():
            self.fill()

    def fill(self) -> None:
        self.list.fill(overview(self.session.report))

    def entry(self) -> Entry | None:
        return self.list.entry()

    def bus(self) -> I2cBus | None:
        entry = self.entry()
        return next(
            (b for b in i2c_buses(self.session.circuit) if entry is not None and b.id == entry.id), None
        )

    def _show(self, entry: Entry | None) -> None:
        c = self.session.circuit
        if entry is None:
            self.pages.setCurrentWidget(self.empty)
            self.side.tell(self.p)
        elif entry.kind == "i2c" and (bus := self.bus()) is not None:
            self.pages.setCurrentWidget(self.i2c)
            self.i2c.fill(bus)
        elif entry.kind == "spi":
            controller = next(k for k in controllers(c) if k.id == entry.id)
            self.pages.setCurrentWidget(self.picture)
            self.picture.show_picture(spi_picture(c, controller, self.p))
            self._tell(lambda down: self._spi(down, controller), entry)
        elif entry.kind == "uart":
            link = next(x for x in links(c) if x.part == entry.parts[0])
            self.pages.setCurrentWidget(self.picture)
            self.picture.show_picture(uart_picture(c, link, self.p))
            self._tell(lambda down: self._uart(down, link), entry)
        elif entry.kind == "line":
            single = next(x for x in single_lines(c) if x.contact == entry.id)
            self.pages.setCurrentWidget(self.picture)
            self.picture.show_picture(line_picture(c, single, self.p))
            self._tell(lambda down: self._single(down, single), entry)

    def _device(self, place: Place | None) -> None:
        self.place = place
        entry, bus = self.entry(), self.bus()
        if entry is not None and bus is not None:
            self._tell(lambda down: self._i2c(down, bus), entry)

    # --- the right side -----------------------------------------------------------------------------

    def _tell(self, fill: Callable[[QVBoxLayout], None], entry: Entry) -> None:
        """The right side anew: findings of the bus, those of the chosen
        device first, then what `fill` adds."""
        findings = findings_about(self.session.report, entry)
        here = self.place.part if self.place is not None and entry.kind == "i2c" else ""
        findings.sort(key=lambda f: here not in {split(s)[0] for s in f.subjects})
        self.side.tell(self.p, findings, fill)

    def _lines(self, down: QVBoxLayout, lines: list[tuple[str, str]]) -> None:
        for text, tone in lines:
            down.addWidget(label(text, tone))

    def _i2c(self, down: QVBoxLayout, bus: I2cBus) -> None:
        c = self.session.circuit
        if self.place is not None:
            down.addWidget(DevicePanel(self.session, self.p, self.place))
            down.addWidget(line())
        root = trunk(c, bus.bus)[-1]
        down.addWidget(label(bus.title, "head"))
        unit = c.hardware.unit_spec(root.unit)
        offered = unit.speeds if unit else ()
        speeds = list(dict.fromkeys([*offered, bus.hz])) if bus.depth == 0 else []
        if speeds:
            fields = form()
            options = [(f"{hz:g}", show(hz, "Hz")) for hz in sorted(speeds)]
            usual = unit.speeds[0] if unit and unit.speeds else 0.0
            box = choice(
                "busClock",
                "The clock that the program gives this bus",
                options,
                f"{bus.hz:g}",
                lambda hz: self._clock(str(root), float(hz), usual),
            )
            box.setAccessibleName("Clock")
            fields.addRow("Clock", box)
            down.addLayout(fields)
        self._lines(down, [(text, "") for text in called(c, root.unit).lines])
        self._lines(down, i2c_lines(c, bus))
        self._lines(down, [(text, "faint") for text in notes(c, bus)])

    def _clock(self, unit: str, hz: float, usual: float) -> None:
        self.session.edit("give the bus another clock", edits.set_clock, unit, 0.0 if hz == usual else hz)

    def _spi(self, down: QVBoxLayout, k: Controller) -> None:
        down.addWidget(label(k.title, "head"))
        fields = form()
        clock = QuantityField(
            "spiClock",
            "The clock that the program asks for; the divider makes the next one below",
            k.wish_hz or k.most_hz,
            "Hz",
            lambda hz: self._clock(k.id, hz, 0.0),
            1.0,
            1e9,
        )
        fields.addRow("Clock", clock)
        down.addLayout(fields)
        self._lines(
            down, [(text, "") for text in called(self.session.circuit, k.unit).lines] if k.unit else []
        )
        self._lines(down, spi_lines(self.session.circuit, k))

    def _uart(self, down: QVBoxLayout, link: Link) -> None:
        c = self.session.circuit
        down.addWidget(label(link.title, "head"))
        rates = sorted({*good_rates(c, link), link.baud})
        fields = form()
        facts = c.parts[link.part].facts.uart
        usual = float(facts.baud) if facts else 0.0
        box = choice(
            "baud",
            "The rate that both ends are set to",
            [(f"{r:g}", f"{r:g} baud") for r in rates],
            f"{link.baud:g}",
            lambda r: self.session.edit(
                "speak at another rate",
                edits.set_program_setting,
                link.part,
                "baud",
                None if float(r) == usual else float(r),
            ),
        )
        box.setAccessibleName("Rate")
        fields.addRow("Rate", box)
        down.addLayout(fields)
        self._lines(down, [(text, "") for text in called(c, link.unit).lines] if link.unit else [])
        self._lines(down, uart_lines(c, link))

    def _single(self, down: QVBoxLayout, single: SingleLine) -> None:
        entry = self.entry()
        down.addWidget(label(entry.title if entry else "", "head"))
        self._lines(down, line_lines(self.session.circuit, single))

    def set_palette(self, palette: Palette) -> None:
        self.p = self.list.p = self.picture.canvas.p = palette
        self.i2c.set_palette(palette)
        if self.isVisible():
            self.fill()

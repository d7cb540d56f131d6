"""A bus scan on the address map of the plan, cell by cell."""

from collections.abc import Sequence
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtWidgets import QVBoxLayout, QWidget

from knotplan.core.bringup.difference import Difference
from knotplan.core.bringup.held import Held
from knotplan.core.bringup.said import BusScan
from knotplan.core.bringup.scan import ScannedBus, on_board
from knotplan.core.drawing.palette import Palette
from knotplan.desktop.background_task import BackgroundTask
from knotplan.desktop.bringup.evidence import Evidence
from knotplan.desktop.bringup.page import SourcePage
from knotplan.desktop.bringup.paste import pasted
from knotplan.desktop.bringup.scan_map import ScanMap
from knotplan.desktop.panels.fields import button, choice, label, row
from knotplan.desktop.panels.segments import Segment, Segments
from knotplan.desktop.session import Session
from knotplan.exchange.bench import bench_file, live_bus, scan_text


class ScanPage(SourcePage):
    """Buses side by side to choose from, and the map of the chosen one."""

    kind = "scan"
    title = "Bus scan"
    not_compared = "Nothing of the plan is on a bus that was scanned."
    empty = (
        "Run   i2cdetect -y 1   on the board, with the number of your bus, and paste what it prints. "
        "Several buses in one text are fine, and so are the prompts around them.\n\n"
        "Or run   knotplan read-bench > bench.json   on the board, and open the file here: "
        "it brings the lines of the GPIO chips along."
    )

    def __init__(self, session: Session, palette: Palette, evidence: Evidence):
        self.map = ScanMap(palette)
        self.buses = Segments("scannedBus", "Bus", "Which bus to look at", "chip", 6)
        self.which = choice("busNumber", "Of which bus of the plan this scan is", (), "", self._is_of)
        self.trouble = label("", "care")
        self.said = label("", "faint")
        self.shown: tuple[ScannedBus, ...] = ()
        self.now = 0
        super().__init__(session, palette, evidence)
        self.task = BackgroundTask("bus scan", self)
        self.task.answered.connect(lambda found: evidence.take_scans(found, "this machine"))
        self.task.failed.connect(self.noticed)

    def ways_in(self) -> Sequence[QWidget]:
        return (
            button("Paste …", "pasteScan", "The grid that the scan has printed", self.paste, "main"),
            button("Open …", "openScan", "A file with the grid, or one of knotplan read-bench", self.open),
            button(
                "Read this machine",
                "liveScan",
                "Asks every address of this machine's buses. Nothing is written to any device",
                self.read_here,
            ),
        )

    def compose(self, down: QVBoxLayout) -> None:
        down.addWidget(row(self.buses, self.which, stretch=0))
        down.addWidget(self.trouble)
        down.addWidget(self.map, 1)
        down.addWidget(self.said)
        self.buses.chosen.connect(self._choose)
        self.map.picked.connect(self._picked)

    # --- in -----------------------------------------------------------------------------------------

    def paste(self) -> None:
        scans = pasted("A bus scan", "Paste what i2cdetect printed.", scan_text.parse, self)
        if scans is not None:
            self.evidence.take_scans(scans, "the clipboard")

    def open(self) -> None:
        for path in self.paths("A bus scan", "Scans and benches (*.txt *.log *.json);;All files (*)")[:1]:
            self.take_file(path)

    def take_file(self, path: Path) -> None:
        """A scan as text, or what read-bench has written."""
        if path.suffix == ".json":
            take_bench(self, path)
            return
        scans = self.read(path.name, lambda: scan_text.load(path))
        if scans is not None:
            self.evidence.take_scans(scans, path.name)

    def read_here(self) -> None:
        nodes = live_bus.buses()
        if not nodes:
            self.noticed.emit(
                "This machine has no I2C device node. On the board itself, run: knotplan read-bench > "
                "bench.json"
            )
            return
        self.task.ask(lambda: [live_bus.scan(node) for node in nodes])

    # --- beside the plan --------------------------------------------------------------------------------

    def differences(self, held: Held) -> tuple[Difference, ...]:
        return held.of_buses

    def fill(self, held: Held | None) -> None:
        if held is None:
            return
        self.shown = held.buses
        self.now = min(self.now, max(0, len(self.shown) - 1))
        self.buses.fill(
            [
                Segment(str(k), _name(b), f"Bus {b.bus.title}", f"The scan of {b.bus.title}")
                for k, b in enumerate(self.shown)
            ]
        )
        self.buses.setVisible(len(self.shown) > 1)
        nameless = any(s.bus is None for s in self.evidence.scans)
        self.which.setVisible(nameless)
        if nameless:
            self.which.clear()
            self.which.addItem("Of which bus is it?", "")
            for number, bus in on_board(self.session.circuit).items():
                self.which.addItem(f"bus {number}: {bus.title}", str(number))
        self._show()

    def _is_of(self, number: str) -> None:
        if number:
            scans = [replace(s, bus=int(number)) if s.bus is None else s for s in self.evidence.scans]
            self.evidence.take_scans(scans, self.evidence.origin["scan"])

    def _choose(self, which: str) -> None:
        self.now = int(which)
        self._show()

    def _show(self) -> None:
        self.map.setVisible(bool(self.shown))
        troubles = [s.trouble for s in self.evidence.scans if s.trouble]
        self.trouble.setText("\n".join(troubles))
        self.trouble.setVisible(bool(troubles))
        if not self.shown:
            self.said.setText(_unplaced(self.evidence.scans))
            return
        self.buses.choose(str(self.now))
        bus = self.shown[self.now]
        self.map.show_seen(bus.cells)
        heard = len(bus.scan.heard)
        planned = len([p for p in bus.bus.devices if p.part])
        self.said.setText(
            f"{bus.bus.title}: {planned} planned, {heard} heard. Click an address to see what is known of it."
        )

    def look_at(self, difference: Difference) -> None:
        for k, bus in enumerate(self.shown):
            if difference in bus.differences:
                self.now = k
                self._show()
                wanted = [
                    c.planned.address
                    for c in bus.cells
                    if c.verdict in ("missing", "unexpected", "not tried", "driver")
                    and f"0x{c.planned.address:02X}" in f"{difference.title} {difference.message}"
                ]
                if wanted:
                    self.map.go_to(wanted[0])

    def _picked(self, address: int) -> None:
        self.said.setText(self.map.words(address))

    def set_palette(self, palette: Palette) -> None:
        super().set_palette(palette)
        self.map.p = palette
        self.map.update()


def _name(bus: ScannedBus) -> str:
    return bus.bus.title


def _unplaced(scans: Sequence[BusScan]) -> str:
    if not scans or all(s.trouble for s in scans):
        return ""
    numbers = [str(s.bus) for s in scans if s.bus is not None]
    return (
        f"No planned bus has the number {', '.join(numbers)}." if numbers else "Say of which bus the scan is."
    )


def take_bench(page: SourcePage, path: Path) -> None:
    """A file of read-bench: scans and lines together."""
    bench = page.read(path.name, lambda: bench_file.load(path))
    if bench is None:
        return
    scans, lines = bench_file.scans_of(bench), bench_file.lines_of(bench)
    if scans:
        page.evidence.take_scans(scans, path.name)
    if lines:
        page.evidence.take_lines(lines, path.name)
    about = [bench.model, bench.system, f"read {bench.taken}" if bench.taken else "", *bench.notes]
    page.noticed.emit("; ".join(x for x in about if x) or f"{path.name} holds no scans and no lines")

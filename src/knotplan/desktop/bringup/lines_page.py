"""The lines of GPIO chips beside the plan's ties, row by row."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHeaderView, QVBoxLayout, QWidget

from knotplan.core.bringup.difference import Difference
from knotplan.core.bringup.held import Held
from knotplan.core.bringup.lines import SeenLine
from knotplan.core.bringup.said import LineState
from knotplan.core.drawing.palette import Palette
from knotplan.desktop.background_task import BackgroundTask
from knotplan.desktop.bringup.evidence import Evidence
from knotplan.desktop.bringup.page import SourcePage
from knotplan.desktop.bringup.paste import pasted
from knotplan.desktop.bringup.scan_page import take_bench
from knotplan.desktop.cells import shown_table
from knotplan.desktop.lists.equip import Cell, equip
from knotplan.desktop.paint import colour
from knotplan.desktop.panels.fields import button, label
from knotplan.desktop.session import Session
from knotplan.exchange import gpio_lines
from knotplan.exchange.gpio_lines import GpioError

HEADS = ("Lead", "Pin of the plan", "Planned", "On the bench")
TIE = Qt.ItemDataRole.UserRole


class LinesPage(SourcePage):
    """The plan on the left, what the system says on the right."""

    kind = "lines"
    title = "Lines"
    not_compared = "Nothing of the plan is on a line of this listing."
    empty = (
        "Run   gpioinfo   on the board while your program runs, and paste what it prints; any version of the "
        "tool is fine, and so is the kernel's own list (/sys/kernel/debug/gpio), which has the levels "
        "too.\n\n"
        "Or run   knotplan read-bench > bench.json   on the board, and open the file here."
    )

    def __init__(self, session: Session, palette: Palette, evidence: Evidence):
        self.table = shown_table("benchLines", "Lines, planned and on the bench", HEADS)
        super().__init__(session, palette, evidence)
        self.task = BackgroundTask("lines", self)
        self.task.answered.connect(self._read)
        self.task.failed.connect(self.noticed)

    def ways_in(self) -> Sequence[QWidget]:
        return (
            button("Paste …", "pasteLines", "The listing that the tool has printed", self.paste, "main"),
            button(
                "Open …", "openLines", "A file with the listing, or one of knotplan read-bench", self.open
            ),
            button(
                "Read this machine",
                "liveLines",
                "Asks the GPIO chips of this machine. Nothing is changed",
                self.read_here,
            ),
        )

    def compose(self, down: QVBoxLayout) -> None:
        table = self.table
        table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        table.horizontalHeader().setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        equip(table, self.noticed.emit)
        table.currentCellChanged.connect(lambda *_: self._chosen())
        down.addWidget(table, 1)
        self.foot = label("", "faint")
        down.addWidget(self.foot)

    # --- in -----------------------------------------------------------------------------------------

    def paste(self) -> None:
        lines = pasted("GPIO lines", "Paste what gpioinfo printed.", gpio_lines.parse, self)
        if lines is not None:
            self.evidence.take_lines(lines, "the clipboard")

    def open(self) -> None:
        for path in self.paths("GPIO lines", "Listings and benches (*.txt *.log *.json);;All files (*)")[:1]:
            self.take_file(path)

    def take_file(self, path: Path) -> None:
        """A listing, or what read-bench has written."""
        if path.suffix == ".json":
            take_bench(self, path)
            return
        lines = self.read(path.name, lambda: gpio_lines.load(path))
        if lines is not None:
            self.evidence.take_lines(lines, path.name)

    def read_here(self) -> None:
        devices = gpio_lines.chips()
        if not devices:
            self.noticed.emit(
                "This machine has no GPIO chip. On the board itself, run: knotplan read-bench > bench.json"
            )
            return
        self.task.ask(lambda: _read_all(devices))

    def _read(self, found: tuple[list[LineState], list[str]]) -> None:
        lines, troubles = found
        if troubles:
            self.noticed.emit("; ".join(troubles))
        if lines:
            self.evidence.take_lines(lines, "this machine")

    # --- beside the plan --------------------------------------------------------------------------------

    def differences(self, held: Held) -> tuple[Difference, ...]:
        return held.lines.differences if held.lines is not None else ()

    def fill(self, held: Held | None) -> None:
        if held is None or held.lines is None:
            return
        rows = held.lines.rows
        self.table.blockSignals(True)
        self.table.setSortingEnabled(False)
        self.table.setRowCount(len(rows))
        for k, row in enumerate(rows):
            self._fill_row(k, row)
        self.table.blockSignals(False)
        absent = sum(r.line is None for r in rows)
        self.foot.setText(
            f"{len(rows)} planned, {sum(r.differs for r in rows)} otherwise"
            + (f", {absent} not in the listing" if absent else "")
        )

    def _fill_row(self, k: int, row: SeenLine) -> None:
        t, p = self.session.circuit.titles, self.p
        tie = next((x for x in self.session.plan.ties if x.id == row.tie), None)
        planned = row.wants + (f", pull-{tie.pull}" if tie is not None and tie.pull != "none" else "")
        name = t.of(tie.lead) if tie is not None else ""
        texts = (name, t.full(row.contact), planned, ("≠ " if row.differs else "") + said(row.line))
        for column, text in enumerate(texts):
            cell = Cell(text)
            cell.setData(TIE, row.tie)
            cell.setToolTip(text)
            if row.differs and column >= 3:
                cell.setForeground(colour(p.stop))
            elif row.line is None:
                cell.setForeground(colour(p.faint))
            self.table.setItem(k, column, cell)

    def _chosen(self) -> None:
        item = self.table.item(self.table.currentRow(), 0)
        if item is not None:
            self.session.select("tie", item.data(TIE))

    def look_at(self, difference: Difference) -> None:
        for k in range(self.table.rowCount()):
            item = self.table.item(k, 0)
            if item is not None and item.data(TIE) in difference.look:
                self.table.selectRow(k)
                self.table.scrollToItem(item)
                return


def said(line: LineState | None) -> str:
    """What the system has of a line, in a few words."""
    if line is None:
        return "not in the listing"
    words = [line.direction or "direction not said", line.bias if line.bias != "disabled" else "no pull"]
    words += [line.drive, "active-low" if line.active_low else ""]
    words += [f"used by {line.used_by}" if line.used_by else "unused"]
    words += [{0: "is low", 1: "is high"}.get(line.level, "") if line.level is not None else ""]
    return f"{line.title}: " + ", ".join(w for w in words if w)


def _read_all(devices: Sequence[Path]) -> tuple[list[LineState], list[str]]:
    lines: list[LineState] = []
    troubles: list[str] = []
    for path in devices:
        try:
            lines += gpio_lines.read_chip(path)
        except GpioError as error:
            troubles += [f"{place}: {why}" for place, why in error.errors]
    return lines, troubles

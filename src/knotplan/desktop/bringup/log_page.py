"""Numbers of a serial log, and the ends that are measured with them: calibration of the plan."""

from collections.abc import Sequence
from pathlib import Path

import pyqtgraph as pg
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from knotplan.core.bringup.difference import Difference
from knotplan.core.bringup.held import Held
from knotplan.core.bringup.measured import Taken, take_over, takers
from knotplan.core.drawing.palette import Palette
from knotplan.desktop import lettering
from knotplan.desktop.bringup.evidence import Evidence
from knotplan.desktop.bringup.page import SourcePage
from knotplan.desktop.bringup.paste import pasted
from knotplan.desktop.cells import shown_table
from knotplan.desktop.lists.equip import Cell, equip
from knotplan.desktop.panels.fields import QuantityField, button, choice, column_in, form, label
from knotplan.desktop.plot import plot
from knotplan.desktop.session import Session
from knotplan.exchange.bench import serial_text
from knotplan.exchange.bench.serial_text import Column

HEADS = ("Column", "How many", "Least", "Most")
MOST_SHOWN = 5000


class LogPage(SourcePage):
    """The log's columns on the left, what they are measured for on the right."""

    kind = "log"
    title = "Serial log"
    not_compared = "A log is not compared; its ends are taken over into the plan."
    empty = (
        "Move a servo by hand to both of its stops, or a stick to both of its ends, let your program "
        "print what it reads, and paste the log: lines such as   left: 1512   or   1512, 987.\n\n"
        "The least and the most become the part's ends in the plan."
    )

    def __init__(self, session: Session, palette: Palette, evidence: Evidence):
        self.table = shown_table("columns", "Columns of the log", HEADS)
        self.plot = plot(palette, "The chosen column, line after line", "", "line of the log")
        self.part = choice(
            "measuredPart", "Which part these are the ends of", (), "", lambda _: self._offer()
        )
        self.offer = label("")
        self.takers: dict[str, Taken] = {}
        super().__init__(session, palette, evidence)

    def ways_in(self) -> Sequence[QWidget]:
        return (
            button("Paste …", "pasteLog", "Lines that your program has printed", self.paste, "main"),
            button("Open …", "openLog", "A file with the log", self.open),
        )

    def compose(self, down: QVBoxLayout) -> None:
        table = self.table
        equip(table, self.noticed.emit)
        table.currentCellChanged.connect(lambda *_: self._chosen())
        across = QHBoxLayout()
        across.setSpacing(14)
        left = QWidget()
        lettering.fix(left, width=330)
        for k, wide in enumerate((110, 88, 60, 60)):
            table.setColumnWidth(k, lettering.px(wide))
        column_in(left).addWidget(table)
        across.addWidget(left)
        right = QWidget()
        self.right = column_in(right, 8)
        self.right.addWidget(self.plot, 1)
        fields = form()
        self.least = QuantityField("least", "What counts as the one end", 0.0, "", lambda _: self._offer())
        self.most = QuantityField("most", "What counts as the other end", 0.0, "", lambda _: self._offer())
        fields.addRow("One end", self.least)
        fields.addRow("Other end", self.most)
        fields.addRow("These are ends of", self.part)
        self.right.addLayout(fields)
        self.right.addWidget(self.offer)
        self.take = button(
            "Take over",
            "takeEnds",
            "The plan has these ends then; undo takes it back",
            self.take_over,
            "main",
        )
        self.right.addWidget(self.take)
        across.addWidget(right, 1)
        down.addLayout(across, 1)

    # --- in -----------------------------------------------------------------------------------------

    def paste(self) -> None:
        columns = pasted("A serial log", "Paste lines with numbers.", serial_text.parse, self)
        if columns is not None:
            self.evidence.take_columns(columns, "the clipboard")

    def open(self) -> None:
        for path in self.paths("A serial log", "Logs (*.txt *.log *.csv);;All files (*)")[:1]:
            self.take_file(path)

    def take_file(self, path: Path) -> None:
        columns = self.read(path.name, lambda: serial_text.load(path))
        if columns is not None:
            self.evidence.take_columns(columns, path.name)

    # --- what it says -----------------------------------------------------------------------------------

    def differences(self, held: Held) -> tuple[Difference, ...]:
        return ()

    def fill(self, held: Held | None) -> None:
        columns = self.evidence.columns
        now = max(0, self.table.currentRow())
        self.table.blockSignals(True)
        self.table.setRowCount(len(columns))
        for k, c in enumerate(columns):
            for j, text in enumerate((c.name, str(len(c.values)), f"{c.least:g}", f"{c.most:g}")):
                self.table.setItem(k, j, Cell(text))
        self.table.blockSignals(False)
        self.takers = {t.id: t for t in takers(self.session.circuit)}
        chosen = self.part.currentData()
        self.part.clear()
        for t in self.takers.values():
            self.part.addItem(f"{t.title}: {t.what}", t.id)
        self.part.setCurrentIndex(max(0, self.part.findData(chosen)))
        self.table.selectRow(min(now, len(columns) - 1))
        self._chosen()

    def column(self) -> Column | None:
        """The chosen one."""
        k = self.table.currentRow()
        return self.evidence.columns[k] if 0 <= k < len(self.evidence.columns) else None

    def _chosen(self) -> None:
        column = self.column()
        self.plot.clear()
        if column is None:
            return
        values = column.values[:MOST_SHOWN]
        self.plot.plot(values, pen=pg.mkPen(self.p.active, width=1.6))
        self.least.line.setText(f"{column.least:g}")
        self.most.line.setText(f"{column.most:g}")
        self._offer()

    def _ends(self) -> tuple[float, float] | None:
        try:
            return float(self.least.line.text()), float(self.most.line.text())
        except ValueError:
            return None

    def _offer(self) -> None:
        taken, ends = self.takers.get(str(self.part.currentData())), self._ends()
        possible = taken is not None and ends is not None and ends[0] != ends[1]
        self.take.setEnabled(possible)
        if not self.takers:
            self.offer.setText(
                "No part of this plan has ends that can be measured: servos, receivers, knobs have."
            )
        elif taken is not None and ends is not None and possible:
            before = " to ".join(taken.shown(x) for x in taken.now) if taken.now else "not measured yet"
            self.offer.setText(f"{take_over(taken, *ends).title}. In the plan now: {before}.")
        elif ends is None:
            self.offer.setText("An end that is no number cannot be taken over.")
        else:
            self.offer.setText("Both ends are the same: move it to both of its stops.")

    def take_over(self) -> None:
        """The plan follows what was measured."""
        taken, ends = self.takers.get(str(self.part.currentData())), self._ends()
        if taken is not None and ends is not None:
            self.session.make(take_over(taken, *ends))

    def set_palette(self, palette: Palette) -> None:
        super().set_palette(palette)
        old = self.plot
        self.plot = plot(palette, "The chosen column, line after line", "", "line of the log")
        self.right.replaceWidget(old, self.plot)
        old.deleteLater()
        self._chosen()

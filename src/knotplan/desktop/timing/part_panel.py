"""What the chosen lane's part does: what the program asks of it, what follows, and tables to copy."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFormLayout, QHeaderView, QTableWidget, QVBoxLayout, QWidget

from knotplan.catalog.part.needs import Pulse
from knotplan.core.drawing.palette import Palette
from knotplan.core.plan import edits
from knotplan.core.text.timing import Table, describe
from knotplan.core.timing.lanes import Lane
from knotplan.core.timing.program_settings import ProgramSetting, program_settings
from knotplan.desktop import lettering
from knotplan.desktop.lists.equip import Cell, equip
from knotplan.desktop.panels.fields import QuantityField, TextField, button, choice, form, label, line, row
from knotplan.desktop.session import Session
from knotplan.desktop.timing.steps_preview import StepsPreview
from knotplan.desktop.tips import tip_text

MOST_ROWS = 9
ENDS = ("one_end", "other_end", "degrees")


class PartTiming(QWidget):
    """Made anew for each lane and each plan."""

    def __init__(self, session: Session, palette: Palette, lane: Lane):
        super().__init__()
        self.session, self.p, self.lane = session, palette, lane
        c = session.circuit
        down = QVBoxLayout(self)
        down.setContentsMargins(0, 0, 0, 0)
        down.setSpacing(7)
        down.addWidget(label(c.titles.part(lane.part), "head"))
        down.addWidget(
            label(f"{c.parts[lane.part].summary}" + (f"; {lane.where}" if lane.where else ""), "faint")
        )
        self._fields(down)
        description = describe(session.report, lane.part)
        for text, tone in description.lines:
            down.addWidget(label(text, tone))
        for k, table in enumerate(description.tables):
            down.addWidget(line())
            down.addWidget(label(table.title, "strong"))
            if table.shades:
                down.addWidget(StepsPreview(self.p, table.shades))
            down.addWidget(_table(table, f"table{k}", session.noticed.emit))
            down.addWidget(
                row(
                    button(
                        "Copy",
                        f"copy{k}",
                        "The table as text, its cells parted by tabs",
                        partial(self._copy, table),
                        "quiet",
                    )
                )
            )
        down.addWidget(
            row(
                button(
                    "Show in the loom", "showInLoom", "The part on the bench, with its inspector", self._show
                )
            )
        )

    def _fields(self, down: QVBoxLayout) -> None:
        fields = form()
        lead = self.lane.lead
        if self.lane.kind in ("servo", "pulses") and isinstance(
            need := self.session.circuit.needs.of(lead), Pulse
        ):
            tip = "The frequency that the program wants; empty it for the part's own"
            fields.addRow(
                "Frequency",
                QuantityField("hertz", tip, need.frequency_hz, "Hz", partial(self._hertz, lead), 0.0, 1e8),
            )
        for setting in program_settings(self.session.circuit, self.lane.part):
            fields.addRow(setting.title, self._field(setting))
        self._calibration(fields)
        if fields.rowCount():
            down.addLayout(fields)

    def _calibration(self, fields: QFormLayout) -> None:
        """A servo's true ends, as measured on the bench."""
        c = self.session.circuit
        specs = c.parts[self.lane.part].params if c.parts[self.lane.part].facts.servo else {}
        for name in ENDS:
            if name in specs:
                value = c.placed[self.lane.part].params.get(name, specs[name].default)
                spec = specs[name]
                field = QuantityField(
                    name,
                    "As measured on the bench",
                    float(value),
                    spec.unit,
                    partial(self._param, name),
                    spec.least,
                    spec.most,
                )
                field.setAccessibleName(spec.title)
                fields.addRow(spec.title, field)

    def _param(self, name: str, value: float) -> None:
        self.session.edit(
            f"calibrate {self.session.circuit.titles.part(self.lane.part)}",
            edits.set_param,
            self.lane.part,
            name,
            value,
        )

    def _field(self, setting: ProgramSetting) -> QWidget:
        name = f"setting-{setting.key}"
        if setting.choices:
            widget: QWidget = choice(
                name, setting.tip, setting.choices, str(setting.value), partial(self._set, setting)
            )
        elif isinstance(setting.value, str):
            widget = TextField(name, setting.tip, setting.value, partial(self._set, setting))
        else:
            widget = QuantityField(
                name,
                setting.tip,
                setting.value,
                setting.unit,
                partial(self._set, setting),
                setting.least,
                setting.most,
            )
        widget.setAccessibleName(setting.title)
        return widget

    def _set(self, setting: ProgramSetting, value: str | float) -> None:
        part = setting.part or self.lane.part
        self.session.edit(
            f"change what {self.session.circuit.titles.part(part)} does",
            edits.set_program_setting,
            part,
            setting.key,
            None if value == "" else value,
        )

    def _hertz(self, lead: str, hz: float) -> None:
        tie = self.session.circuit.ties.of(lead)
        if tie is not None:
            wish = self.session.circuit.needs.wish(lead, hz)
            self.session.edit("change the frequency", edits.set_hertz, tie.id, wish)

    def _copy(self, table: Table) -> None:
        QGuiApplication.clipboard().setText("\n".join("\t".join(r) for r in (table.heads, *table.rows)))
        self.session.noticed.emit(f"Copied {len(table.rows)} rows.")

    def _show(self) -> None:
        self.session.select("part", self.lane.part)
        self.session.shown_wanted.emit()


def _table(table: Table, name: str, tell: Callable[[str], object]) -> QTableWidget:
    """As high as its rows, up to some."""
    widget = QTableWidget(len(table.rows), len(table.heads))
    widget.setObjectName(name)
    widget.setAccessibleName(table.title)
    widget.setHorizontalHeaderLabels(list(table.heads))
    widget.verticalHeader().hide()
    widget.verticalHeader().setDefaultSectionSize(lettering.px(22))
    widget.setShowGrid(False)
    widget.setWordWrap(False)
    widget.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
    widget.setTabKeyNavigation(False)
    for r, cells in enumerate(table.rows):
        for k, text in enumerate(cells):
            item = Cell(text)
            item.setToolTip(tip_text(text))
            widget.setItem(r, k, item)
    widget.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    widget.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    equip(widget, tell)
    lettering.fix(widget, height=34 + 22 * min(len(table.rows), MOST_ROWS))
    return widget

"""Describing a part: its leads in a grid, what it draws, or the file itself
as text; saved among the maker's own."""

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QLineEdit,
    QPlainTextEdit,
    QTableWidgetItem,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from knotplan.catalog.load import Catalog
from knotplan.catalog.part.part import Category
from knotplan.core.draft.part import AS_WRITTEN, PRESETS, LeadDraft, PartDraft, compiled, from_tree
from knotplan.core.drawing.palette import CORDS
from knotplan.core.plan.ids import slug
from knotplan.core.quantity.written import QuantityError, parse
from knotplan.desktop.cells import CellsTable, give_column
from knotplan.desktop.panels.fields import Picked, button, form, label, row
from knotplan.desktop.tips import tip_text
from knotplan.exchange.files import write_atomically
from knotplan.exchange.part_file import SUFFIX, PartFileError, dumps, loads

HEADS = ("Lead", "What it needs", "from", "to", "Cord", "Has to be tied")
CATEGORIES = Category.__args__  # type: ignore[attr-defined]
WIDTHS = {0: 140, 1: 190}
"""of columns, pixels at usual letters"""


class PartForm(QDialog):
    """One part of the maker's own; `part` is its id once it is saved."""

    edited = Signal()
    """something was said or taken back"""

    def __init__(
        self,
        catalog: Catalog,
        draft: PartDraft,
        parent: QWidget | None = None,
        text: str = "",
        part: str = "",
    ):
        super().__init__(parent)
        self.catalog, self.draft, self.part, self._old = catalog, draft, part, text
        self.setWindowTitle("Describe a part")
        self.resize(920, 640)
        down = QVBoxLayout(self)
        self.tabs = QTabWidget()
        self.tabs.addTab(self._fields_page(), "Form")
        self.tabs.addTab(self._text_page(), "As text")
        self.tabs.currentChanged.connect(self._turned)
        down.addWidget(self.tabs, 1)
        self.wrong = label("", "care")
        self.wrong.setObjectName("wrong")
        down.addWidget(self.wrong)
        box = QDialogButtonBox()
        self.save_button = box.addButton("Save among my parts", QDialogButtonBox.ButtonRole.AcceptRole)
        box.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        box.accepted.connect(self.save)
        box.rejected.connect(self.reject)
        down.addWidget(box)
        self._filling = False
        self._unread: list[str] = []
        """numbers in the form that are none"""
        self._fill()
        self._check()

    # --- the form -------------------------------------------------------------------------------

    def _fields_page(self) -> QWidget:
        page = QWidget()
        down = QVBoxLayout(page)
        fields = form()
        self.title = self._line("title", "Its name on the bench at first, e.g. Rain gauge", fields, "Name")
        self.summary = self._line(
            "summary", "What it is, e.g. tipping rain gauge with a reed contact", fields, "What it is"
        )
        self.words = self._line(
            "words", "What people call it, with commas between, for the search", fields, "Also called"
        )
        self.category = QComboBox()
        self.category.setObjectName("category")
        self.category.addItems(CATEGORIES)
        self.category.activated.connect(lambda _: self._read())
        fields.addRow("Kind", self.category)
        self.usual = self._line("usual", "What it draws usually, e.g. 20m", fields, "Draws usually (A)")
        self.worst = self._line("worst", "What it draws at worst, e.g. 150m", fields, "Draws at worst (A)")
        down.addLayout(fields)
        self.grid = CellsTable(0, len(HEADS))
        self.grid.setHorizontalHeaderLabels(HEADS)
        self.grid.setAccessibleName("Leads as they are printed on the part")
        self.grid.verticalHeader().hide()
        self.grid.itemChanged.connect(lambda _: self._read())
        down.addWidget(self.grid, 1)
        away = button(
            "Remove the lead", "removeLead", "Take the row away in which the keyboard is", self._remove
        )
        down.addWidget(row(button("Add a lead", "addLead", "One more row", self._add), away))
        return page

    def _line(self, name: str, tip: str, fields: object, title: str) -> QLineEdit:
        field = QLineEdit()
        field.setObjectName(name)
        field.setToolTip(tip_text(tip))
        field.setPlaceholderText(tip)
        field.setAccessibleName(title)
        field.textEdited.connect(lambda _: self._read())
        fields.addRow(title, field)  # type: ignore[attr-defined]
        return field

    def _text_page(self) -> QWidget:
        self.text = QPlainTextEdit()
        self.text.setObjectName("partText")
        self.text.setAccessibleName("The part's file")
        self.text.setFont(QFont("monospace"))
        self.text.textChanged.connect(self._check)
        return self.text

    # --- filling and reading ---------------------------------------------------------------------

    def _fill(self) -> None:
        self._filling, self._unread = True, []
        d = self.draft
        self.title.setText(d.title)
        self.summary.setText(d.summary)
        self.words.setText(d.words)
        self.category.setCurrentText(d.category)
        self.usual.setText(f"{d.usual_a:g}" if d.usual_a else "")
        self.worst.setText(f"{d.worst_a:g}" if d.worst_a else "")
        self.grid.setRowCount(len(d.leads))
        for k, lead in enumerate(d.leads):
            self._fill_row(k, lead)
        for column in range(len(HEADS)):
            give_column(self.grid, column, WIDTHS.get(column, 100))
        self._filling = False

    def _fill_row(self, k: int, lead: LeadDraft) -> None:
        self.grid.setItem(k, 0, QTableWidgetItem(lead.title))
        titles = {key: preset.title for key, preset in PRESETS.items()}
        if lead.need == AS_WRITTEN:
            titles[AS_WRITTEN] = "as the text says"
        self.grid.setCellWidget(k, 1, self._chooser(titles, lead.need, "What the lead needs"))
        preset = PRESETS.get(lead.need)
        first, second = (preset.low, preset.high) if preset else (None, None)
        units = preset.units if preset else ("", "")
        for column, value, field, unit in ((2, lead.low, first, units[0]), (3, lead.high, second, units[1])):
            item = QTableWidgetItem(f"{value:g} {unit}" if field else "")
            item.setToolTip(
                tip_text(f"{field[0].replace('_', ' ')}" if field else "no number is needed here")
            )
            if not field:
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.grid.setItem(k, column, item)
        self.grid.setCellWidget(
            k, 4, self._chooser({c: c for c in CORDS}, lead.cord, "Usual colour of its cord")
        )
        must = QCheckBox()
        must.setChecked(lead.required)
        must.setAccessibleName("Has to be tied")
        must.toggled.connect(lambda _: self._read())
        self.grid.setCellWidget(k, 5, must)

    def _chooser(self, titles: dict[str, str], now: str, name: str) -> QComboBox:
        combo = Picked()
        for key, title in titles.items():
            combo.addItem(title, key)
        combo.setCurrentIndex(combo.findData(now))
        combo.setAccessibleName(name)
        combo.activated.connect(lambda _: self._chosen())
        return combo

    def _chosen(self) -> None:
        """Another need brings its own numbers."""
        self._read()
        leads = []
        for lead, before in zip(self.draft.leads, self._before, strict=True):
            preset = PRESETS.get(lead.need)
            fresh = preset is not None and lead.need != before.need
            low = preset.low[1] if fresh and preset and preset.low else lead.low
            high = preset.high[1] if fresh and preset and preset.high else lead.high
            leads.append(replace(lead, low=low, high=high))
        self.draft = replace(self.draft, leads=tuple(leads))
        self._fill()
        self._check()

    def _read(self) -> None:
        """The draft as the form has it now."""
        if self._filling:
            return
        d = self.draft
        self._before, self._unread = d.leads, []
        leads = tuple(self._read_row(k, lead) for k, lead in enumerate(d.leads))
        self.draft = replace(
            d,
            title=self.title.text(),
            summary=self.summary.text(),
            words=self.words.text(),
            leads=leads,
            category=self.category.currentText(),
            usual_a=self._amperes(self.usual, d.usual_a),
            worst_a=self._amperes(self.worst, d.worst_a),
        )
        self._check()

    def _read_row(self, k: int, lead: LeadDraft) -> LeadDraft:
        need, cord, must = (self.grid.cellWidget(k, column) for column in (1, 4, 5))
        cells = [item.text() if (item := self.grid.item(k, column)) else "" for column in (0, 2, 3)]
        assert isinstance(need, QComboBox) and isinstance(cord, QComboBox) and isinstance(must, QCheckBox)
        title, preset = cells[0].strip() or lead.title, PRESETS.get(lead.need)
        low, high = lead.low, lead.high
        if preset is not None and need.currentData() == lead.need:  # another need brings numbers of its own
            low = self._number(cells[1], low, preset.units[0], f"{title}, {HEADS[2]}") if preset.low else low
            high = (
                self._number(cells[2], high, preset.units[1], f"{title}, {HEADS[3]}") if preset.high else high
            )
        return replace(
            lead,
            title=title,
            need=need.currentData(),
            low=low,
            high=high,
            cord=cord.currentData(),
            required=must.isChecked(),
        )

    def _amperes(self, field: QLineEdit, otherwise: float) -> float:
        text = field.text()
        return self._number(text, otherwise, "A", field.accessibleName()) if text.strip() else 0.0

    def _number(self, text: str, otherwise: float, unit: str, where: str) -> float:
        """What was typed; where that is no number, what was there before, until it is one."""
        try:
            return parse(text, unit)
        except QuantityError as error:
            self._unread.append(f"{where}: {error}")
            return otherwise

    def _add(self) -> None:
        self.draft = replace(
            self.draft, leads=(*self.draft.leads, LeadDraft(f"LEAD {len(self.draft.leads) + 1}"))
        )
        self._fill()
        self.grid.setCurrentCell(len(self.draft.leads) - 1, 0)
        self._check()

    def _remove(self) -> None:
        k = self.grid.currentRow()
        if 0 <= k < len(self.draft.leads):
            self.draft = replace(self.draft, leads=self.draft.leads[:k] + self.draft.leads[k + 1 :])
            self._fill()
            self._check()

    def _turned(self, page: int) -> None:
        """From the form to the text and back: each takes up what the other said."""
        if page == 1:
            self.text.setPlainText(dumps(compiled(self.draft), self._old))
            return
        try:
            kind = loads(self.text.toPlainText(), self._id())
        except PartFileError:
            self.tabs.setCurrentIndex(1)  # the form cannot show what cannot be read
            return
        self._old = self.text.toPlainText()
        self.draft = from_tree({k: v for k, v in kind.tree.items() if k != "id"})
        self._fill()

    # --- saving -----------------------------------------------------------------------------------

    def now(self) -> str:
        """The file's text as it would be saved."""
        return (
            self.text.toPlainText()
            if self.tabs.currentIndex() == 1
            else dumps(compiled(self.draft), self._old)
        )

    def _id(self) -> str:
        return self.part or slug(self.draft.title, set(self.catalog.part_ids()))

    def _check(self) -> None:
        text = "\n".join(self._unread[:4]) if self.tabs.currentIndex() == 0 else ""
        try:
            loads(self.now(), self._id())
        except PartFileError as error:
            text = text or "\n".join(f"{place}: {why}" if place else why for place, why in error.errors[:4])
        self.wrong.setText(text)
        self.wrong.setVisible(bool(text))
        self.save_button.setEnabled(not text)
        self.edited.emit()

    def take_up(self, text: str) -> None:
        """Goes on at a text that was left behind: in the form, where it can be read."""
        self.tabs.blockSignals(True)
        self.tabs.setCurrentIndex(1)
        self.tabs.blockSignals(False)
        self.text.setPlainText(text)
        self.tabs.setCurrentIndex(0)

    def save(self, then: Callable[[], object] | None = None) -> None:
        """Writes the file among the maker's own."""
        if self.catalog.own is None:
            return
        self.part = self._id()
        path = self.catalog.own / "parts" / f"{self.part}{SUFFIX}"
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(path, self.now().encode("utf-8"))
        except OSError as error:
            self.wrong.setText(f"{path} was not written: {error.strerror}")
            self.wrong.show()
            return
        self.catalog.forget_part(self.part)
        self.accept()

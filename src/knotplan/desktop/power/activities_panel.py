"""Activities: a list of what happens, and the fields of the chosen one."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QScrollArea,
    QToolButton,
    QWidget,
)

from knotplan.core.drawing.palette import CORDS
from knotplan.core.plan import edits
from knotplan.core.plan.document import MOST_S, Activity
from knotplan.core.power.activities import ALWAYS
from knotplan.core.quantity.written import counted, show
from knotplan.desktop import lettering
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import (
    QuantityField,
    TextField,
    button,
    column,
    column_in,
    form,
    label,
    put_in,
    row,
)
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text

LAYERS = ("blue", "orange", "green", "pink", "turquoise", "violet", "yellow", "brown", "red")
"""cords' colours, in the order in which activities take them"""


LIST_W, FIELDS_W = 208, 262


def layer_colour(session: Session, title: str) -> str:
    """The colour of an activity in list and plot; what is always on is grey."""
    titles = [a.title for a in session.plan.activities]
    return CORDS["grey"] if title == ALWAYS else CORDS[LAYERS[titles.index(title) % len(LAYERS)]]


class ActivitiesPanel(QWidget):
    """Beside the plot."""

    def __init__(self, session: Session):
        super().__init__()
        self.session = session
        self.setAccessibleName("Activities")
        self.list = QListWidget()
        self.list.setObjectName("activities")
        self.list.setAccessibleName("Activities")
        self.list.setIconSize(QSize(lettering.px(12), lettering.px(12)))
        equip(self.list, session.noticed.emit)
        self.list.currentRowChanged.connect(lambda _: self._fields())
        add = button(
            "Add activity",
            "addActivity",
            "Something that happens: which loads, when, and what it excludes",
            self.add,
        )
        self._cycle = QWidget()
        self._cycle_column = column_in(self._cycle)
        left = column(label("Activities", "strong"), self.list, row(add), self._cycle, spacing=6)
        self._left = left
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QScrollArea.Shape.NoFrame)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(14)
        across.addWidget(left)
        across.addWidget(self.area)
        self.fill()

    @property
    def chosen(self) -> Activity | None:
        item = self.list.currentItem()
        data = item.data(Qt.ItemDataRole.UserRole) if item else ""
        return next((a for a in self.session.plan.activities if a.id == data), None)

    def suit(self, view: int) -> None:
        """As wide as a view of a width has room for: the plot beside it keeps a third."""
        self._left.setFixedWidth(lettering.beside(LIST_W, view, 1 / 4))
        self.area.setFixedWidth(lettering.beside(FIELDS_W, view))

    def fill(self) -> None:
        """Anew from the plan; the chosen one stays."""
        here = self.chosen.id if self.chosen else ""
        self.list.blockSignals(True)
        self.list.clear()
        for a in self.session.plan.activities:
            item = QListWidgetItem(_swatch(layer_colour(self.session, a.title)), a.title)
            item.setData(Qt.ItemDataRole.UserRole, a.id)
            item.setToolTip(tip_text(when(a, self.session.plan.cycle_s)))
            item.setSizeHint(QSize(0, lettering.px(27)))
            self.list.addItem(item)
        ids = [a.id for a in self.session.plan.activities]
        usual = 0 if ids else -1
        self.list.setCurrentRow(ids.index(here) if here in ids else usual)
        self.list.blockSignals(False)
        old = self._cycle_column.takeAt(0)
        if old is not None and (gone := old.widget()) is not None:
            gone.hide()
            gone.deleteLater()
        fields = QWidget()
        lay = form()
        cycle = self.session.plan.cycle_s
        lay.addRow(
            "Cycle", self._number("cycle", "After how long everything begins anew", cycle, self._set_cycle)
        )
        fields.setLayout(lay)
        self._cycle_column.addWidget(fields)
        self._fields()

    def _number(self, name: str, tip: str, value: float, done: Callable[[float], object]) -> QuantityField:
        field = QuantityField(name, tip, value, "s", done, 0.0, MOST_S)
        field.line.setAccessibleName(tip)
        return field

    def _fields(self) -> None:
        """The chosen activity's."""
        made, a = QWidget(), self.chosen
        layout = column_in(made, 6)
        layout.setContentsMargins(0, 0, 8, 0)
        if a is None:
            layout.addWidget(label("What happens on this bench?", "strong"))
            layout.addWidget(
                label(
                    "A lamp burns, a lens turns, a horn sounds. Loads of an activity draw current only while "
                    "it goes on; what excludes one another does not add up, and a battery lasts accordingly.",
                    "faint",
                )
            )
            layout.addStretch(1)
            put_in(self.area, made)
            return
        fields = form()
        fields.addRow(
            "Name", TextField("activityName", "What happens", a.title, partial(self._change, "title"))
        )
        fields.addRow("Loads", self._loads(a))
        for title, name, tip, seconds in (
            ("Starts", "starts_s", "When it starts in the cycle", a.starts_s),
            ("Lasts", "lasts_s", "How long it goes on", a.lasts_s),
            ("Every", "every_s", "How often it comes again; 0 for once a cycle", a.every_s),
        ):
            fields.addRow(title, self._number(name, tip, seconds, partial(self._change, name)))
        fields.addRow("Excludes", self._excludes(a))
        layout.addLayout(fields)
        layout.addWidget(
            row(button("Remove", "removeActivity", "Take this activity out of the plan", self._remove))
        )
        layout.addStretch(1)
        put_in(self.area, made)

    # --- menus of ticks -------------------------------------------------------------------------

    def _ticks(
        self, name: str, tip: str, text: str, options: list[tuple[str, str]], on: tuple[str, ...], field: str
    ) -> QToolButton:
        ticks = QToolButton()
        ticks.setObjectName(name)
        ticks.setText(f"{text}  ▾")
        ticks.setAccessibleName(f"{tip}: {text}")
        ticks.setToolTip(tip_text(tip))
        ticks.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        ticks.setProperty("kind", "quiet")
        menu = QMenu(ticks)
        for value, option in options:
            action = menu.addAction(option)
            action.setCheckable(True)
            action.setChecked(value in on)
            action.triggered.connect(lambda now, v=value: self._tick(field, v, now))
        if not options:
            menu.addAction("there is none").setEnabled(False)
        ticks.setMenu(menu)
        return ticks

    def _loads(self, a: Activity) -> QToolButton:
        c = self.session.circuit
        drawing = {p for root in self.session.report.power for n in root.walk() for p in n.loads} | set(
            a.parts
        )
        options = [(p, placed.name) for p, placed in c.placed.items() if p in drawing]
        text = ", ".join(c.placed[p].name for p in a.parts if p in c.placed) or "choose …"
        text = text if len(text) < 24 else counted(len(a.parts), "load")
        return self._ticks("activityLoads", "Loads that draw current for it", text, options, a.parts, "parts")

    def _excludes(self, a: Activity) -> QToolButton:
        others = [(o.id, o.title) for o in self.session.plan.activities if o.id != a.id]
        text = ", ".join(t for i, t in others if i in a.excludes) or "nothing"
        text = text if len(text) < 24 else counted(len(a.excludes), "activity")
        tip = "Activities that never go on at the same time"
        return self._ticks("activityExcludes", tip, text, others, a.excludes, "excludes")

    def _tick(self, field: str, value: str, on: bool) -> None:
        a = self.chosen
        if a is not None:
            kept = tuple(v for v in getattr(a, field) if v != value)
            self._change(field, (*kept, value) if on else kept)

    # --- edits ----------------------------------------------------------------------------------

    def add(self) -> None:
        before = {a.id for a in self.session.plan.activities}
        part = self.session.selection.id if self.session.selection.kind == "part" else ""
        parts = (part,) if part else ()
        self.session.edit("add an activity", edits.add_activity, "Activity", parts)
        ids = [a.id for a in self.session.plan.activities]
        self.fill()
        self.list.setCurrentRow(next((k for k, i in enumerate(ids) if i not in before), -1))

    def _change(self, field: str, value: object) -> None:
        if self.chosen is not None:
            self.session.edit(
                f"change {self.chosen.title}", edits.change_activity, self.chosen.id, **{field: value}
            )

    def _remove(self) -> None:
        if self.chosen is not None:
            self.session.edit(f"remove {self.chosen.title}", edits.remove_activity, self.chosen.id)

    def _set_cycle(self, seconds: float) -> None:
        self.session.edit("length of the cycle", edits.set_cycle, seconds)


def when(a: Activity, cycle_s: float) -> str:
    """When an activity goes on, in words."""
    again = f", again every {show(a.every_s, 's')}" if a.every_s else f", once in {show(cycle_s, 's')}"
    return f"at {show(a.starts_s, 's')} for {show(a.lasts_s, 's')}{again}"


def _swatch(colour: str) -> QIcon:
    picture = QPixmap(12, 12)
    picture.fill(Qt.GlobalColor.transparent)
    with QPainter(picture) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(QColor(colour))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawRoundedRect(0, 0, 12, 12, 3, 3)
    return QIcon(picture)

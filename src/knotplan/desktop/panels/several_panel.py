"""Several parts: what they have in common, changed for all of them at once."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QWidget

from knotplan.catalog.part.parameter import Parameter
from knotplan.core.drawing.palette import Palette
from knotplan.core.plan import edits
from knotplan.core.plan.document import Plan
from knotplan.core.plan.kinds import kind_in
from knotplan.core.quantity.written import counted
from knotplan.desktop.panels.fields import QuantityField, button, choice, column_in, form, label, row
from knotplan.desktop.panels.part_panel import SHOWS, SIDES
from knotplan.desktop.session import Session

MOST_NAMES = 12
VARIOUS = "\0various"
"""stands for values that differ among the parts"""


class SeveralPanel(QWidget):
    """Shown while more than one part is selected."""

    @staticmethod
    def shows(session: Session, _: str) -> tuple[object, ...]:
        """All that is shown here; the panel is remade when it changes."""
        return tuple(session.circuit.placed[p] for p in session.selection.parts)

    def __init__(self, session: Session, palette: Palette, _: str):
        super().__init__()
        self.session = session
        self.parts = session.selection.parts
        c = session.circuit
        layout = column_in(self, 8)
        layout.addWidget(label(counted(len(self.parts), "part"), "head"))
        names = [c.placed[p].name for p in self.parts]
        more = f" and {len(names) - MOST_NAMES} more" if len(names) > MOST_NAMES else ""
        layout.addWidget(label(", ".join(names[:MOST_NAMES]) + more, "faint"))
        fields = form()
        for name, param in self._common().items():
            fields.addRow(param.title, self._field(name, param))
        fields.addRow("Card", self._choice("shows", "How much of their cards is seen", SHOWS, self._shows))
        fields.addRow("Lies", self._choice("side", "Which side of the board they lie on", SIDES, self._side))
        layout.addLayout(fields)
        layout.addWidget(
            row(button("Remove", "remove", "Take these parts and their ties away (Del)", self._remove))
        )
        layout.addStretch(1)

    def _common(self) -> dict[str, Parameter]:
        """The parameters that all of them have, in the same sense."""
        plan, catalog = self.session.plan, self.session.catalog
        kinds = [kind_in(plan, catalog, plan.part(p).part) for p in self.parts]
        return {
            name: param
            for name, param in kinds[0].params.items()
            if all(kind.params.get(name) == param for kind in kinds)
        }

    def _values(self, name: str) -> list[str | float]:
        plan, catalog = self.session.plan, self.session.catalog
        placed = [plan.part(p) for p in self.parts]
        return [kind_in(plan, catalog, p.part).values(p.params)[name] for p in placed]

    def _field(self, name: str, param: Parameter) -> QWidget:
        values = self._values(name)
        various = len(set(values)) > 1
        if param.choices:
            options = [(VARIOUS, "various")] * various + [(o, o) for o in param.choices]
            now = VARIOUS if various else str(values[0])
            return choice(name, f"{param.title} of all of them", options, now, partial(self._set, name))
        field = QuantityField(
            name,
            f"{param.title} of all of them",
            float(values[0]),
            param.unit,
            partial(self._set, name),
            param.least,
            param.most,
        )
        if various:
            field.line.clear()
            field.line.setPlaceholderText("various")
        return field

    def _choice(self, name: str, tip: str, options: tuple[tuple[str, str], ...], chosen: object) -> QWidget:
        values = {getattr(self.session.plan.part(p), name) for p in self.parts}
        various = [(VARIOUS, "various")] * (len(values) > 1)
        now = VARIOUS if various else str(next(iter(values)))
        return choice(name, tip, [*various, *options], now, chosen)  # type: ignore[arg-type]

    def _set(self, name: str, value: str | float) -> None:
        self._edit(f"change {name} of", edits.set_param, name, value)

    def _shows(self, shows: str) -> None:
        self._edit("show more or less of", edits.show_leads, shows)

    def _side(self, side: str) -> None:
        self._edit("move", edits.nudge, side)

    def _remove(self) -> None:
        self._edit("remove", edits.remove_part)

    def _edit(self, done: str, edit: Callable[..., Plan], *arguments: str | float) -> None:
        """Something done to all of them as one step; that they differ is no value to set."""
        if VARIOUS not in arguments:
            title = f"{done} {len(self.parts)} parts"
            self.session.edit(title, edits.of_all, self.parts, edit, *arguments)

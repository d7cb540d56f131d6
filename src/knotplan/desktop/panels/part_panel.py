"""A part: its name, what can be chosen about it, and where its leads go."""

from functools import partial

from PySide6.QtWidgets import QWidget

from knotplan.core.circuit.leds import leds_of
from knotplan.core.drawing.palette import Palette
from knotplan.core.plan import edits
from knotplan.core.plan.document import Tie
from knotplan.core.plan.kinds import kind_in
from knotplan.core.text.timing import sensor_text
from knotplan.desktop.panels.fields import (
    QuantityField,
    TextField,
    button,
    choice,
    column_in,
    form,
    label,
    line,
    row,
)
from knotplan.desktop.panels.led_box import LedBox
from knotplan.desktop.session import Session

SHOWS = (("", "leads that are needed"), ("all", "all leads"), ("folded", "folded with what hangs on it"))
SIDES = (("", "by itself"), ("left", "left of it, or above"), ("right", "right of it, or below"))


class PartPanel(QWidget):
    """Shown while a part is selected."""

    @staticmethod
    def shows(session: Session, part_id: str) -> tuple[object, ...]:
        """All that is shown here; the panel is remade when it changes."""
        c = session.circuit
        ends = [f"{part_id}.{name}" for name in c.parts[part_id].leads]
        ties = tuple(
            (t, c.titles.full(t.to), c.titles.full(t.lead)) for lead in ends for t in c.ties.at.get(lead, ())
        )
        return c.placed[part_id], ties, c.plan.series, session.report.checked, c.board.id, c.scheme

    def __init__(self, session: Session, palette: Palette, part_id: str):
        super().__init__()
        self.session, self.part_id = session, part_id
        c = session.circuit
        placed, part = c.placed[part_id], c.parts[part_id]
        kind = kind_in(session.plan, session.catalog, placed.part)
        layout = column_in(self, 8)
        layout.addWidget(label(placed.name, "head"))
        layout.addWidget(
            label(part.summary + (f". {part.note[0].upper()}{part.note[1:]}." if part.note else ""), "faint")
        )
        if part.facts.sensor is not None:
            layout.addWidget(label(sensor_text(part.facts.sensor), "faint"))
        fields = form()
        fields.addRow("Name", TextField("name", "What you call this part (F2)", placed.name, self._rename))
        for name, param in kind.params.items():
            if param.sets == "wished current":
                continue  # stands with the resistor
            value = kind.values(placed.params)[name]
            if param.choices:
                options = [(o, o) for o in param.choices]
                fields.addRow(
                    param.title, choice(name, param.title, options, str(value), partial(self._param, name))
                )
            else:
                fields.addRow(
                    param.title,
                    QuantityField(
                        name,
                        param.title,
                        float(value),
                        param.unit,
                        partial(self._param, name),
                        param.least,
                        param.most,
                    ),
                )
        fields.addRow(
            "Card", choice("shows", "How much of its card is seen (Space)", SHOWS, placed.shows, self._shows)
        )
        fields.addRow(
            "Lies", choice("side", "Which side of the board it lies on", SIDES, placed.side, self._side)
        )
        layout.addLayout(fields)
        several = leds_of(c, part_id)
        if several and session.report.checked:
            layout.addWidget(line())
            layout.addWidget(
                LedBox(session, part_id)
                if len(several) == 1
                else label(
                    "Each LED of this part wants a resistor of its own: select one of its leads.", "faint"
                )
            )
        layout.addWidget(line())
        for name in part.leads:
            layout.addWidget(self._lead(f"{part_id}.{name}"))
        layout.addWidget(
            row(button("Remove", "remove", "Take this part and its ties away (Del)", self._remove))
        )
        layout.addStretch(1)

    def _lead(self, lead: str) -> QWidget:
        c = self.session.circuit
        spec, ties = c.contacts.lead(lead), c.ties.at.get(lead, [])
        assert spec is not None
        where = ", ".join(c.titles.full(c.ties.other_end(t, lead)) for t in ties) or (
            "to be tied" if spec.required else "free"
        )
        go = button(
            spec.title, f"lead-{lead}", "Select this lead", lambda: self.session.select("lead", lead), "quiet"
        )
        role = next((f" “{t.role}”" for t in ties if isinstance(t, Tie) and t.role), "")
        return row(go, label(where + role, "" if ties else "faint"), stretch=1)

    def _rename(self, name: str) -> None:
        self.session.edit("rename", edits.rename_part, self.part_id, name)

    def _param(self, name: str, value: str | float) -> None:
        self.session.edit(f"change {name}", edits.set_param, self.part_id, name, value)

    def _shows(self, shows: str) -> None:
        self.session.edit("show the card otherwise", edits.show_leads, self.part_id, shows)

    def _side(self, side: str) -> None:
        self.session.edit("move the part", edits.nudge, self.part_id, side)

    def _remove(self) -> None:
        self.session.edit(
            f"remove {self.session.circuit.titles.part(self.part_id)}", edits.remove_part, self.part_id
        )

"""A bead in the inspector: its value, the rail that it leads to, and the way out."""

from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QVBoxLayout, QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import (
    Bead,
    Capacitor,
    Clamp,
    Diode,
    Fuse,
    LevelShifter,
    PullDown,
    PullUp,
    SeriesResistor,
    Zener,
    bead_name,
    rails_of,
)
from knotplan.core.plan.document import Tie, split
from knotplan.core.text.beads import bead_words
from knotplan.desktop.panels.fields import QuantityField, button, choice, label, row
from knotplan.desktop.session import Session

NEW_BEADS: dict[str, Bead] = {
    bead_name(bead): bead
    for bead in (
        SeriesResistor(330.0),
        PullUp(10e3),
        PullDown(10e3),
        Capacitor(100e-9),
        LevelShifter(),
        Diode(),
        Clamp(),
        Fuse(),
        Zener(),
    )
}
"""by the trade's name, as it is added first"""
VALUES: dict[type, tuple[str, str, str, float, float]] = {
    SeriesResistor: ("ohm", "Ω", "330, 4.7k or 4K7", 1e-3, 1e9),
    PullUp: ("ohm", "Ω", "10k or 4K7", 1e-3, 1e9),
    PullDown: ("ohm", "Ω", "10k or 4K7", 1e-3, 1e9),
    Capacitor: ("farad", "F", "100n or 470u", 1e-13, 1.0),
    Fuse: ("amps", "A", "1 or 500m", 1e-3, 100.0),
    Zener: ("volts", "V", "3.3 or 5V1", 1.0, 200.0),
}
"""(field, unit, what may be typed, least, most)"""
CHOICES: dict[type, tuple[str, tuple[tuple[str, str], ...]]] = {
    Diode: ("towards", (("lead", "current to the lead"), ("pin", "current from the lead"))),
    LevelShifter: ("style", (("mosfet", "MOSFET, both ways"), ("buffer", "buffer, one way"))),
}
RAIL_TITLES = {"rail": "to", "lead_rail": "lead's side", "pin_rail": "pin's side"}


class BeadRow(QWidget):
    """One bead of a tie."""

    def __init__(self, session: Session, tie: Tie, at: int, bead: Bead):
        super().__init__()
        self.session, self.tie, self.at, self.bead = session, tie, at, bead
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        name = bead_name(bead).capitalize()
        away = button("✕", f"drop-{at}", f"Take the {bead_words(bead)} out", self._drop, "quiet")
        value = self._value(name)
        layout.addWidget(row(label(name, "faint", wrap=False), *([value] if value else []), away, stretch=1))
        for field, contact in rails_of(bead):
            options = rail_options(session.circuit, contact)
            chooser = choice(
                f"bead-{at}-{field}",
                f"{name}: the rail {RAIL_TITLES[field]}",
                options,
                contact,
                partial(self._change, field),
            )
            layout.addWidget(row(label(RAIL_TITLES[field], "faint", wrap=False), chooser, stretch=1))

    def _value(self, name: str) -> QWidget | None:
        kind = type(self.bead)
        if kind in VALUES:
            field, unit, typed, least, most = VALUES[kind]
            value = QuantityField(
                f"bead-{self.at}",
                f"{name}: {typed}",
                getattr(self.bead, field),
                unit,
                partial(self._change, field),
                least,
                most,
            )
            value.line.setAccessibleName(f"{name} in the tie")
            return value
        if kind in CHOICES:
            field, options = CHOICES[kind]
            return choice(
                f"bead-{self.at}",
                f"{name}: which kind",
                options,
                getattr(self.bead, field),
                partial(self._change, field),
            )
        return None

    def _change(self, field: str, value: Any) -> None:
        changed = replace(self.bead, **{field: value})
        self.session.edit(
            f"change the {bead_words(self.bead)}", edits.change_bead, self.tie.id, self.at, changed
        )

    def _drop(self) -> None:
        self.session.edit("take a bead out", edits.remove_bead, self.tie.id, self.at)


def rail_options(c: Circuit, now: str) -> list[tuple[str, str]]:
    """(contact, title) of the rails that a bead can lead to: one contact for each supply."""
    options: dict[str, str] = {}
    for rail_id in c.supplies.live_rails:
        contact = c.contacts.supply_contact(rail_id)
        if contact:
            options[contact] = c.board.rails[rail_id].title
    for part_id, source in c.supplies.on_bench.items():
        if source.plus != source.minus:
            options[f"{part_id}.{source.plus}"] = c.placed[part_id].name
    if now and now not in options:
        options[now] = c.titles.full(now)
    return [("", "choose …"), *options.items()] if not now else list(options.items())


def new_bead(session: Session, tie: Tie, kind: str) -> Bead:
    """A bead to begin with: an LED's resistor is the one that the value finder
    chooses; rails are the likely ones."""
    from knotplan.core.check.rules.remedies import railed

    c = session.circuit
    part_id = split(tie.lead)[0]
    if kind == "resistor" and session.report.checked and part_id in c.parts:
        from knotplan.core.engine.led import choose

        chosen = choose(c, session.catalog, part_id)
        if chosen and chosen.bead_at is None:
            return SeriesResistor(chosen.best.ohm, chosen.tolerance)
    return railed(c, tie, NEW_BEADS[kind])

"""A lead and its tie: what it needs, who can meet that, and everything about the cord."""

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLineEdit, QWidget

from knotplan.catalog.part.needs import Input, Pulse
from knotplan.core.circuit.copper import SIZES, cord_of, size_words
from knotplan.core.circuit.cords import colour_of
from knotplan.core.circuit.leds import led_at
from knotplan.core.drawing.palette import CORDS, Palette
from knotplan.core.engine.decided import decided
from knotplan.core.engine.led import resistor_place
from knotplan.core.match.fit import Fit, candidates, fit, need_words
from knotplan.core.names.book import LABEL
from knotplan.core.plan import edits
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.quantity.written import show
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.bead_row import NEW_BEADS, BeadRow, new_bead
from knotplan.desktop.panels.fields import (
    QuantityField,
    TextField,
    button,
    choice,
    column,
    column_in,
    form,
    label,
    line,
    row,
    tick,
)
from knotplan.desktop.panels.fold import Fold
from knotplan.desktop.panels.led_box import LedBox
from knotplan.desktop.panels.offers import Offer, OfferList
from knotplan.desktop.panels.spread_box import spread_line
from knotplan.desktop.panels.value_box import ValueBox, asked_of
from knotplan.desktop.session import Session

MOST, MOST_TIED = 6, 3
"""candidates in sight at once, for a lead that has no tie and for one that has"""


MOST_STATES = 10
"""of a tie, told one by one"""


def _states(s: Session, tie: Tie) -> list[str]:
    """What the engine says of a tie's lead in each state: the voltage, and the
    current where the pin is its alone."""
    c, points = s.circuit, s.report.points
    pin = c.contacts.pin(tie.to)
    if pin is None or pin.kind != "io" or not s.report.checked:
        return []
    amps = points.pins.get(tie.to, []) if len(c.ties.holders.get(tie.to, ())) == 1 else []
    currents = {r.case: f", {show(abs(r.typ), 'A')}" for r in amps}
    sentences = [
        f"{r.case.words(c)}: {show(r.typ, 'V')} ({show(r.min, 'V')} – "
        f"{show(r.max, 'V')}){currents.get(r.case, '')}"
        for r in points.volts.get(c.nets.of(tie.lead), [])
        if r.case.pins or r.case.contacts
    ]
    more = [f"and {len(sentences) - MOST_STATES} more"] if len(sentences) > MOST_STATES else []
    return sentences[:MOST_STATES] + more


def _lines(texts: list[str]) -> QWidget:
    return column(*(label(text, "faint") for text in texts), spacing=3)


LAYS = (("", "loose"), ("ribbon", "in a ribbon"), ("twisted", "twisted"), ("shielded", "shielded"))


class LeadPanel(QWidget):
    """Shown while a lead or its tie is selected."""

    done = Signal()
    """a tie was made here; the keyboard may go back to the loom"""

    @staticmethod
    def shows(session: Session, lead: str) -> tuple[object, ...]:
        """All that is shown here; any other tie may change the candidates."""
        return session.plan, session.report.checked

    def __init__(self, session: Session, palette: Palette, lead: str):
        super().__init__()
        self.session, self.lead, self.palette_ = session, lead, palette
        c = session.circuit
        self.tie = c.ties.of(lead)
        layout = column_in(self, 8)
        layout.addWidget(label(c.titles.of(lead), "head"))
        text = f"tied to {c.titles.full(self.tie.to)}" if self.tie else "not tied"
        layout.addWidget(label(f"Needs {need_words(c, lead)}. Now {text}.", "faint"))
        pins, cord = self._pins(palette), self._cord()
        if session.selection.kind == "tie":  # who points at the cord means the cord
            parts = [cord, label("Elsewhere", "strong"), pins] if cord else [pins]
        else:
            parts = [pins, line(), cord] if cord else [pins]
        for part in parts:
            layout.addWidget(part)
        layout.addStretch(1)

    def _pins(self, palette: Palette) -> QWidget:
        """The field for a name, and the candidates."""
        self.field = QLineEdit()
        self.field.setObjectName("pinField")
        self.field.setAccessibleName("Pin for this lead, in any scheme")
        self.field.setPlaceholderText("type a pin by any of its names")
        self.field.setToolTip("Position, chip line, printed label, port or index; Enter ties (T)")
        self.field.textChanged.connect(self._filter)
        self.field.returnPressed.connect(self._enter)
        self.note = label("", "care")
        self.note.hide()
        self.offers = OfferList("offers", palette, MOST_TIED if self.tie else MOST)
        equip(self.offers, self.session.noticed.emit, self.field)
        self.offers.itemActivated.connect(lambda _: self._take())
        self.offers.itemClicked.connect(lambda _: self._take())
        pins = column(
            self.field, self.note, self.offers, spacing=8
        )  # before anything is shown: else it is a window
        now = self.tie.to if self.tie else ""
        self._ranked = [
            self._offer(f) for f in candidates(self.session.circuit, self.lead) if f.contact != now
        ]
        self.offers.fill(self._ranked)
        if not self._ranked:
            self._say("No free contact can do this.")
        return pins

    def _cord(self) -> QWidget | None:
        """Everything about the tie, with the value finder where an LED's resistor belongs."""
        if self.tie is None:
            return None
        box = TieBox(self.session, self.tie)
        s = self.session
        currents = decided(s.circuit, s.report.points, self.tie) if s.report.checked else ()
        spreads: list[QWidget] = [spread_line(s, self.palette_, d) for d in currents]
        if states := _states(s, self.tie):
            tip = "The voltage at the lead and the current through the pin, typical, with least and most"
            spreads.append(Fold(s, "states", "In each state", tip, partial(_lines, states)))
        if self._has_resistor(self.tie):
            name = led_at(s.circuit, self.lead)
            return column(LedBox(s, split(self.lead)[0], name), *spreads, line(), box, spacing=8)
        asked = asked_of(s, self.tie)
        values = [ValueBox(s, asked)] if asked else []
        return column(*values, *spreads, line(), box, spacing=8) if asked or spreads else box

    def _has_resistor(self, tie: Tie) -> bool:
        """The tie is where an LED's resistor is, or belongs."""
        c, part_id = self.session.circuit, split(self.lead)[0]
        name = led_at(c, self.lead)
        where = resistor_place(c, part_id, name) if self.session.report.checked and name else None
        return where is not None and where[0].id == tie.id

    # --- choosing a contact ---------------------------------------------------------------------

    def _offer(self, f: Fit, place: str = "") -> Offer:
        c = self.session.circuit
        return Offer(f.contact, c.titles.of(f.contact), place or c.titles.place(f.contact), f.grade, f.reason)

    def _say(self, text: str) -> None:
        self.note.setText(text)
        self.note.setVisible(bool(text))

    def _filter(self, text: str) -> None:
        """Everything that the text can mean, side by side; never a guess among them."""
        text = text.strip()
        if not text:
            self._say("")
            self.offers.fill(self._ranked)
            return
        c = self.session.circuit
        matches = c.titles.book.find(text)
        pins = list(dict.fromkeys(m.pin for m in matches))
        offers = []
        for pin in pins:
            titles = [self._scheme(m.scheme) for m in matches if m.pin == pin]
            answer = fit(c, self.lead, f"{BOARD}.{pin}")
            offers.append(self._offer(answer, f"as {' and '.join(titles)} {text}"))
        if len(pins) > 1 and not all(c.board.pins[p].kind in ("ground", "supply") for p in pins):
            self._say(f"“{text}” means {len(pins)} different pins. Which one?")
        elif len(pins) > 1:
            offers.sort(key=lambda o: (o.grade, fit(c, self.lead, o.contact).cost))
            self._say("")
        else:
            self._say("" if pins else _unknown(text, c.titles.book.near(text)))
        self.offers.fill(offers)

    def _scheme(self, scheme: str) -> str:
        return "label" if scheme == LABEL else self.session.circuit.board.schemes[scheme].title.lower()

    def _enter(self) -> None:
        """Enter in the field takes what is meant, where only one pin (or one net) is."""
        kinds = {self._kind(o.contact) for o in self.offers.offers()}
        if self.field.text().strip() and self.offers.count() > 1 and kinds - {"ground", "supply"}:
            self.offers.setFocus()
            return
        self._take()

    def _kind(self, contact: str) -> str:
        pin = self.session.circuit.contacts.pin(contact)
        return pin.kind if pin else "lead"

    def _take(self) -> None:
        offer = self.offers.offer()
        if offer is None:
            return
        self.session.edit(
            f"tie {self.session.circuit.titles.of(self.lead)}", edits.tie, self.lead, offer.contact
        )
        self.done.emit()


class TieBox(QWidget):
    """The cord: role, colour, beads, the program's pull."""

    def __init__(self, session: Session, tie: Tie):
        super().__init__()
        self.session, self.tie = session, tie
        c = session.circuit
        layout = column_in(self, 6)
        fields = form()
        pin = c.contacts.pin(tie.to)
        if pin is not None and pin.kind == "io":
            fields.addRow(
                "Role", TextField("role", "What the program calls this tie, e.g. lamp", tie.role, self._role)
            )
        options = [(name, name) for name in CORDS]
        fields.addRow("Cord", choice("cord", "Colour of the cord", options, colour_of(c, tie), self._colour))
        need, pulses = c.needs.of(tie.lead), c.needs.pulses(tie.lead)
        if pulses is not None and pin is not None and pin.kind == "io":
            now = pulses.frequency_hz if isinstance(need, Pulse) else 0.0
            tip = "How many pulses a second the program makes; 0 for the usual ones, or for on and off alone"
            fields.addRow("Pulses", QuantityField("pulses", tip, now, "Hz", self._pulses, 0.0, 1e8))
        if isinstance(need, Input) and pin is not None and pin.driver:
            driver = c.hardware.driver(tie.to)
            pulls = [("none", "none")]
            pulls += [("up", f"pull-up, {show(driver.pull_up_ohm.typ, 'Ω')}")] if driver.pull_up_ohm else []
            pulls += (
                [("down", f"pull-down, {show(driver.pull_down_ohm.typ, 'Ω')}")]
                if driver.pull_down_ohm
                else []
            )
            fields.addRow(
                "Pin's pull",
                choice("pull", "The pull that the program switches on", pulls, tie.pull, self._pull),
            )
        cord = cord_of(c, tie)
        fields.addRow(
            "Length",
            QuantityField(
                "length", "Length of the cord, e.g. 20c or 1.5", cord.length_m, "m", self._length, 0.0, 100.0
            ),
        )
        sizes = [(f"{a:g}", size_words(a)) for a in dict.fromkeys([*SIZES, cord.mm2])]
        lays = choice(
            "lay",
            "How the cord lies beside the others: what it has of capacitance",
            LAYS,
            self.tie.lay,
            self._lay,
        )
        lays.setAccessibleName("Lies")
        fields.addRow("Lies", lays)
        fields.addRow(
            "Copper", choice("copper", "Cross-section of the cord", sizes, f"{cord.mm2:g}", self._copper)
        )
        layout.addLayout(fields)
        layout.addWidget(
            tick("Stays where it is", "fixed", "Suggestions never move this tie", tie.fixed, self._fix)
        )
        for k, bead in enumerate(tie.beads):
            layout.addWidget(BeadRow(session, tie, k, bead))
        adders = [
            button(
                f"+ {kind}", f"add-{kind}", f"Drop a {kind} into this tie", partial(self._add, kind), "quiet"
            )
            for kind in NEW_BEADS
        ]
        layout.addWidget(row(*adders))
        layout.addWidget(row(button("Untie", "untie", "Take this tie away (Del)", self._untie)))

    def _title(self) -> str:
        return self.session.circuit.titles.of(self.tie.lead)

    def _role(self, text: str) -> None:
        self.session.edit(f"name {self._title()}", edits.set_role, self.tie.id, text)

    def _pulses(self, hertz: float) -> None:
        wish = self.session.circuit.needs.wish(self.tie.lead, hertz)
        self.session.edit(f"pulses of {self._title()}", edits.set_hertz, self.tie.id, wish)

    def _colour(self, name: str) -> None:
        self.session.edit(f"recolour {self._title()}", edits.recolour, self.tie.id, name)

    def _length(self, metres: float) -> None:
        self.session.edit(f"length of {self._title()}", edits.set_cord, self.tie.id, metres, None)

    def _lay(self, lay: str) -> None:
        self.session.edit(f"lay of {self._title()}", edits.lay_cord, self.tie.id, lay)

    def _copper(self, mm2: str) -> None:
        self.session.edit(f"copper of {self._title()}", edits.set_cord, self.tie.id, None, float(mm2))

    def _fix(self, fixed: bool) -> None:
        self.session.edit(
            f"{'fix' if fixed else 'loosen'} {self._title()}", edits.fix_tie, self.tie.id, fixed
        )

    def _pull(self, pull: str) -> None:
        self.session.edit(f"pull of {self._title()}", edits.set_pull, self.tie.id, pull)

    def _add(self, kind: str) -> None:
        self.session.edit(
            f"add a {kind}", edits.add_bead, self.tie.id, new_bead(self.session, self.tie, kind)
        )

    def _untie(self) -> None:
        self.session.edit(f"untie {self._title()}", edits.untie, self.tie.id)


def _unknown(text: str, near: Sequence[str]) -> str:
    sentence = f"No pin is called “{text}”."
    return f"{sentence} Nearest: {', '.join(near)}." if near else sentence

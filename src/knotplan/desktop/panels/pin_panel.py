"""A pin: all its names, what it does and bears, who holds it, and which leads could use it."""

from functools import partial

from PySide6.QtWidgets import QApplication, QWidget

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.drawing.palette import Palette
from knotplan.core.engine.readings import pin_volts
from knotplan.core.match.fit import leads_for
from knotplan.core.plan import edits
from knotplan.core.plan.document import BOARD, split
from knotplan.core.quantity.written import show
from knotplan.core.text.pin_card import about_pin, as_text
from knotplan.core.text.pin_table import meaning
from knotplan.desktop.lists.equip import equip
from knotplan.desktop.panels.fields import button, column_in, form, label, line, row
from knotplan.desktop.panels.offers import Offer, OfferList
from knotplan.desktop.session import Session
from knotplan.desktop.tips import tip_text


class PinPanel(QWidget):
    """Shown while a contact of the board, or the live end of a supply, is selected."""

    @staticmethod
    def shows(session: Session, contact: str) -> tuple[object, ...]:
        """All that is shown here; anything in the plan may change what could use this pin."""
        return session.plan, session.report.checked

    def __init__(self, session: Session, palette: Palette, contact: str):
        super().__init__()
        self.session, self.contact = session, contact
        c = session.circuit
        layout = column_in(self, 8)
        layout.addWidget(label(c.titles.full(contact), "head"))
        pin = c.contacts.pin(contact)
        if pin is None:
            layout.addWidget(label(_source(c, contact), "faint"))
        else:
            fields = form()
            for fact in about_pin(c, contact):
                about = label(fact.about, "faint", wrap=False)
                about.setToolTip(tip_text(meaning(c.board, fact.about)))
                fields.addRow(about, label(fact.text, fact.tone))
            layout.addLayout(fields)
            layout.addWidget(
                button(
                    "Copy the card",
                    "copyCard",
                    "Everything about this pin as text (Ctrl+Shift+C)",
                    partial(copy_card, session, contact),
                )
            )
        for tie in c.ties.at.get(contact, ()):
            layout.addWidget(line())
            role = f" (“{tie.role}”)" if tie.role else ""
            layout.addWidget(label(f"Tied to {c.titles.of(c.ties.other_end(tie, contact))}{role}", "strong"))
            layout.addWidget(
                row(
                    button(
                        "Show the tie",
                        f"show-{tie.id}",
                        "Select this tie",
                        partial(session.select, "tie", tie.id),
                    ),
                    button(
                        "Untie", f"untie-{tie.id}", "Take this tie away (Del)", partial(self._untie, tie.id)
                    ),
                )
            )
        if session.report.checked and pin is not None:
            for text in _states(session, contact):
                layout.addWidget(label(text, "faint"))
        able = [(lead, f) for lead, f in leads_for(c, contact) if c.ties.of(lead) is None]
        if able:
            layout.addWidget(line())
            layout.addWidget(label("Leads that could use it", "strong"))
            leads = OfferList("leadsFor", palette)
            leads.setAccessibleName("Leads that could use this pin")
            equip(leads, session.noticed.emit)
            leads.fill([Offer(lead, c.titles.of(lead), "", f.grade, f.reason) for lead, f in able])
            leads.itemActivated.connect(lambda _: self._take(leads))
            leads.itemClicked.connect(lambda _: self._take(leads))
            layout.addWidget(leads)
        layout.addStretch(1)

    def _untie(self, tie_id: str) -> None:
        self.session.edit("untie", edits.untie, tie_id)

    def _take(self, leads: OfferList) -> None:
        offer = leads.offer()
        if offer:
            text = f"tie {self.session.circuit.titles.of(offer.contact)}"
            self.session.edit(text, edits.tie, offer.contact, self.contact)


def _source(c: Circuit, contact: str) -> str:
    """What a socket of the board, or the live end of a supply, is good for."""
    owner, name = split(contact)
    if owner == BOARD:
        socket = c.board.sockets[name]
        return (
            f"Feeds the {c.board.rails[socket.rail].title}, up to {show(socket.limit_a, 'A')}. {socket.note}"
        )
    source = c.supplies.on_bench[owner]
    return f"Gives {source.volts.min:g} – {source.volts.max:g} V, up to {show(source.limit_a, 'A')}."


def copy_card(session: Session, contact: str) -> None:
    """The pin's card as text on the clipboard."""
    QApplication.clipboard().setText(as_text(session.report, contact))
    session.noticed.emit(f"Copied the card of {session.circuit.titles.full(contact)}")


def _states(session: Session, contact: str) -> list[str]:
    """Voltage in each state, with its extremes."""
    readings = pin_volts(session.circuit, session.report.points, contact)
    return [
        f"{r.case.words(session.circuit)}: {show(r.typ, 'V')} ({show(r.min, 'V')} – {show(r.max, 'V')})"
        for r in readings
        if r.case.pins
    ]

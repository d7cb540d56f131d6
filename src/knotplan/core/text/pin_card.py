"""Everything about one contact of the board at a glance: the same rows on the
card, in the inspector and as text."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.board.pin import AFTER_WORDS, Pin
from knotplan.core.check.report import Report
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.sharing import sharers
from knotplan.core.engine.readings import pin_volts
from knotplan.core.names.book import LABEL
from knotplan.core.plan.document import BOARD, split
from knotplan.core.power.budget import pin_current
from knotplan.core.quantity.written import show

MOST_KIN = 8
"""relatives that are named one by one"""


class CardRow(Struct, frozen=True):
    """What is said, about what, and how much it matters: "", "care" or "tied"."""

    about: str
    text: str
    tone: str = ""


def pin_card(report: Report, contact: str) -> list[CardRow]:
    """The rows of a contact's card, in the order of the questions that people ask of a pin."""
    c = report.circuit
    if c.contacts.pin(contact) is None:
        return [CardRow("Feeds", text) for text in _socket(c, contact)]
    return [*about_pin(c, contact), *_tied(report, contact)]


def about_pin(c: Circuit, contact: str) -> list[CardRow]:
    """What a pin is, whatever is tied to it: names, functions, limits, who shares."""
    pin = c.contacts.pin(contact)
    assert pin is not None
    rows = list(_names(c, contact, pin))
    if pin.kind == "supply":
        return [*rows, *_supply(c, pin)]
    if pin.kind == "io":
        return [*rows, *_signal(c, contact, pin), *_kin(c, contact)]
    return [*rows, CardRow("Note", pin.note)] if pin.note else rows


def as_text(report: Report, contact: str) -> str:
    """The card as lines of text."""
    rows = pin_card(report, contact)
    wide = max((len(r.about) for r in rows), default=0)
    head = f"{report.circuit.board.title}: {report.circuit.titles.full(contact)}"
    return "\n".join([head, *(f"{r.about:{wide}}  {r.text}" for r in rows)]) + "\n"


def _socket(c: Circuit, contact: str) -> Iterator[str]:
    socket = c.board.sockets[split(contact)[1]]
    yield (
        f"{c.board.rails[socket.rail].title}, {socket.volts.min:g} – {socket.volts.max:g} V, up to "
        f"{show(socket.limit_a, 'A')}"
    )
    if socket.note:
        yield socket.note


def _names(c: Circuit, contact: str, pin: Pin) -> Iterator[CardRow]:
    for scheme, spec in c.board.schemes.items():
        if scheme in pin.names:
            yield CardRow(spec.title, pin.names[scheme])
    if LABEL in pin.names:
        yield CardRow("Label", pin.names[LABEL])
    for scheme, name in c.titles.book.from_other_end(split(contact)[1]).items():
        yield CardRow(
            "Beware", f"counted from the wrong end, {c.board.schemes[scheme].title.lower()} {name}", "care"
        )


def _supply(c: Circuit, pin: Pin) -> Iterator[CardRow]:
    rail = c.board.rails[pin.rail]
    dead = "" if pin.rail in c.supplies.live_rails else "; dead with this feed"
    yield CardRow(
        "Rail", f"{rail.title}, {rail.volts.min:g} – {rail.volts.max:g} V{dead}", "care" if dead else ""
    )
    yield CardRow("Limit", f"{show(rail.limit_a, 'A')} for all parts")
    feeds = rail.accepts
    yield CardRow(
        "Feeding in",
        f"{feeds.min:g} – {feeds.max:g} V may be fed in here" if feeds else "never: it only gives",
    )
    if rail.note:
        yield CardRow("Note", rail.note)


def _signal(c: Circuit, contact: str, pin: Pin) -> Iterator[CardRow]:
    driver = c.hardware.driver(contact)
    yield CardRow("Does", c.titles.does(contact))
    if pin.drives:
        yield CardRow(
            "Output current", f"{show(driver.recommended_a, 'A')}, never above {show(driver.absolute_a, 'A')}"
        )
    yield CardRow("Voltage allowed", f"{driver.min_v:g} – {driver.max_v:g} V")
    if pin.reads:
        yield CardRow("Reads", f"low below {driver.input_low_v:g} V, high above {driver.input_high_v:g} V")
    yield CardRow("Power-on", pin.power_on_words)
    if split(contact)[0] == BOARD:
        yield CardRow(
            "Afterwards", f"{AFTER_WORDS[c.board.afterwards(pin)]} (a program has ended or crashed)"
        )
    if pin.strap:
        strap = c.board.straps[pin.strap]
        yield CardRow(
            "At start", f"{strap.title}: has to be {strap.level}, otherwise {strap.otherwise}", "care"
        )
    if pin.fitted_pull_ohm:
        yield CardRow("Fitted", f"{show(pin.fitted_pull_ohm, 'Ω')} pull-up on the board")
    held = c.board.reservations.get(pin.reserved)
    if held is not None and c.hardware.reservation(pin) is not None:
        yield CardRow("Job", f"{held.title}: {held.reason}. To free it: {held.lifted_by}.", "care")
    elif held is not None:
        yield CardRow("Job", f"{held.title}: switched off in this plan")
    for text in dict.fromkeys([driver.note, pin.note]):
        if text:
            yield CardRow("Note", text)


def _kin(c: Circuit, contact: str) -> Iterator[CardRow]:
    pin_id = split(contact)[1]
    for what, pins in sharers(c.board).items():
        if pin_id in pins:
            others = [c.board.name(p, c.scheme) for p in pins if p != pin_id]
            more = f" and {len(others) - MOST_KIN} more" if len(others) > MOST_KIN else ""
            yield CardRow("Shares", f"{what}: {', '.join(others[:MOST_KIN])}{more}")


def _tied(report: Report, contact: str) -> Iterator[CardRow]:
    c = report.circuit
    for tie in c.ties.at.get(contact, ()):
        role = f" (“{tie.role}”)" if tie.role else ""
        yield CardRow("Tied to", f"{c.titles.of(c.ties.other_end(tie, contact))}{role}", "tied")
    pin = c.contacts.pin(contact)
    if pin is not None and contact in report.points.pins:
        usual, worst = pin_current(report.points.pins[contact])
        limit = c.hardware.driver(contact).recommended_a
        yield CardRow("Carries", f"{show(usual, 'A')}, at worst {show(worst, 'A')} of {show(limit, 'A')}")
        most = max((r.max for r in pin_volts(c, report.points, contact)), default=0.0)
        yield CardRow("Sees", f"up to {show(most, 'V')}")

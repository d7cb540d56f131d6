"""Answers to needs of power: supplies, grounds, feeds, and loads that have to be switched."""

from knotplan.catalog.board.pin import Pin
from knotplan.catalog.part.needs import Ground, Need, Supply, Switched
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.ranges import lies, suits
from knotplan.core.match.answers.answer import Answer, no
from knotplan.core.plan.document import split
from knotplan.core.quantity.written import show


def supply(circuit: Circuit, need: Supply, contact: str) -> Answer:
    """How well a contact feeds a supply lead."""
    origin = circuit.supplies.origin(contact)
    if origin is None:
        return no("carries no voltage while this feed is used")
    volts = origin.volts
    text = f"{origin.title}, {volts.min:g} – {volts.max:g} V"
    outside = f"{text}; needs {need.least_v:g} – {need.most_v:g} V"
    match lies(volts, need.least_v, need.most_v, circuit.assumed("edge")):
        case "outside":
            return no(outside)
        case "beyond":
            return Answer(True, (), (outside,), 4.0)
    on_board = origin.on_board and split(contact)[0] not in circuit.supplies.on_bench
    if need.jerks and on_board:
        return Answer(True, (), (f"a start or stall can pull the board's {origin.title} down",), 2.0)
    lent = COST_LENT if lent_by_part(circuit, contact) else 0.0
    if need.signal:  # the logic's own supply keeps levels within what pins bear
        return Answer(True, (text,), (), abs(volts.typ - circuit.board.logic_v) * 4 + lent)
    return Answer(True, (text,), (), lent + (3.0 if on_board else 0.0))


COST_LENT = 1.6
"""a rail or ground that another part passes on, rather than a supply, a pin or a bar"""


def lent_by_part(circuit: Circuit, contact: str) -> bool:
    """The contact is a part's own lead that others may hang on, and no bar made for that."""
    owner = split(contact)[0]
    lead = circuit.contacts.lead(contact)
    return lead is not None and lead.offers is not None and circuit.parts[owner].category != "wiring"


def ground(circuit: Circuit, contact: str, pin: Pin) -> Answer:
    """A ground pin of the board, or the ground that a part or a bar passes on."""
    if pin.kind != "ground":
        return no("not a ground pin")
    apart = () if circuit.nets.is_ground(contact) else ("not joined to the board's ground",)
    return Answer(True, ("ground",), apart, COST_LENT if lent_by_part(circuit, contact) else 0.0)


def _behind(circuit: Circuit, lead: str) -> list[str]:
    """What hangs on the contacts to which a lead passes on what comes in."""
    owner, name = split(lead)
    return [
        tie.lead
        for other, spec in circuit.parts[owner].leads.items()
        if spec.offers and spec.offers.via == name
        for tie in circuit.ties.at.get(f"{owner}.{other}", ())
        if tie.to == f"{owner}.{other}"
    ]


def coupled(circuit: Circuit, lead: str, contact: str, pin: Pin | None) -> Answer:
    """What a relay's contact or a bar passes on: any supply, or ground."""
    if circuit.nets.is_ground(contact):
        return Answer(True, ("ground",), (), 2.0)
    origin = circuit.supplies.origin(contact)
    if origin is None or (pin is not None and pin.kind == "io"):
        return no("neither a supply nor ground")
    for load in _behind(circuit, lead):
        need = next((n for n in circuit.contacts.lead(load).needs if isinstance(n, Supply)), None)  # type: ignore[union-attr]
        if need is not None and not (answer := supply(circuit, need, contact)).ok:
            return no(f"{circuit.titles.of(load)} hangs behind it: {', '.join(answer.minus)}")
    return Answer(True, (f"passes on {origin.title}",), (), 1.0 if origin.on_board else 0.0)


def contact_passing(circuit: Circuit, need: Need, contact: str) -> Answer:
    """A hub's contact stands for what comes in on its other side."""
    if isinstance(need, Supply):
        return supply(circuit, need, contact)
    grounded = circuit.supplies.fed_by(contact) == circuit.nets.ground
    if isinstance(need, Ground | Switched) and grounded:
        return Answer(True, ("switches the way to ground",), (), 1.0)
    return no("its common contact is not on ground" if isinstance(need, Ground) else "switches power only")


def switched(circuit: Circuit, need: Switched, contact: str, pin: Pin) -> Answer:
    """A load that is more than a pin can carry goes to something that switches it."""
    able = {"low": ("sink", "bridge"), "high": ("source", "bridge"), "bridge": ("bridge",)}[need.by]
    job = next((k for k in able if k in pin.functions), None)
    if job is None:
        return no(
            f"a signal pin, and {show(need.worst_a, 'A')} have to be switched"
            if pin.drives
            else "cannot switch a load this way"
        )
    driver = circuit.hardware.driver(contact)
    if need.worst_a > driver.absolute_a:
        return no(f"switches {show(driver.recommended_a, 'A')}, {show(need.worst_a, 'A')} are wanted")
    if driver.most_load_v and need.volts > driver.most_load_v:
        return no(f"switches up to {show(driver.most_load_v, 'V')}, the load has {show(need.volts, 'V')}")
    minus: tuple[str, ...] = ()
    if need.worst_a > driver.recommended_a:
        minus = (f"{show(need.worst_a, 'A')} at worst, {show(driver.recommended_a, 'A')} for ever",)
    spare = driver.recommended_a / need.worst_a if need.worst_a else 1.0
    return Answer(True, (f"switches up to {show(driver.recommended_a, 'A')}",), minus, min(spare, 50) * 0.05)


def feed(circuit: Circuit, lead: str, socket_id: str) -> Answer:
    """How well a plug fits a socket of the board."""
    socket, source = circuit.board.sockets[socket_id], circuit.supplies.on_bench[split(lead)[0]]
    if not suits(source, socket.volts, circuit.assumed("edge")):
        return no(
            f"{socket.title} takes {socket.volts.min:g} – {socket.volts.max:g} V, this gives "
            f"{source.volts.min:g} – {source.volts.max:g} V"
        )
    return Answer(True, (socket.title,))


def taking(circuit: Circuit, lead: str, pin: Pin) -> Answer:
    """Some supply pins are ways in for power."""
    rail = circuit.board.rails.get(pin.rail)
    source = circuit.supplies.on_bench.get(split(lead)[0])
    if rail is None or not rail.accepts or source is None:
        return no("would feed a supply into a pin")
    if not suits(source, rail.accepts, circuit.assumed("edge")):
        return no(f"{rail.title} takes {rail.accepts.min:g} – {rail.accepts.max:g} V")
    return Answer(True, (f"feeds the {rail.title}",))

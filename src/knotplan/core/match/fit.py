"""Needs and offers: how well a contact meets a lead's need, always with the reason in words.

Lenses, candidates, checks and suggestions all ask here.
"""

from enum import IntEnum

from msgspec import Struct

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.function import ANY, parse_function
from knotplan.catalog.board.pin import Pin
from knotplan.catalog.derived import derived
from knotplan.catalog.part.elements import Led, Resistor
from knotplan.catalog.part.needs import (
    Analog,
    Bus,
    Coupled,
    Driven,
    Feed,
    Gives,
    Ground,
    Need,
    Open,
    Output,
    Pulse,
    Supply,
    Switched,
    words,
)
from knotplan.catalog.part.part import Part
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.needs import SWITCHING
from knotplan.core.match.answers.answer import Answer, no
from knotplan.core.match.answers.power import contact_passing, coupled, feed, ground, supply, taking
from knotplan.core.match.answers.signals import job_answer
from knotplan.core.match.answers.together import goes_with
from knotplan.core.match.levels import unsuited
from knotplan.core.plan.document import BOARD, split
from knotplan.core.quantity.written import show


class Grade(IntEnum):
    """How well a contact fits, best first."""

    BEST = 0
    GOOD = 1
    POSSIBLE = 2
    IMPOSSIBLE = 3


class Fit(Struct, frozen=True):
    """The answer of one contact to one lead."""

    contact: str
    grade: Grade
    reasons: tuple[str, ...]
    cost: float
    """order among equals; no unit"""
    need: int = 0
    """which of the lead's alternatives it is that is met"""

    @property
    def reason(self) -> str:
        """Why, in words: what speaks for it, then what against."""
        return "; ".join(self.reasons)


COST_ALTERNATIVE = 6.0
COST_CONSEQUENCE = 20.0
COST_HUB = 4.0
"""a hub's contact rather than the board's own"""
COST_GRAVE = 200.0
"""taking a pin that the board cannot do without"""
COST_SPECIAL = {"pwm": 3.0, "adc": 4.0, "i2c": 5.0, "spi": 3.0, "uart": 3.0}
"""what is given up when a plain job takes a pin with a rarer function"""


def fit(
    circuit: Circuit, lead: str, contact: str, *, alone: bool = False, rows: list[int] | None = None
) -> Fit:
    """How well a contact (pin, socket or lead of a supply) meets what a lead needs.

    `alone` leaves out who else holds the contact, its channel or its timer; `rows` are those of the
    part's other ties, where they are known already."""
    spec = circuit.contacts.lead(lead)
    assert spec is not None, lead
    rows = _rows(circuit, lead) if rows is None else rows
    answers, needs = [], circuit.needs.asked(lead) if alone else _proper(circuit, lead)
    for k, need in enumerate(needs):
        answer = _answer(circuit, lead, circuit.needs.wished(lead, need), contact, alone)
        answers.append((not answer.ok, bool(answer.minus), answer.cost + k * COST_ALTERNATIVE, k, answer))
    failed, _, cost, at, best = min(answers)[:5]
    if failed:
        answers.sort(key=lambda a: not _switches(circuit, needs[a[3]], contact))
        text = next((a[4].minus for a in answers if a[4].minus), ("cannot do this",))
        return Fit(contact, Grade.IMPOSSIBLE, text, 1e9)
    minus = best.minus + _always_on(circuit, lead, spec.needs[0], spec.needs[at])
    grade = Grade.POSSIBLE if minus else Grade.GOOD
    cost += COST_CONSEQUENCE * len(minus) + 0.15 * _distance(circuit, rows, contact)
    return Fit(contact, grade, minus + best.plus or ("free",), cost, at)


def _switches(circuit: Circuit, need: Need, contact: str) -> bool:
    """A contact switches a load the way that an alternative wants it: what else is wrong is said first."""
    pin = circuit.contacts.pin(contact)
    return (
        isinstance(need, Switched)
        and pin is not None
        and any(need.by in SWITCHING[f] for f in pin.functions if f in SWITCHING)
    )


def _proper(circuit: Circuit, lead: str) -> tuple[Need, ...]:
    """What a lead needs as the part is usually tied; where it is turned round already, the other end's as
    well."""
    part_id, name = split(lead)
    part = circuit.parts[part_id]
    needs = circuit.needs.asked(lead)
    own = part.own_needs(name)
    return needs if own >= len(needs) or circuit.needs.turned(lead) else needs[:own]


def able(circuit: Circuit, lead: str, contact: str) -> bool:
    """Whether a contact can meet any of a lead's needs at all, whoever else holds it: what `fit` with
    `alone` would not call impossible, without its reasons."""
    spec = circuit.contacts.lead(lead)
    return spec is not None and any(
        _answer(circuit, lead, circuit.needs.wished(lead, need), contact, alone=True).ok
        for need in circuit.needs.asked(lead)
    )


def _always_on(circuit: Circuit, lead: str, meant: Need, met: Need) -> tuple[str, ...]:
    """The consequence for a load's end that goes straight to ground or a supply, and
    nothing at its other end switches it."""
    if not isinstance(meant, Switched) or isinstance(met, Switched):
        return ()
    part_id = split(lead)[0]
    ties = (
        t
        for name in circuit.parts[part_id].leads
        if (t := circuit.ties.of(f"{part_id}.{name}")) and t.lead != lead
    )
    if any(isinstance(circuit.needs.of(t.lead), Switched) or _by_relay(circuit, t.to) for t in ties):
        return ()
    return ("nothing switches it: it is on whenever it is fed",)


def _by_relay(circuit: Circuit, contact: str) -> bool:
    """A contact that opens and closes, and no bar that only passes on."""
    pin = circuit.contacts.pin(contact)
    return pin is not None and pin.kind == "contact" and circuit.parts[split(contact)[0]].category != "wiring"


def _answer(circuit: Circuit, lead: str, need: Need, contact: str, alone: bool) -> Answer:
    pin = circuit.contacts.pin(contact)
    if isinstance(need, Open):
        if lead in circuit.contacts.pins and circuit.nets.comes_in_at(lead):
            return Answer(True, ("leaves at the common contact",), (), 2.0)
        return no("is there for other parts: tie their leads to it")
    if split(contact)[0] == split(lead)[0]:
        return no("a lead of the same part")
    if isinstance(need, Coupled):
        return coupled(circuit, lead, contact, pin)
    if pin is not None:
        return _pin_answer(circuit, lead, need, contact, pin, alone)
    owner, name = split(contact)
    if owner == BOARD:
        return (
            feed(circuit, lead, name)
            if isinstance(need, Feed)
            else no("only a supply can be plugged in there")
        )
    other = circuit.contacts.lead(contact)
    if other is None:
        return no("not a contact that offers this")
    if isinstance(need, Supply) and isinstance(other.needs[0], Gives):
        return supply(circuit, need, contact)
    if isinstance(need, Ground) and circuit.parts[owner].source and isinstance(other.needs[0], Ground):
        apart = () if circuit.nets.is_ground(contact) else ("not joined to the board's ground",)
        return Answer(True, (f"return of {circuit.placed[owner].name}",), apart, 1.0)
    return no("not a contact that offers this")


def _pin_answer(circuit: Circuit, lead: str, need: Need, contact: str, pin: Pin, alone: bool) -> Answer:
    match need:
        case Ground() if "sink" in pin.functions and lights_only(circuit.parts[split(lead)[0]]):
            return Answer(True, ("switches its way to ground",), (), 2.0)
        case Ground() if pin.kind != "contact":
            return ground(circuit, contact, pin)
        case Supply() if pin.kind != "contact":
            return supply(circuit, need, contact) if pin.kind == "supply" else no("not a supply pin")
        case Gives():
            return taking(circuit, lead, pin)
        case Feed():
            return no("would feed a supply into a pin")
    if pin.kind == "contact":
        return contact_passing(circuit, need, contact)
    if pin.kind != "io":
        return no(
            {"supply": "a supply pin", "ground": "a ground pin"}.get(pin.kind, pin.note or "not for signals")
        )
    return _signal_answer(circuit, lead, need, contact, pin, alone)


@derived
def lights_only(part: Part) -> bool:
    """There is nothing in a part but LEDs: its common leg may be switched."""
    return bool(part.elements) and all(isinstance(e, Led) for e in part.elements.values())


def _signal_answer(circuit: Circuit, lead: str, need: Need, contact: str, pin: Pin, alone: bool) -> Answer:
    job = job_answer(circuit, lead, need, contact, pin, alone=True)  # what it can never do is said first
    held = [t for t in circuit.ties.holders.get(contact, []) if t.lead != lead]
    if job.ok and not alone:
        if held and not all(goes_with(circuit, lead, need, t) for t in held):
            return no(f"holds {circuit.titles.of(held[0].lead)} already")
        job = job_answer(circuit, lead, need, contact, pin, alone)
    if not job.ok:
        return job
    on_board = split(contact)[0] == BOARD
    minus, grave = _spoken_for(circuit, pin)
    minus += job.minus + (() if on_board else _hub_unfed(circuit, need, contact)) + _strap(circuit, pin)
    minus += unsuited(circuit, lead, need, contact, pin)
    if isinstance(need, Driven) and (wish := wished_a(circuit, lead)) > (
        able := circuit.hardware.driver(contact).recommended_a
    ):
        minus += (f"gives {show(able, 'A')}, {show(wish, 'A')} is wished",)
    cost = job.cost + grave + (_given_up(circuit.board, need, pin) if on_board else COST_HUB)
    return Answer(True, job.plus, minus + _fires_at_power_on(circuit, lead, need, pin), cost)


def _spoken_for(circuit: Circuit, pin: Pin) -> tuple[tuple[str, ...], float]:
    """What already uses a pin, and what taking it from there costs."""
    r = circuit.hardware.reservation(pin)
    if r is None:
        return (), 0.0
    return (f"{r.title}: {r.reason}",), COST_GRAVE if r.severity == "stop" else 0.0


def _strap(circuit: Circuit, pin: Pin) -> tuple[str, ...]:
    strap = circuit.board.straps.get(pin.strap)
    return (
        (f"{strap.title} is read here at start: it has to be {strap.level} then",)
        if strap is not None
        else ()
    )


def _hub_unfed(circuit: Circuit, need: Need, contact: str) -> tuple[str, ...]:
    """What a hub without a supply cannot do yet."""
    if (
        isinstance(need, Driven)
        and circuit.hardware.driver(contact).rail
        and circuit.supplies.rail_volts(contact) is None
    ):
        return (f"{circuit.placed[split(contact)[0]].name} has no supply yet",)
    return ()


def wished_a(circuit: Circuit, lead: str) -> float:
    """The current that a lead is meant to carry, where it is that of an LED; else 0."""
    part_id, name = split(lead)
    return max(
        (
            e.wished_a
            for e in circuit.parts[part_id].elements.values()
            if isinstance(e, Led) and name in (e.a, e.b)
        ),
        default=0.0,
    )


def _fires_at_power_on(circuit: Circuit, lead: str, need: Need, pin: Pin) -> tuple[str, ...]:
    """The consequence for a load that must stay off until the program runs."""
    if not (isinstance(need, Output | Pulse) and need.wakes_load):
        return ()
    safe = {"high": ("pull-up", "high"), "low": ("pull-down", "low")}[
        "high" if need.active == "low" else "low"
    ]
    held = ("floating",) if _held_off(circuit, lead, need.active == "high") else ()
    if all(w in (*safe, *held) for w in pin.power_on_states):
        return ()
    return (f"is {pin.power_on_words} at power-on, active {need.active}",)


def _held_off(circuit: Circuit, lead: str, low: bool) -> bool:
    """A resistor of the part itself holds the lead at the level at which its load is off."""
    part_id, name = split(lead)
    part = circuit.parts[part_id]
    ends = [
        ({e.a, e.b} - {name}).pop()
        for e in part.elements.values()
        if isinstance(e, Resistor) and name in (e.a, e.b)
    ]
    kind = Ground if low else Supply
    return any(end in part.leads and isinstance(part.leads[end].needs[0], kind) for end in ends)


def _given_up(board: Board, need: Need, pin: Pin) -> float:
    """What is lost by taking this pin rather than the plainest one of the board that can do the job."""
    used = {Pulse: "pwm", Analog: "adc"}.get(type(need), need.bus if isinstance(need, Bus) else "digital")
    return _rarity(pin, used) - _least_rarity(board, used)


def _rarity(pin: Pin, used: str) -> float:
    kinds = {f.kind for f in map(parse_function, pin.functions) if f.instance not in ("", ANY)} - {used}
    return sum(COST_SPECIAL.get(k, 1.0) for k in kinds)


@derived
def _least_rarity(board: Board, used: str) -> float:
    able = [
        _rarity(p, used)
        for p in board.pins.values()
        if p.kind == "io" and (used == "digital" or p.jobs(used))
    ]
    return min(able, default=0.0)


def _rows(circuit: Circuit, lead: str) -> list[int]:
    """Where the other ties of the same part lie, as rows; each further header's count from 40 more."""
    part = split(lead)[0]
    held = [circuit.contacts.pin(t.to) for t in circuit.ties if split(t.lead)[0] == part and t.lead != lead]
    return [_row(circuit, pin) for pin in held if pin is not None]


def _row(circuit: Circuit, pin: Pin) -> int:
    if not pin.header:  # of a hub
        return 0
    header = circuit.board.headers[pin.header]
    along = pin.col if header.across else pin.row
    return along + 40 * list(circuit.board.headers).index(pin.header)


def _distance(circuit: Circuit, rows: list[int], contact: str) -> float:
    """How many rows lie between a pin and the other ties of the same part."""
    pin = circuit.contacts.pin(contact)
    if pin is None or not rows or not pin.header:
        return 0.0
    here = _row(circuit, pin)
    return min(abs(here - r) for r in rows)


def fits(circuit: Circuit, lead: str) -> list[Fit]:
    """The answer of every contact to a lead, best first; the leading good ones are the best."""
    rows = _rows(circuit, lead)
    answers = sorted(
        (fit(circuit, lead, c, rows=rows) for c in circuit.contacts.offers), key=lambda f: (f.grade, f.cost)
    )
    good = [f.cost for f in answers if f.grade == Grade.GOOD]
    return [
        Fit(f.contact, Grade.BEST, f.reasons, f.cost, f.need)
        if f.grade == Grade.GOOD and f.cost <= good[0] + 1
        else f
        for f in answers
    ]


def candidates(circuit: Circuit, lead: str) -> list[Fit]:
    """The contacts that can take a lead, best first."""
    return [f for f in fits(circuit, lead) if f.grade != Grade.IMPOSSIBLE]


def leads_for(circuit: Circuit, contact: str) -> list[tuple[str, Fit]]:
    """The leads that could use a contact, best first."""
    fits = [(lead, fit(circuit, lead, contact)) for lead in circuit.contacts.leads()]
    able = [(lead, f) for lead, f in fits if f.grade != Grade.IMPOSSIBLE]
    return sorted(able, key=lambda pair: (circuit.ties.of(pair[0]) is not None, pair[1].grade, pair[1].cost))


def need_words(circuit: Circuit, lead: str) -> str:
    """What a lead needs, in a sentence."""
    spec = circuit.contacts.lead(lead)
    assert spec is not None, lead
    return " or ".join(words(n) for n in spec.needs)

"""Needs and offers: how well a contact meets a lead's need, always with the reason in words.

Lenses, candidates, checks and suggestions all ask here.
"""

from enum import IntEnum
from functools import lru_cache

from msgspec import Struct

from knotplan.catalog.boards import ANY, Board, Function, Pin, parse_function
from knotplan.catalog.needs import (
    Analog,
    Bus,
    Driven,
    Feed,
    Gives,
    Ground,
    Input,
    Need,
    Output,
    Pulse,
    Supply,
    words,
)
from knotplan.catalog.parts import Led
from knotplan.core.circuit import Circuit
from knotplan.core.plan import BOARD, split
from knotplan.core.quantity import show
from knotplan.core.units import bus_instances, bus_jobs, led_elsewhere, off, pulse_use


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

    @property
    def reason(self) -> str:
        return "; ".join(self.reasons)


class _Answer(Struct, frozen=True):
    """How one alternative of a need is met."""

    ok: bool
    plus: tuple[str, ...] = ()
    """what speaks for it"""
    minus: tuple[str, ...] = ()
    """what it costs"""
    cost: float = 0.0


def _no(reason: str) -> _Answer:
    return _Answer(False, (), (reason,))


COST_ALTERNATIVE = 6.0
COST_CONSEQUENCE = 20.0
COST_GRAVE = 200.0
"""taking a pin that the board cannot do without"""
COST_SPECIAL = {"pwm": 3.0, "adc": 4.0, "i2c": 5.0, "spi": 3.0, "uart": 3.0}
"""what is given up when a plain job takes a pin with a rarer function"""


def fit(circuit: Circuit, lead: str, contact: str, *, alone: bool = False, rows: list[int] | None = None) -> Fit:
    """How well a contact (pin, socket or lead of a supply) meets what a lead needs.

    `alone` leaves out who else holds the contact, its channel or its timer; `rows` are those of the
    part's other ties, where they are known already."""
    spec = circuit.lead(lead)
    assert spec is not None, lead
    rows = _rows(circuit, lead) if rows is None else rows
    answers = []
    for k, need in enumerate(spec.needs):
        answer = _answer(circuit, lead, need, contact, alone)
        answers.append((not answer.ok, bool(answer.minus), answer.cost + k * COST_ALTERNATIVE, k, answer))
    failed, _, cost, _, best = min(answers)[:5]
    if failed:
        said = next((a[4].minus for a in answers if a[4].minus), ("cannot do this",))
        return Fit(contact, Grade.IMPOSSIBLE, said, 1e9)
    grade = Grade.POSSIBLE if best.minus else Grade.GOOD
    cost += COST_CONSEQUENCE * len(best.minus) + 0.15 * _distance(circuit, rows, contact)
    return Fit(contact, grade, best.minus + best.plus or ("free",), cost)


def _answer(circuit: Circuit, lead: str, need: Need, contact: str, alone: bool) -> _Answer:
    pin = circuit.pin(contact)
    if pin is not None:
        return _pin_answer(circuit, lead, need, contact, pin, alone)
    owner, name = split(contact)
    if owner == BOARD:
        return _feed_answer(circuit, lead, name) if isinstance(need, Feed) else _no("a socket for power only")
    other = circuit.lead(contact)
    if other is None or owner == split(lead)[0]:
        return _no("a lead of the same part")
    if isinstance(need, Supply) and isinstance(other.needs[0], Gives):
        return _supply_answer(circuit, need, contact)
    if isinstance(need, Ground) and circuit.parts[owner].source and isinstance(other.needs[0], Ground):
        apart = () if circuit.is_ground(contact) else ("not joined to the board's ground",)
        return _Answer(True, (f"return of {circuit.placed[owner].name}",), apart, 1.0)
    return _no("not a contact that offers this")


def _feed_answer(circuit: Circuit, lead: str, socket_id: str) -> _Answer:
    socket, source = circuit.board.sockets[socket_id], circuit.bench_sources[split(lead)[0]]
    if source.volts.min < socket.volts.min or source.volts.max > socket.volts.max:
        return _no(f"{socket.title} takes {socket.volts.min:g} – {socket.volts.max:g} V, this gives "
                   f"{source.volts.min:g} – {source.volts.max:g} V")  # fmt: skip
    return _Answer(True, (socket.title,))


def _taking_answer(circuit: Circuit, lead: str, pin: Pin) -> _Answer:
    """Some supply pins are ways in for power."""
    rail = circuit.board.rails.get(pin.rail)
    source = circuit.bench_sources.get(split(lead)[0])
    if rail is None or not rail.accepts or source is None:
        return _no("would feed a supply into a pin")
    if source.volts.min < rail.accepts.min or source.volts.max > rail.accepts.max:
        return _no(f"{rail.title} takes {rail.accepts.min:g} – {rail.accepts.max:g} V")
    return _Answer(True, (f"feeds the {rail.title}",))


def _pin_answer(circuit: Circuit, lead: str, need: Need, contact: str, pin: Pin, alone: bool) -> _Answer:
    match need:
        case Ground():
            return _Answer(True, ("ground",)) if pin.kind == "ground" else _no("not a ground pin")
        case Supply():
            return _supply_answer(circuit, need, contact) if pin.kind == "supply" else _no("not a supply pin")
        case Gives():
            return _taking_answer(circuit, lead, pin)
        case Feed():
            return _no("would feed a supply into a pin")
    if pin.kind != "io":
        return _no({"supply": "a supply pin", "ground": "a ground pin"}.get(pin.kind, pin.note or "not for signals"))
    job = _job_answer(circuit, lead, need, pin, alone=True)  # what it can never do is said first
    held = [t for t in circuit.holders.get(split(contact)[1], []) if t.lead != lead]
    if job.ok and not alone:
        if held and not (isinstance(need, Bus) and all(need.shared and circuit.need(t.lead) == need for t in held)):
            return _no(f"holds {circuit.title(held[0].lead)} already")
        job = _job_answer(circuit, lead, need, pin, alone)
    if not job.ok:
        return job
    minus = job.minus
    cost = job.cost + _given_up(circuit.board, need, pin)
    r = circuit.reservation(pin)
    if r is not None:
        minus = (f"{r.title}: {r.reason}", *minus)
        cost += COST_GRAVE if r.severity == "stop" else 0.0
    strap = circuit.board.straps.get(pin.strap)
    if strap is not None:
        minus += (f"{strap.title} is read here at start: it has to be {strap.level} then",)
    if (wish := wished_a(circuit, lead)) > circuit.board.drivers[pin.driver].recommended_a and isinstance(need, Driven):
        minus += (f"gives {show(circuit.board.drivers[pin.driver].recommended_a, 'A')}, {show(wish, 'A')} is wished",)
    return _Answer(True, job.plus, minus + _wakes(circuit, need, pin), cost)


def wished_a(circuit: Circuit, lead: str) -> float:
    """The current that a lead is meant to carry, where it is that of an LED; else 0."""
    part_id, name = split(lead)
    return max((e.wished_a for e in circuit.parts[part_id].elements.values() if isinstance(e, Led) and name in (e.a, e.b)),
               default=0.0)  # fmt: skip


def _job_answer(circuit: Circuit, lead: str, need: Need, pin: Pin, alone: bool) -> _Answer:
    """Whether the pin has the function at all, and who shares it."""
    match need:
        case Pulse():
            jobs = pin.jobs("pwm")
            if not jobs:
                return _no("no pulse output")
            return min((_pulse_answer(circuit, lead, need, job, alone) for job in jobs),
                       key=lambda a: (not a.ok, len(a.minus), a.cost))  # fmt: skip
        case Analog():
            jobs = pin.jobs("adc")
            if not jobs:
                return _no("no analogue input")
            return min((_analog_answer(circuit, job) for job in jobs), key=lambda a: len(a.minus))
        case Bus():
            return _bus_answer(circuit, lead, need, pin, alone)
        case Output():
            return _Answer(True, ("output",)) if pin.drives else _no("input only" if pin.reads else "cannot be an output")
        case Input(contact=contact):
            if not pin.reads:
                return _no("cannot be read as a level")
            driver = circuit.board.drivers[pin.driver]
            if contact and not driver.pull_up_ohm and not pin.fitted_pull_ohm:
                return _Answer(True, (), ("no pull-up of its own",))
            return _Answer(True, ("input with its own pull-up",) if contact else ("input",))
    return _no("cannot do this")


def _analog_answer(circuit: Circuit, job: Function) -> _Answer:
    unit = circuit.board.converters.get(job.unit)
    if unit is None:
        return _Answer(True, ("analogue input",), off(circuit, job))
    blocked = unit.blocked_by and circuit.is_on(unit.blocked_by)
    minus = (f"{unit.title} cannot be used while {circuit.board.settings[unit.blocked_by].title} is on",) if blocked else ()
    return _Answer(True, (f"{unit.title}, channel {job.channel}",), minus + off(circuit, job))


def _bus_answer(circuit: Circuit, lead: str, need: Bus, pin: Pin, alone: bool) -> _Answer:
    """One answer for each instance that the pin can be on; the part's other leads say which one it has to be."""
    jobs = bus_jobs(need, pin)
    if not jobs:
        return _no(f"no {words(need)}")
    taken = set() if alone else bus_instances(circuit, split(lead)[0], need.bus, lead)
    answers = []
    for job in jobs:
        title = circuit.board.peripherals[job.unit].title if job.instance != ANY else "any pin will do"
        apart = bool(taken) and (job.instance, job.remap) not in taken and job.instance != ANY
        minus = ("the part's other lead is on another bus",) if apart else ()
        answers.append(_Answer(True, (title,), minus + off(circuit, job)))
    return min(answers, key=lambda a: len(a.minus))


def _pulse_answer(circuit: Circuit, lead: str, need: Pulse, job: Function, alone: bool) -> _Answer:
    if job.instance == ANY:
        return _pool_answer(circuit, lead, need, alone)
    title = circuit.board.peripherals[f"pwm:{job.instance}"].title
    others = [] if alone else pulse_use(circuit, lead).get(job.instance, [])
    for channel, other, _ in others:
        if channel == job.channel:
            return _no(f"the same channel of {title} drives {circuit.title(other)}")
    elsewhere = None if alone else led_elsewhere(circuit, job, lead)
    if elsewhere:
        return _Answer(True, (), (f"{title} is led to other pins for {circuit.title(elsewhere)}",), 3.0)
    for _, other, frequency in others:
        if frequency != need.frequency_hz:
            return _Answer(True, (), (f"shares {title} with {circuit.placed[split(other)[0]].name}"
                                      f" ({show(frequency, 'Hz')})",))  # fmt: skip
    note = circuit.board.peripherals[f"pwm:{job.instance}"].note
    if others:
        return _Answer(True, (f"shares {title} at the same frequency",), off(circuit, job), 1.0)
    return _Answer(True, (f"own {title}",), ((note,) if "time base" in note else ()) + off(circuit, job))


def _pool_answer(circuit: Circuit, lead: str, need: Pulse, alone: bool) -> _Answer:
    """A channel of the board's pool, as long as there is one, and a frequency for it."""
    pool = circuit.board.pool("pwm")
    used = [] if alone else pulse_use(circuit, lead).get(ANY, [])
    if pool is None or len(used) >= pool.channels:
        return _no(f"all {pool.channels if pool else 0} {pool.title if pool else 'channels'} are taken")
    hertz = {hz for _, _, hz in used}
    if pool.frequencies and need.frequency_hz not in hertz and len(hertz) >= pool.frequencies:
        return _no(f"the {pool.title} give {pool.frequencies} frequencies, and all are taken")
    return _Answer(True, (f"one of the {pool.title}, {pool.channels - len(used)} free",))


def _supply_answer(circuit: Circuit, need: Supply, contact: str) -> _Answer:
    origin = circuit.origin(contact)
    if origin is None:
        return _no("carries no voltage while this feed is used")
    volts = origin.volts
    said = f"{origin.title}, {volts.min:g} – {volts.max:g} V"
    if volts.max > need.most_v or volts.min < need.least_v:
        return _no(f"{said}; needs {need.least_v:g} – {need.most_v:g} V")
    if need.jerks and origin.id in circuit.board.rails:
        return _Answer(True, (), (f"a start or stall can pull the board's {origin.title} down",), 2.0)
    if need.signal:  # the logic's own supply keeps levels within what pins bear
        return _Answer(True, (said,), (), abs(volts.typ - circuit.board.logic_v) * 4)
    return _Answer(True, (said,), (), 0.0 if origin.id not in circuit.board.rails else 3.0)


def _wakes(circuit: Circuit, need: Need, pin: Pin) -> tuple[str, ...]:
    """The consequence for a load that must stay off until the program runs."""
    if not (isinstance(need, Driven) and need.wakes_load):
        return ()
    safe = {"high": ("pull-up", "high"), "low": ("pull-down", "low")}["high" if need.active == "low" else "low"]
    if all(w in safe for w in pin.wakes):
        return ()
    return (f"is {pin.wakes_words} at power-on, active {need.active}",)


def _given_up(board: Board, need: Need, pin: Pin) -> float:
    """What is lost by taking this pin rather than the plainest one of the board that can do the job."""
    used = {Pulse: "pwm", Analog: "adc"}.get(type(need), need.bus if isinstance(need, Bus) else "digital")
    return _rarity(pin, used) - _least_rarity(board, used)


def _rarity(pin: Pin, used: str) -> float:
    kinds = {f.kind for f in map(parse_function, pin.functions) if f.instance not in ("", ANY)} - {used}
    return sum(COST_SPECIAL.get(k, 1.0) for k in kinds)


@lru_cache(64)
def _least_rarity(board: Board, used: str) -> float:
    able = [_rarity(p, used) for p in board.pins.values() if p.kind == "io" and (used == "digital" or p.jobs(used))]
    return min(able, default=0.0)


def _rows(circuit: Circuit, lead: str) -> list[int]:
    """Where the other ties of the same part lie, as rows; each further header's count from 40 more."""
    part = split(lead)[0]
    held = [circuit.pin(t.to) for t in circuit.plan.ties if split(t.lead)[0] == part and t.lead != lead]
    return [_row(circuit, pin) for pin in held if pin is not None]


def _row(circuit: Circuit, pin: Pin) -> int:
    header = circuit.board.headers[pin.header]
    along = pin.col if header.across else pin.row
    return along + 40 * list(circuit.board.headers).index(pin.header)


def _distance(circuit: Circuit, rows: list[int], contact: str) -> float:
    """How many rows lie between a pin and the other ties of the same part."""
    pin = circuit.pin(contact)
    if pin is None or not rows:
        return 0.0
    here = _row(circuit, pin)
    return min(abs(here - r) for r in rows)


def fits(circuit: Circuit, lead: str) -> list[Fit]:
    """The answer of every contact to a lead, best first; the leading good ones are the best."""
    rows = _rows(circuit, lead)
    answers = sorted((fit(circuit, lead, c, rows=rows) for c in circuit.offers), key=lambda f: (f.grade, f.cost))
    good = [f.cost for f in answers if f.grade == Grade.GOOD]
    return [Fit(f.contact, Grade.BEST, f.reasons, f.cost) if f.grade == Grade.GOOD and f.cost <= good[0] + 1 else f
            for f in answers]  # fmt: skip


def candidates(circuit: Circuit, lead: str) -> list[Fit]:
    """The contacts that can take a lead, best first."""
    return [f for f in fits(circuit, lead) if f.grade != Grade.IMPOSSIBLE]


def leads_for(circuit: Circuit, contact: str) -> list[tuple[str, Fit]]:
    """The leads that could use a contact, best first."""
    found = [(lead, fit(circuit, lead, contact)) for lead in circuit.leads()]
    able = [(lead, f) for lead, f in found if f.grade != Grade.IMPOSSIBLE]
    return sorted(able, key=lambda pair: (circuit.tie_of(pair[0]) is not None, pair[1].grade, pair[1].cost))


def need_words(circuit: Circuit, lead: str) -> str:
    """What a lead needs, in a sentence."""
    spec = circuit.lead(lead)
    assert spec is not None, lead
    return " or ".join(words(n) for n in spec.needs)

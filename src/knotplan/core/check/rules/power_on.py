"""Rules about what happens before a program runs."""

from collections.abc import Iterator
from functools import partial

from knotplan.catalog.part.needs import Output, Pulse
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.drive import Drive, drives
from knotplan.core.check.rules.remedies import logic_supply, move, weakest_pull
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, of_each
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having
from knotplan.core.circuit.switches import switched_by
from knotplan.core.engine.keys import of_part
from knotplan.core.engine.nearby import nearby
from knotplan.core.engine.operating_points import operating_points
from knotplan.core.engine.readings import Points, Reading
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullDown, PullUp
from knotplan.core.plan.document import BOARD, split
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


@rule(
    "wakes-load",
    "Load may switch at power-on",
    "care",
    "Until the program runs the pin is what the chip makes it; a load that answers to that level moves "
    "by itself at every start.",
    "catalogue: state of the pin at power-on; currents by nodal analysis",
    each=of_each(drives),
)
def wakes_load(facts: Facts, d: Drive) -> Iterator[Observation]:
    c = facts.circuit
    if not (isinstance(d.need, Output | Pulse) and d.need.wakes_load):
        return
    if d.element is None:
        yield from _on_by_level(facts, d, d.need)
        return
    amps = _at_power_on(facts.points.junctions.get(of_part(d.part, d.opto), []))
    if amps <= d.element.off_a:
        return
    name = c.placed[d.part].name
    yield Observation(
        f"{name} may switch on at power-on: {c.titles.full(d.tie.to)} is "
        f"{c.contacts.pins[d.pin].power_on_words} then, {c.titles.of(d.tie.lead)} is active {d.need.active}, "
        f"and {show(amps, 'A')} flow; it is off below {show(d.element.off_a, 'A')}.",
        (d.tie.lead, d.tie.to),
        (Number("current at power-on", amps, "A", d.element.off_a),),
        from_facts(_kept_off, d),
    )


def _brief_loads(c: Circuit) -> list[str]:
    """Loads that are made for being on for a short time."""
    return having(c, "most_on_s")


def _on_by_level(facts: Facts, d: Drive, need: Output | Pulse) -> Iterator[Observation]:
    """A gate or a base that a level at power-on opens."""
    c = facts.circuit
    level = _woken(c, facts.points, d, need)
    if level is None:
        return
    limit = _off_limit(c, d, need)
    yield Observation(
        f"{c.placed[d.part].name} may switch on at power-on: {c.titles.full(d.tie.to)} is "
        f"{c.contacts.pins[d.pin].power_on_words} then, {c.titles.of(d.tie.lead)} is active {need.active} "
        f"and gets {show(level, 'V')}; off is {'below' if need.active == 'high' else 'above'} "
        f"{show(limit, 'V')}.",
        (d.tie.lead, d.tie.to),
        (Number("voltage at power-on", level, "V", limit),),
        from_facts(_kept_level, d, need),
    )


def _off_limit(c: Circuit, d: Drive, need: Output | Pulse) -> float:
    """The voltage beyond which the load is no longer surely off."""
    high, low = c.needs.levels(d.tie.lead)
    if need.active == "high":
        return 0.5 if low is None else low
    return 2.0 if high is None else high


def _woken(c: Circuit, points: Points, d: Drive, need: Output | Pulse) -> float | None:
    """The voltage at power-on that may switch the load on, if any does."""
    volts = [r for r in points.volts.get(c.nets.of(d.tie.lead), []) if r.case.moment == "power-on"]
    limit = _off_limit(c, d, need)
    if need.active == "high":
        most = max((r.max for r in volts), default=0.0)
        return most if most > limit else None
    least = min((r.min for r in volts), default=limit)
    return least if least < limit else None


def _kept_level(facts: Facts, d: Drive, need: Output | Pulse) -> Iterator[Remedy]:
    def stays_off(wanted: Remedy) -> bool:
        near = Circuit(nearby(facts.circuit, wanted.apply(facts.circuit.plan), d.part), facts.catalog)
        tie = near.ties.of(d.tie.lead)
        moved = Drive(tie, tie.to, need, d.part) if tie is not None else d
        return _woken(near, operating_points(near), moved, need) is None

    for k, bead in enumerate(d.tie.beads):
        if isinstance(bead, PullUp) and need.active == "high":
            down = PullDown(bead.ohm, bead.tolerance)
            yield remedy("Lead its pull-up to ground", edits.change_bead, d.tie.id, k, down)
    yield from weakest_pull(facts, d.tie, need.active == "low", stays_off)
    yield from (r for r in move(facts, d.tie.lead, d.tie.to) if stays_off(r))


def _kept_off(facts: Facts, d: Drive) -> Iterator[Remedy]:
    yield from _fed(facts, d)
    yield from weakest_pull(facts, d.tie, d.state(True) == "low", partial(_stays_off, facts, d))
    yield from _moved(facts, d)


def _at_power_on(readings: list[Reading]) -> float:
    return max((r.max for r in readings if r.case.moment == "power-on"), default=0.0)


def _fed(facts: Facts, d: Drive) -> Iterator[Remedy]:
    """The input side on the logic's own rail, where that keeps the load off."""
    logic = facts.circuit.supplies.rail_volts(d.pin)
    return (r for r in logic_supply(facts, [d.part], logic.max if logic else 0.0) if _stays_off(facts, d, r))


def _moved(facts: Facts, d: Drive) -> Iterator[Remedy]:
    """Another pin, where that one keeps the load off."""
    return (r for r in move(facts, d.tie.lead, d.tie.to) if _stays_off(facts, d, r))


def _stays_off(facts: Facts, d: Drive, wanted: Remedy) -> bool:
    assert d.element is not None
    changed = wanted.apply(facts.circuit.plan)
    near = Circuit(nearby(facts.circuit, changed, d.part), facts.catalog)
    return _at_power_on(operating_points(near).junctions.get(of_part(d.part, d.opto), [])) <= d.element.off_a


@rule(
    "left-running",
    "Burns out where a program leaves it on",
    "note",
    "A program that ends or crashes does not always let go of its pins. What is made for seconds then stays "
    "on until somebody comes.",
    "catalogue: how long the load may be on, and what the board's pins do after a program",
    each=of_circuit(_brief_loads),
)
def left_running(facts: Facts, load: str) -> Iterator[Observation]:
    c = facts.circuit
    pins = [tie.to for tie in switched_by(c, load) if _is_left(c, tie.to)]
    if not pins:
        return
    most_s = c.parts[load].facts.most_on_s
    why = f" ({c.board.after_note})" if c.board.after_note else ""
    yield Observation(
        f"{c.titles.part(load)} bears {show(most_s, 's')} of being on, and {c.titles.full(pins[0])} stays as "
        f"it was when the program ends or crashes{why}.",
        (load, pins[0]),
        (Number("longest on", most_s, "s"),),
    )


def _is_left(c: Circuit, contact: str) -> bool:
    """A pin of the board that stays as the program left it."""
    owner, name = split(contact)
    return owner == BOARD and name in c.board.pins and c.board.afterwards(c.board.pins[name]) == "stays"

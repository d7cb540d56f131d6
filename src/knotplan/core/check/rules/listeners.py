"""Rules about who listens: what a part's input bears, and whether a pin reads what a part says."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.elements import Talks
from knotplan.catalog.part.needs import Analog
from knotplan.core.check.asked import from_circuit, from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.level_remedies import divided, shifted
from knotplan.core.check.rules.remedies import lower_gate, supply_of
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import leads, of_circuit, of_each
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.circuit.having import having
from knotplan.core.circuit.keys import pins_in_use
from knotplan.core.engine.readings import Reading, pin_volts
from knotplan.core.match.exchanged import exchanged_leads
from knotplan.core.match.levels import bears
from knotplan.core.memory.question import each
from knotplan.core.plan import edits
from knotplan.core.plan.beads import LevelShifter, PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


@rule(
    "lead-over-voltage",
    "More voltage than the part bears",
    "stop",
    "An input that sees more than its maximum leads current into the chip through its protection, and that "
    "damages it, at once or by and by.",
    "catalogue: most voltage of the part's lead, else its own supply and 0.5 V; voltages by nodal analysis",
    each=leads,
)
def lead_over_voltage(facts: Facts, lead: str) -> Iterator[Observation]:
    c = facts.circuit
    tie = next(iter(c.ties.at.get(lead, ())), None)
    most = bears(c, lead) if tie is not None else None
    if tie is None or most is None:
        return
    other = c.ties.other_end(tie, lead)
    worst = max(facts.points.volts.get(c.nets.of(lead), []), key=lambda r: r.max, default=None)
    if worst is None or worst.max <= most or any(lead in pair for pair in exchanged_leads(c)):
        return
    yield Observation(
        f"{c.titles.of(lead)} gets {show(worst.typ, 'V')}, up to {show(worst.max, 'V')} "
        f"({worst.case.words(c)}), from {c.titles.full(other)}; it bears {show(most, 'V')}.",
        (lead, other),
        (Number("usual voltage", worst.typ, "V", most), Number("most voltage", worst.max, "V", most)),
        from_circuit(_lowered, tie),
        None if worst.typ > most else "care",
    )


def _lowered(c: Circuit, tie: Tie) -> Iterator[Remedy]:
    """A level shifter between: a buffer for what only goes to the part, a transistor for lines both ways."""
    own = supply_of(c, split(tie.lead)[0])
    pulls = [(k, b) for k, b in enumerate(tie.beads) if isinstance(b, PullUp)]
    for at, bead in pulls:
        if own:
            lower = PullUp(bead.ohm, bead.tolerance, rail=own)
            yield remedy(f"Lead its pull-up to {c.titles.full(own)}", edits.change_bead, tie.id, at, lower)
    yield from shifted(c, tie)


class _Spoken(Struct, frozen=True):
    """An output of a part that a pin reads."""

    tie: Tie
    part: str
    element: str


@each(pins_in_use)
def _spoken(c: Circuit, pin_id: str) -> tuple[_Spoken, ...]:
    """The tie from an output of a part to a pin that reads it. Where several speak on one line, only one
    does at a time, and the engine has them all."""
    if not c.contacts.pins[pin_id].reads:
        return ()
    talking = tuple(
        _Spoken(tie, split(tie.lead)[0], name)
        for tie in c.ties.holders[pin_id]
        if not isinstance(c.needs.of(tie.lead), Analog)
        for name, e in c.parts[split(tie.lead)[0]].elements.items()
        if isinstance(e, Talks) and e.a == split(tie.lead)[1]
    )
    return talking if len(talking) == 1 else ()


@rule(
    "input-level",
    "Pin does not read the part's level",
    "stop",
    "What lies between an input's thresholds is read as it likes: the program sees no change, or changes "
    "that nobody made.",
    "catalogue: thresholds of the pin's driver, output of the part; voltages by nodal analysis",
    each=of_each(_spoken),
)
def input_level(facts: Facts, spoken: _Spoken) -> Iterator[Observation]:
    c, tie = facts.circuit, spoken.tie
    driver = as_fed(c, tie.to)
    running = [r for r in pin_volts(c, facts.points, tie.to) if r.case.moment == "running"]
    high = min(_says(running, spoken, "high"), key=lambda r: r.min, default=None)
    low = max(_says(running, spoken, "low"), key=lambda r: r.max, default=None)
    if high is None or low is None:
        return
    least, most = driver.input_high_v, driver.input_low_v
    if high.min < least:
        yield _unread(c, tie, "high", high.typ, high.min, least)
    elif low.max > most:
        yield _unread(c, tie, "low", low.typ, low.max, most)


def _says(readings: list[Reading], spoken: _Spoken, state: str) -> list[Reading]:
    return [r for r in readings if r.case.contact(spoken.part, spoken.element) == state]


def _unread(c: Circuit, tie: Tie, state: str, usual: float, worst: float, limit: float) -> Observation:
    misses = usual < limit if state == "high" else usual > limit
    return Observation(
        f"{c.titles.full(tie.to)} gets {show(usual, 'V')}, at worst {show(worst, 'V')}, when "
        f"{c.titles.of(tie.lead)} "
        f"is {state}; it reads {state} {'from' if state == 'high' else 'up to'} {show(limit, 'V')}.",
        (tie.lead, tie.to),
        (
            Number(f"usual voltage when {state}", usual, "V", limit, lower=state == "high"),
            Number("at worst", worst, "V", limit, lower=state == "high"),
        ),
        from_circuit(_readable, tie),
        None if misses else "care",
    )


def _readable(c: Circuit, tie: Tie) -> Iterator[Remedy]:
    """Without the beads that eat the level; a level shifter between."""
    dividing = [k for k, b in enumerate(tie.beads) if isinstance(b, SeriesResistor | PullDown)]
    if dividing:
        steps = tuple(Step(edits.remove_bead, (tie.id, k)) for k in reversed(dividing))
        yield Remedy("Take the divider out" if len(dividing) > 1 else "Take the resistor out", steps)
    own, rail = c.supplies.origin(supply_of(c, split(tie.lead)[0])), c.supplies.rail_volts(tie.to)
    if len(dividing) > 1 and own is not None and rail is not None and own.volts.max > rail.min:
        yield divided(c, tie, own.volts.max, rail)
    else:
        yield from shifted(c, tie)


class _Told(Struct, frozen=True):
    """An output of a part that another part listens to, with no pin between."""

    tie: Tie
    speaks: str
    element: str
    hears: str


def _told(c: Circuit) -> Iterator[_Told]:
    """Every tie between two parts of which one speaks and the other listens, whichever it leads from."""
    for part_id in having(c, Talks):
        for element, e in c.parts[part_id].elements.items():
            speaks = f"{part_id}.{e.a}"
            for tie in c.ties.at.get(speaks, ()) if isinstance(e, Talks) else ():
                hears = c.ties.other_end(tie, speaks)
                if tie.to not in c.contacts.pins and c.contacts.lead(tie.to) is not None:
                    yield _Told(tie, speaks, element, hears)


@rule(
    "part-level",
    "Part does not read the other part's level",
    "stop",
    "One part's output drives another part's input, and does not reach what that takes for high or low: the "
    "second part does nothing, or does it always.",
    "catalogue: output of the one part, levels of the other's lead; voltages by nodal analysis",
    each=of_circuit(_told),
)
def part_level(facts: Facts, told: _Told) -> Iterator[Observation]:
    c = facts.circuit
    least, most = c.needs.levels(told.hears)
    heard = facts.points.volts.get(c.nets.of(told.hears), [])
    running = [r for r in heard if r.case.moment == "running"]
    spoken = _Spoken(told.tie, split(told.speaks)[0], told.element)
    high = min(_says(running, spoken, "high"), key=lambda r: r.min, default=None)
    low = max(_says(running, spoken, "low"), key=lambda r: r.max, default=None)
    if least is not None and high is not None and high.min < least:
        yield _unheard(c, told, "high", high.typ, high.min, least)
    elif most is not None and low is not None and low.max > most:
        yield _unheard(c, told, "low", low.typ, low.max, most)


def _unheard(c: Circuit, told: _Told, state: str, usual: float, worst: float, limit: float) -> Observation:
    misses = usual < limit if state == "high" else usual > limit
    return Observation(
        f"{c.titles.of(told.hears)} gets {show(usual, 'V')}, at worst {show(worst, 'V')}, when "
        f"{c.titles.of(told.speaks)} is {state}; it reads {state} {'from' if state == 'high' else 'up to'} "
        f"{show(limit, 'V')}.",
        (told.hears, told.speaks),
        (
            Number(f"usual voltage when {state}", usual, "V", limit, lower=state == "high"),
            Number("at worst", worst, "V", limit, lower=state == "high"),
        ),
        from_facts(_heard, told),
        None if misses else "care",
    )


def _heard(facts: Facts, told: _Told) -> Iterator[Remedy]:
    """A gate that opens lower, or a level shifter between the two parts' supplies."""
    c = facts.circuit
    yield from lower_gate(facts, split(told.hears)[0])
    near, far = (supply_of(c, split(end)[0]) for end in (told.tie.lead, told.tie.to))
    if near and far:
        bead = LevelShifter("buffer", lead_rail=near, pin_rail=far)
        yield remedy("Add a level shifter", edits.put_bead, told.tie.id, bead, "pin")

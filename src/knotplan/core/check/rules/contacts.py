"""Rules about bare contacts: buttons, switches, open-drain outputs."""

from collections.abc import Iterator

from msgspec.structs import replace

from knotplan.catalog.part.elements import Switch
from knotplan.catalog.part.needs import Input
from knotplan.core.check.asked import from_circuit
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_each
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.circuit.having import held_for
from knotplan.core.engine.readings import Reading, pin_volts
from knotplan.core.memory.question import each
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullDown, PullUp, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

USUAL_OHM = 10e3
"""of a pull-up or pull-down of a contact"""


def _pulled(c: Circuit, pin_id: str) -> bool:
    ties = c.ties.holders[pin_id]
    beads = any(isinstance(b, PullUp | PullDown) for t in ties for b in t.beads)
    return beads or bool(c.contacts.pins[pin_id].fitted_pull_ohm) or any(t.pull != "none" for t in ties)


@each(held_for(Input))
def _contacts(c: Circuit, tie_id: str) -> tuple[tuple[str, Tie], ...]:
    """(pin, tie) of a bare contact on a pin."""
    tie = c.ties.held[tie_id]
    need = c.needs.of(tie.lead)
    return ((tie.to, tie),) if isinstance(need, Input) and (need.contact or need.open_drain) else ()


@rule(
    "floating-input",
    "Input left floating",
    "care",
    "While the contact is open nothing holds the pin's level, and a hand nearby is enough to change it.",
    "CMOS inputs draw no current; a level needs a path to a supply",
    each=of_each(_contacts),
)
def floating_input(facts: Facts, bare: tuple[str, Tie]) -> Iterator[Observation]:
    c = facts.circuit
    pin_id, tie = bare
    if not _pulled(c, pin_id):
        yield Observation(
            f"Nothing holds {c.titles.full(tie.to)} while {_lets_go(c, tie)}.",
            (tie.lead, tie.to),
            remedies=from_circuit(_holds, pin_id, tie),
        )


def _lets_go(c: Circuit, tie: Tie) -> str:
    if _drains(c, tie):
        return f"{c.titles.of(tie.lead)} does not pull low"
    return f"{c.placed[split(tie.lead)[0]].name} is open"


def _holds(c: Circuit, pin_id: str, tie: Tie) -> Iterator[Remedy]:
    """The pull away from the level that the closed contact gives."""
    to_ground = _closes_to_ground(c, tie)
    driver = c.hardware.driver(pin_id)
    if to_ground and driver.pull_up_ohm:
        yield remedy("Let the program switch on the pin's pull-up", edits.set_pull, tie.id, "up")
    if not to_ground and driver.pull_down_ohm:
        yield remedy("Let the program switch on the pin's pull-down", edits.set_pull, tie.id, "down")
    rail = c.supplies.rail_contact(pin_id)
    if to_ground and rail:
        yield remedy(
            f"Add a {show(USUAL_OHM, 'Ω')} pull-up", edits.add_bead, tie.id, PullUp(USUAL_OHM, rail=rail)
        )
    elif not to_ground:
        yield remedy(f"Add a {show(USUAL_OHM, 'Ω')} pull-down", edits.add_bead, tie.id, PullDown(USUAL_OHM))


def _closes_to_ground(c: Circuit, tie: Tie) -> bool:
    """What the closed contact joins the lead to: the other end of the switch; an open drain pulls low."""
    part_id, name = split(tie.lead)
    part = c.parts[part_id]
    if _drains(c, tie):
        return True
    ends = [{e.a, e.b} for e in part.elements.values() if isinstance(e, Switch) and name in (e.a, e.b)]
    others = {n for pair in ends for n in pair if n != name} or set(part.leads) - {name}
    return not any(c.supplies.origin(f"{part_id}.{n}") for n in others if n in part.leads)


@rule(
    "contact-unread",
    "Contact makes no difference",
    "stop",
    "Open and closed have to lie on the two sides of the input's thresholds, or the program sees no change.",
    "catalogue: thresholds of the pin's driver; voltages by nodal analysis",
    each=of_each(_contacts),
)
def contact_unread(facts: Facts, bare: tuple[str, Tie]) -> Iterator[Observation]:
    c = facts.circuit
    pin_id, tie = bare
    if _drains(c, tie):
        yield from _never_high(c, pin_id, tie)
        return
    part_id = split(tie.lead)[0]
    loose = any(f"{part_id}.{n}" not in c.ties.at for n in c.parts[part_id].leads)
    if loose or not _pulled(c, pin_id) or len(c.ties.holders[pin_id]) > 1:
        return
    driver = as_fed(c, pin_id)
    running = [r for r in pin_volts(c, facts.points, pin_id) if r.case.moment == "running"]
    levels = {_stands(r, part_id): r for r in running}
    if not {"open", "closed"} <= levels.keys():
        return
    low, high = sorted((levels["open"], levels["closed"]), key=lambda r: r.typ)
    if low.max > driver.input_low_v or high.min < driver.input_high_v:
        yield Observation(
            f"{c.titles.full(tie.to)} sees {show(levels['open'].typ, 'V')} while "
            f"{c.placed[part_id].name} is open and {show(levels['closed'].typ, 'V')} while it is closed; "
            f"low is below {show(driver.input_low_v, 'V')}, high above {show(driver.input_high_v, 'V')}.",
            (tie.lead, tie.to),
            (
                Number("lower voltage", low.max, "V", driver.input_low_v),
                Number("higher voltage", high.min, "V", driver.input_high_v, lower=True),
            ),
            from_circuit(_turned_round, tie),
            None if low.typ > driver.input_low_v or high.typ < driver.input_high_v else "care",
        )


def _drains(c: Circuit, tie: Tie) -> bool:
    need = c.needs.of(tie.lead)
    return isinstance(need, Input) and need.open_drain


def _never_high(c: Circuit, pin_id: str, tie: Tie) -> Iterator[Observation]:
    """An open drain only pulls low: with a pull-down the line is low either way."""
    ties = c.ties.holders[pin_id]
    up = any(t.pull == "up" or any(isinstance(b, PullUp) for b in t.beads) for t in ties)
    if up or c.contacts.pins[pin_id].fitted_pull_ohm or not _pulled(c, pin_id):
        return
    yield Observation(
        f"{c.titles.of(tie.lead)} only pulls low, and so does the pull-down at {c.titles.full(pin_id)}: the "
        "line never gets high.",
        (tie.lead, tie.to),
        remedies=from_circuit(_pulled_up, pin_id, tie),
    )


def _pulled_up(c: Circuit, pin_id: str, tie: Tie) -> Iterator[Remedy]:
    """Up instead of down, by a resistor or by the program."""
    downs = [(t, k) for t in c.ties.holders[pin_id] for k, b in enumerate(t.beads) if isinstance(b, PullDown)]
    out = tuple(Step(edits.remove_bead, (t.id, k)) for t, k in reversed(downs))
    none = tuple(Step(edits.set_pull, (t.id, "none")) for t in c.ties.holders[pin_id] if t.pull == "down")
    rail = c.supplies.rail_contact(pin_id)
    if c.hardware.driver(pin_id).pull_up_ohm:
        step = Step(edits.set_pull, (tie.id, "up"))
        yield Remedy("Let the program switch on the pin's pull-up instead", (*out, *none, step))
    if rail:
        bead = PullUp(USUAL_OHM, rail=rail)
        yield Remedy(
            f"Take a {show(USUAL_OHM, 'Ω')} pull-up instead",
            (*out, *none, Step(edits.add_bead, (tie.id, bead))),
        )


def _stands(reading: Reading, part_id: str) -> str:
    """How the part's contact stands."""
    return next((state for key, state in reading.case.contacts if key.part == part_id), "")


def _turned_round(c: Circuit, tie: Tie) -> Iterator[Remedy]:
    """The pull on the other side, or a stronger one."""
    rail = c.supplies.rail_contact(tie.to)
    for k, bead in enumerate(tie.beads):
        if isinstance(bead, PullUp | PullDown) and bead.ohm > USUAL_OHM:
            usual = replace(bead, ohm=USUAL_OHM)
            yield remedy(f"Take {show(USUAL_OHM, 'Ω')} for it", edits.change_bead, tie.id, k, usual)
        if isinstance(bead, SeriesResistor):
            yield remedy("Take its series resistor out", edits.remove_bead, tie.id, k)
        if isinstance(bead, PullDown) and rail:
            up = PullUp(bead.ohm, bead.tolerance, rail)
            yield remedy(f"Lead its resistor to {c.titles.full(rail)}", edits.change_bead, tie.id, k, up)
        elif isinstance(bead, PullUp):
            down = PullDown(bead.ohm, bead.tolerance)
            yield remedy("Lead its resistor to ground", edits.change_bead, tie.id, k, down)
    if tie.pull == "down":
        yield remedy("Use the pin's pull-up instead", edits.set_pull, tie.id, "up")
    elif tie.pull == "up":
        yield remedy("Use the pin's pull-down instead", edits.set_pull, tie.id, "down")
